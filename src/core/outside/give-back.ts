import { copiesOf } from '../copies/area';
import { replicaOf, logOwner } from '../copies/replica';
import { changed, compacted, created, deleted, type Effect } from '../estate/effects';
import { rowOf, type OutsideLun, type Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { takenLuns } from '../attach/luns';
import { showsNow } from '../moving/rounds';
import { draftArray } from '../operation/draft';
import { inquire, type Inquiry } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { planned, refused, type OperationType, type PlanContext } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { brought } from '../replicate/brought';
import { someOf } from '../units/counted';
import { SECOND, type Milliseconds } from '../units/duration';
import { purged } from '../volume/delete';
import {
  askLun,
  askReadable,
  backOf,
  lunChoices,
  noted,
  outsideOf,
  ownArrayChoices,
  refusalOn,
  refuseMounted,
  stateWords,
} from './ask';
import { draftLuns, eachLun, lunsForm, lunsSchema, type LunsParams } from './luns-form';
import { carriedOver, takenOut } from './stand';
import { frontOf, outsideState } from './state';

/** What keeps a LUN from being given back: hosts on it, what rests on its front, an outside array that does not answer. */
function askBack(view: EstateView, asks: Inquiry, row: OutsideLun): void {
  const front = frontOf(view, row);
  askReadable(view, asks, row);
  if (!front) return;
  const array = view.table('array').get(row.array)!.name;
  for (const device of view.table('hostDevice').by('volume', front.id))
    if (device.mountPoint !== null) refuseMounted(view, asks, row, device, 'in-use');
  const { state, move } = outsideState(view, row);
  if (state === 'copying')
    asks.refuse(
      refusalOn(row, 'volume-moving', `${front.name} is on its way into a pool.`, 'Abort that move first.', {
        subject: subjectOf('move', move!),
        offer: nextStep(`Abort the move of ${move!.name}`, 'move.abort', { moves: [move!.name] }),
      }),
    );
  const copies = copiesOf(view, front.id);
  if (copies.length > 0)
    asks.refuse(
      refusalOn(
        row,
        'outside-copies-go',
        `${copies.length === 1 ? 'A copy' : `${copies.length} copies`} in time of ${front.name} would go with it.`,
        'Delete the copies first, or keep the volume here.',
        {
          subject: subjectOf('volume', front),
          offer: nextStep('Delete the copies', 'snapshot.delete', {
            array,
            volume: front.name,
            copies: copies.map(({ name }) => name),
          }),
        },
      ),
    );
  const replica = replicaOf(view, front.id)?.row ?? logOwner(view, front.id);
  if (replica)
    asks.refuse(
      refusalOn(
        row,
        'volume-replicated',
        `${front.name} is a side of replication ${replica.name}.`,
        `Remove ${replica.name} first.`,
        {
          subject: subjectOf('replication', replica),
          offer: nextStep(`Remove ${replica.name}`, 'replication.remove', { replication: replica.name }),
        },
      ),
    );
  const clones = view.table('volume').by('origin', front.id);
  if (clones.length > 0)
    asks.refuse(
      refusalOn(
        row,
        'clone-shares',
        `${someOf(clones.map(({ name }) => name))} share the data of ${front.name}.`,
        'Let them hold their own data first.',
      ),
    );
}

/** What the volume in front shows goes to the LUN behind it, to which all of it was written as well: only the rows follow. */
export function broughtUpToDate(
  view: EstateView,
  back: Volume,
  front: Volume,
  now: Milliseconds,
  newId: PlanContext['newId'],
): Effect[] {
  const { effects } = brought(view, back, showsNow(view, front), { activity: null, from: null, at: now }, newId);
  const overlay = new Overlay(view);
  overlay.apply(effects);
  const present = overlay.table('volume').get(back.id)!;
  return compacted([...effects, changed('volume', present, { ...carriedOver(front), image: present.image })]);
}

/** The front goes with all that is its own, and the LUN no longer stands here. */
function dismantled(view: EstateView, row: OutsideLun, newId: PlanContext['newId']): Effect[] {
  const overlay = new Overlay(view);
  const effects: Effect[] = [];
  const put = (made: readonly Effect[]) => {
    overlay.apply(made);
    effects.push(...made);
  };
  const front = frontOf(view, row)!;
  const { move } = outsideState(view, row);
  const twin = move?.twin === front.id || !move?.twin ? undefined : view.table('volume').get(move.twin);
  put([...view.table('mapping').by('volume', front.id)].map((mapping) => deleted('mapping', mapping)));
  put([...view.table('hostDevice').by('volume', front.id)].map((device) => deleted('hostDevice', device)));
  put([changed('outsideLun', row, { front: null })]);
  if (move && twin) {
    put([changed('move', move, { twin: null })]);
    put(purged(overlay, twin, newId));
  }
  put(purged(overlay, overlay.table('volume').get(front.id)!, newId));
  put(takenOut(overlay, row));
  return effects;
}

/** Hosts that were shown the LUN before, and still stand, are shown it again; by the same number where it is free. */
function mappedAgain(view: EstateView, row: OutsideLun, newId: PlanContext['newId']): Effect[] {
  const array = outsideOf(view, row);
  return row.formerly.flatMap(({ host, lun, access }) => {
    const known = view.table('host').get(host);
    if (!known) return [];
    const taken = takenLuns(view, known.id, array.id, null);
    let free = lun;
    while (taken.has(free)) free += 1;
    return [
      created(
        'mapping',
        rowOf('mapping', { id: newId('mapping'), host, volume: row.volume, lun: free, access, ports: null }),
      ),
    ];
  });
}

export const outsideGiveBack: OperationType<LunsParams> = {
  kind: 'outside.give-back',
  verb: 'Give outside LUNs back',
  summary:
    'The outside array shows its LUNs to their hosts again. All that was written through this array is on them: nothing is lost.',
  schema: lunsSchema,
  form: { columns: [2, 3, 4, 7], fields: lunsForm },
  title: (p) => `Give ${someOf(p.luns)} back`,
  units: eachLun,
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const row =
      array &&
      askLun(
        view,
        asks,
        array,
        p.luns[0]!,
        ['fenced', 'fronted'],
        'Only what was taken over with its data can be given back.',
      );
    if (row) askBack(view, asks, row);
    if (asks.refusals.length > 0 || !array || !row) return refused(asks.refusals);
    const front = frontOf(view, row);
    const overlay = new Overlay(view);
    const effects: Effect[] = [];
    const put = (made: readonly Effect[]) => {
      overlay.apply(made);
      effects.push(...made);
    };
    if (front) {
      put(broughtUpToDate(overlay, backOf(view, row), front, context.now, context.newId));
      put(dismantled(overlay, row, context.newId));
    }
    put(mappedAgain(overlay, row, context.newId));
    const present = overlay.table('outsideLun').get(row.id)!;
    put([
      changed('outsideLun', present, {
        state: 'found',
        drive: null,
        front: null,
        formerly: [],
        inspectedAt: null,
        log: noted(present, context.now, 'given back'),
      }),
    ]);
    const hosts = row.formerly.flatMap(({ host }) => view.table('host').get(host)?.name ?? []);
    const moved = outsideState(view, row).state === 'moved';
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Give ${row.name} back to ${outsideOf(view, row).name}${hosts.length > 0 ? `: ${someOf(hosts)} ${hosts.length === 1 ? 'sees' : 'see'} it there again` : ''}`,
      takes: 5 * SECOND,
      effects: compacted(effects),
      notes: [
        ...hosts.map((name) => `${name} looks again before it finds it.`),
        ...(front && moved ? [`What was moved in of ${front.name} goes; all of it is on ${row.name} as well.`] : []),
      ],
      next: hosts.map((host) => nextStep(`Let ${host} look again`, 'host.rescan', { host })),
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const rows = draftLuns(view, draft);
    return {
      fields: {
        array: { choices: ownArrayChoices(view) },
        luns: {
          choices: lunChoices(view, array, (row) =>
            row.state === 'fenced' || row.state === 'fronted' ? null : stateWords[row.state],
          ),
          says:
            rows.length > 0
              ? rows
                  .map((row) => {
                    const front = frontOf(view, row);
                    return front ? `${front.name} goes; its data is on ${row.name}.` : `${row.name} is shown again.`;
                  })
                  .join(' ')
              : 'What was taken over with its data.',
        },
      },
    };
  },
};
