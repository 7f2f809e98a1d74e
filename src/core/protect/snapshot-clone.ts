import { z } from 'zod';
import type { Effect } from '../estate/effects';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayOf, poolOf, volumeOf } from '../estate/relations';
import { nameSeries } from '../naming/names';
import { draftText } from '../operation/draft';
import { folded, pick, such } from '../operation/form';
import { inquire } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { planned, refused, type Foretold, type OperationType, type PlanContext } from '../operation/operation';
import { flag } from '../operation/params';
import { subjectOf } from '../operation/refusal';
import { availableExtents } from '../pool/usage';
import { formatBytes } from '../units/bytes';
import { counted, someOf } from '../units/counted';
import { SECOND } from '../units/duration';
import { MOST_AT_ONCE } from '../volume/create-foretell';
import { subscriptionRefusal } from '../volume/create';
import { cloneRow } from './clone-rows';
import { draftPoints, pointChoices } from './points-field';
import { askPoints, askProtected, namedWords, protectedFields, type Protected, type RestorePoint } from './subject';
import { makeCopies } from './make';
import { freeCopyName, nameByPattern } from './names';
import { namedFields, namedParams } from './named';

/** Of what stands there now: a copy is cut first, and is the base of all of them. */
const NOW = 'now';

const schema = z.object({
  ...namedParams,
  copy: z.string().default(NOW).describe('The copy of which volumes are made; without one it is cut first'),
  name: z
    .string()
    .optional()
    .describe('Of a workload put before the names of its volumes; # marks where the number goes'),
  count: z.coerce
    .number()
    .int()
    .min(1, 'make at least 1')
    .max(MOST_AT_ONCE, `make at most ${MOST_AT_ONCE} at once`)
    .default(1),
  shown: flag.default(false).describe('Only to be shown to a host for a while'),
  notes: z.string().max(1000).optional(),
});
type Params = z.output<typeof schema>;

/** Names of the volumes that are made of each copy of a point. */
export function cloneNames(
  view: EstateView,
  point: RestorePoint,
  name: string | undefined,
  count: number,
): Map<string, string[]> {
  const alone = point.copies.length === 1;
  return new Map(
    point.copies.map((copy) => {
      const own = volumeOf(view, copy).name;
      const stem = name ? (alone ? name : `${name}-${own}`) : `${own}-of-${point.name}`.slice(0, 58);
      return [copy.id, nameSeries(stem, count)];
    }),
  );
}

/** A copy of this moment, held by what is made of it. */
const baseOf = (view: EstateView, subject: Protected, { now, newId }: PlanContext) =>
  makeCopies(
    view,
    subject,
    {
      name: freeCopyName(view, subject.volumes, nameByPattern('base-{date}-{time}', now)),
      at: now,
      notes: 'a base of volumes',
      quiesce: false,
      onTimeout: 'crash',
    },
    newId,
  );

export const snapshotClone: OperationType<Params> = {
  kind: 'snapshot.clone',
  verb: 'Make volumes of a copy',
  summary:
    'Thin volumes that show what a copy shows, each with an identity of its own; they take no room until they are written to.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: {
      ...namedFields,
      copy: pick('Copy'),
      name: 'Name',
      count: 'How many',
      shown: folded({ label: 'Only to be shown', control: 'switch' }),
      notes: folded(such('Notes', 'for the test of the summer fares')),
    },
  },
  title: (p) => `Make ${p.count === 1 ? 'a volume' : `${p.count} volumes`} of ${p.copy} of ${namedWords(p)}`,
  units: (p) => [p],
  plan(before, p, context) {
    const asks = inquire(before);
    const subject = askProtected(before, asks, p);
    if (!subject) return refused(asks.refusals);
    const view = new Overlay(before);
    const base = p.copy === NOW ? baseOf(before, subject, context) : null;
    if (base && !base.ok) return refused(base.refusals);
    if (base) view.apply(base.effects);
    const [point] = askPoints(view, asks, subject, [base ? base.copies[0]!.cut : p.copy], 'copy');
    if (!point) return refused(asks.refusals);
    const names = cloneNames(view, point, p.name, p.count);
    const overlay = new Overlay(view);
    const effects: Effect[] = base ? [...base.effects] : [];
    const made: string[] = [];
    for (const copy of point.copies) {
      const source = volumeOf(view, copy);
      const array = arrayOf(view, source);
      const pool = poolOf(view, source);
      if (availableExtents(overlay, pool) < 1)
        asks.refuse({
          code: 'pool-full',
          field: 'copy',
          subject: subjectOf('pool', pool),
          message: `${pool.name} has no room left in which a clone could be written to.`,
          mend: `Extend ${pool.name} first.`,
          offer: nextStep(`Extend ${pool.name}`, 'pool.extend', { array: array.name, name: pool.name }),
        });
      for (const text of names.get(copy.id)!) {
        const name = inquire(overlay).freeName('volume', text, array, 'name');
        if (name === undefined) {
          asks.freeName('volume', text, array, 'name');
          if (asks.refusals.length === 0)
            asks.refuse({
              code: 'name-taken',
              field: 'name',
              subject: { kind: 'volume', name: text },
              message: `Two of the volumes would be called ${text}.`,
              mend: 'Choose another name.',
            });
          continue;
        }
        const limit = subscriptionRefusal(overlay, pool, copy.size);
        if (limit) asks.refuse({ ...limit, field: 'count' });
        const clone = cloneRow(
          overlay,
          copy,
          { name, now: context.now, shown: p.shown, notes: p.notes ?? '' },
          context.newId,
        );
        overlay.apply(clone.effects);
        effects.push(...clone.effects);
        made.push(name);
      }
    }
    if (asks.refusals.length > 0) return refused(asks.refusals.slice(0, 4));
    const array = arrayOf(view, subject.volumes[0]!);
    const bytes = point.copies.reduce((sum, copy) => sum + copy.size, 0) * p.count;
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Make ${someOf(made)} of ${point.name}: ${formatBytes(bytes)} promised, nothing taken yet`,
      takes: 2 * SECOND,
      effects,
      notes: [`${point.name} stays as long as ${made.length === 1 ? 'it rests' : 'they rest'} on it.`],
    });
  },
  foretell(view, draft, context) {
    const fields: Foretold['fields'] = protectedFields(view, draft);
    const [point] = draftPoints(view, draft);
    fields.copy = {
      choices: [{ value: NOW, label: 'As it is now: a copy is cut first' }, ...pointChoices(view, draft, context.now)],
      suggested: NOW,
      says: point
        ? `${counted(point.copies.length, 'volume')}, ${formatBytes(point.copies.reduce((sum, copy) => sum + copy.size, 0))} in all, with new identities.`
        : '',
    };
    const names = point
      ? [
          ...cloneNames(
            view,
            point,
            draftText(draft, 'name') || undefined,
            Number(draftText(draft, 'count') || 1),
          ).values(),
        ].flat()
      : [];
    fields.name = {
      says: names.length > 0 ? `Called ${someOf(names)}.` : 'Without it the name of the volume and of the copy.',
    };
    fields.count = { suggested: '1', says: 'Each takes only what is written to it.' };
    fields.shown = { says: 'It goes again when it is hidden.' };
    fields.notes = { says: 'What it is for.' };
    return { fields };
  },
};
