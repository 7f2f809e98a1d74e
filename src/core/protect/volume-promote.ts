import { z } from 'zod';
import { bytesIn } from '../estate/runs';
import { mappedRuns } from '../content/weave';
import { bytesTogether, familyCopies, familyOf, fitCopies, rootOf } from '../copies/area';
import { handedOver } from '../copies/hand-over';
import { changed, compacted, type Effect } from '../estate/effects';
import type { Snapshot, Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { poolOf } from '../estate/relations';
import { pick, the } from '../operation/form';
import { draftText } from '../operation/draft';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { planned, refused, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { availableExtents } from '../pool/usage';
import { counted, someOf } from '../units/counted';
import { SECOND, type Milliseconds } from '../units/duration';
import { askVolume, volumeFields } from '../volume/ask';
import { giveNumbers, numbersOf } from '../volume/grow';
import { isLocked } from '../copies/locked';

const schema = z.object({ array: z.string(), volume: z.string().describe('The clone that is to own what it shares') });
type Params = z.output<typeof schema>;

/** The copies of a volume on which one of its clones rests, the youngest first: they become the clone's. */
export function copiesUnder(view: EstateView, clone: Volume): Snapshot[] {
  const root = rootOf(view, clone);
  const found: Snapshot[] = [];
  let at = clone.base;
  while (at !== null) {
    const copy = view.table('snapshot').get(at);
    if (!copy) break;
    if (copy.volume === root.id) found.push(copy);
    at = copy.parent;
  }
  return found;
}

/** Refuses what would break a promise that was made of the volume's copies, or could not be told apart afterwards. */
function askPromotable(view: EstateView, asks: Inquiry, clone: Volume, now: Milliseconds, array: string): void {
  const root = rootOf(view, clone);
  const under = copiesUnder(view, clone);
  const no = (code: string, message: string, mend: string, offer?: ReturnType<typeof nextStep>) =>
    asks.refuse({
      code,
      field: 'volume',
      subject: subjectOf('volume', clone),
      message,
      mend,
      ...(offer ? { offer } : {}),
    });
  const bound = under.find((copy) => isLocked(view, copy, now) || copy.hold !== '');
  if (bound)
    no(
      bound.hold === '' ? 'snapshot-locked' : 'snapshot-held',
      `${bound.name} of ${root.name}, on which ${clone.name} rests, is ${bound.hold === '' ? 'locked' : `held, ${bound.hold}`}: it stays with ${root.name}.`,
      'Let the clone hold its own data instead.',
      nextStep(`Let ${clone.name} hold its own data`, 'volume.detach', { array, volumes: [clone.name] }),
    );
  if (root.provisioning === 'thick')
    no(
      'origin-thick',
      `${root.name} is thick; it could not rest on ${clone.name}.`,
      `Make ${root.name} thin first.`,
      nextStep(`Make ${root.name} thin`, 'volume.convert', { array, volumes: [root.name], to: 'thin' }),
    );
  if (root.reducedTo > 0)
    no(
      'origin-reduced',
      `${root.name} lies in the reduced store of its pool; it could not rest on ${clone.name}.`,
      'Let the clone hold its own data instead.',
      nextStep(`Let ${clone.name} hold its own data`, 'volume.detach', { array, volumes: [clone.name] }),
    );
  const names = new Set(
    view
      .table('snapshot')
      .by('volume', clone.id)
      .map((copy) => copy.name.toLowerCase()),
  );
  const twice = under.find((copy) => names.has(copy.name.toLowerCase()));
  if (twice)
    no(
      'name-taken',
      `${clone.name} has a copy named ${twice.name} of its own.`,
      `Delete that copy of ${clone.name} first.`,
      nextStep('Delete it', 'snapshot.delete', { array, volume: clone.name, copies: [twice.name] }),
    );
}

export const volumePromote: OperationType<Params> = {
  kind: 'volume.promote',
  verb: 'Let a clone take the place of its origin',
  summary:
    'The clone owns what both share, and the volume it was made of rests on it from then on. Nothing is copied, and hosts notice nothing.',
  schema,
  form: { columns: [3, 4, 7], fields: { array: the.array, volume: pick('Clone') } },
  title: (p) => `Let ${p.volume} on ${p.array} take the place of its origin`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const clone = askVolume(asks, array, p.volume, 'volume');
    if (asks.refusals.length > 0 || !array || !clone) return refused(asks.refusals);
    if (clone.origin === null)
      return refused([
        {
          code: 'no-clone',
          field: 'volume',
          subject: subjectOf('volume', clone),
          message: `${clone.name} holds its own data already.`,
          mend: 'Name a clone.',
        },
      ]);
    if (clone.view)
      return refused([
        {
          code: 'clone-shown',
          field: 'volume',
          subject: subjectOf('volume', clone),
          message: `${clone.name} is only shown for a while, and goes when it is hidden.`,
          mend: 'Make a volume of the copy first.',
        },
      ]);
    askPromotable(view, asks, clone, context.now, array.name);
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const root = rootOf(view, clone);
    const pool = poolOf(view, clone);
    const under = copiesUnder(view, clone);
    const overlay = new Overlay(view);
    const effects: Effect[] = [];
    const put = (made: readonly Effect[]) => {
      overlay.apply(made);
      effects.push(...made);
    };
    const numbers = numbersOf(mappedRuns(clone), pool.extentSize);
    const { effects: handed, missing } = handedOver(view, root, clone, numbers, context.newId);
    put(handed);
    put(
      under.map((copy) =>
        changed('snapshot', copy, { volume: clone.id, workload: null, plan: null, schedules: [], keepUntil: null }),
      ),
    );
    put(
      familyOf(view, root).map((one) =>
        changed(
          'volume',
          one,
          one.id === clone.id ? { origin: null, parts: root.parts } : { origin: clone.id, copiesBytes: 0 },
        ),
      ),
    );
    const owner = overlay.table('volume').get(clone.id)!;
    put([changed('volume', owner, { copiesBytes: bytesTogether(familyCopies(overlay, owner), owner.parts) })]);
    const lacking = bytesIn(missing) > availableExtents(overlay, pool);
    if (!lacking) put(giveNumbers(overlay, owner, pool, missing, context.newId).effects);
    const fitted = fitCopies(overlay, clone.id, context.newId);
    put(fitted.effects);
    if (fitted.short > 0 || lacking)
      return refused([
        {
          code: 'pool-full',
          field: 'volume',
          subject: subjectOf('pool', pool),
          message: `${pool.name} has no room for what ${clone.name} would hold apart.`,
          mend: `Extend ${pool.name} first.`,
          offer: nextStep(`Extend ${pool.name}`, 'pool.extend', { array: array.name, name: pool.name }),
        },
      ]);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `${clone.name} takes the place of ${root.name}, which rests on it from now on`,
      takes: 2 * SECOND,
      effects: compacted(effects),
      notes:
        under.length === 0
          ? []
          : [
              `${counted(under.length, 'copy', 'copies')} of ${root.name} become${under.length === 1 ? 's' : ''} ${under.length === 1 ? 'one' : 'those'} of ${clone.name}: ${someOf(under.map(({ name }) => name))}. No plan deletes ${under.length === 1 ? 'it' : 'them'} any more.`,
            ],
    });
  },
  foretell(view, draft) {
    const { fields, array } = volumeFields(view, draft, () => undefined);
    const clone = array && lookUp(view, 'volume', draftText(draft, 'volume'), array.id);
    return {
      fields: {
        array: fields.array!,
        volume: {
          choices: array
            ? view
                .table('volume')
                .by('array', array.id)
                .filter((volume) => volume.origin !== null && !volume.view && volume.deletedAt === null)
                .map((volume) => ({ value: volume.name, label: `${volume.name}, of ${rootOf(view, volume).name}` }))
            : [],
          says:
            clone && clone.origin !== null
              ? `${rootOf(view, clone).name} rests on it then, and can be retired without it.`
              : '',
        },
      },
    };
  },
};
