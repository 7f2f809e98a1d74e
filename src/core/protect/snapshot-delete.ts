import { z } from 'zod';
import { dropped, freedByDropping } from '../copies/drop';
import type { EstateView } from '../estate/estate';
import { arrayOf, volumeOf } from '../estate/relations';
import { several } from '../operation/form';
import { inquire, type Inquiry } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { formatBytes } from '../units/bytes';
import { counted, someOf } from '../units/counted';
import { timeText } from '../units/date';
import { SECOND, type Milliseconds } from '../units/duration';
import { barWords, draftPoints, pointChoices } from './points-field';
import { clonesOf, pointBarred } from './prune';
import { askPoints, askProtected, namedWords, protectedFields, type Protected, type RestorePoint } from './subject';
import { namedFields, namedParams } from './named';
import { lockedUntil } from '../copies/locked';

const schema = z.object({
  ...namedParams,
  copies: z.array(z.string()).min(1, 'name at least one copy'),
});
type Params = z.output<typeof schema>;

/** Refuses what is locked or held. */
export function askFree(
  view: EstateView,
  asks: Inquiry,
  subject: Protected,
  points: readonly RestorePoint[],
  now: Milliseconds,
): void {
  for (const point of points) {
    if (!pointBarred(view, point, now)) continue;
    const [copy] = point.copies;
    const until = lockedUntil(view, point.copies, now);
    const locked = until !== null;
    const clones = point.copies.flatMap((one) => clonesOf(view, one)).map(({ name }) => name);
    asks.refuse({
      code: locked ? 'snapshot-locked' : 'snapshot-held',
      field: 'copies',
      subject: subjectOf('snapshot', copy!),
      message: locked
        ? `${point.name} of ${subject.name} is immutable until ${timeText(until)} UTC; nobody can delete it earlier.`
        : `${point.name} of ${subject.name} is in use: ${clones.length > 0 ? `${someOf(clones)} rest${clones.length === 1 ? 's' : ''} on it` : `it is held, ${copy!.hold}`}.`,
      mend: locked
        ? 'Wait until then.'
        : clones.length > 0
          ? 'Hide or retire what rests on it, or let it hold all its data itself.'
          : 'Release it first.',
    });
  }
}

const freedWords = (view: EstateView, points: readonly RestorePoint[]): string =>
  formatBytes(
    freedByDropping(
      view,
      points.flatMap(({ copies }) => copies),
    ),
    'used',
  );

export const snapshotDelete: OperationType<Params> = {
  kind: 'snapshot.delete',
  verb: 'Delete copies',
  summary: 'Deletes copies of a volume or a workload; what nobody else shows returns to the pool.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: {
      ...namedFields,
      copies: several('Copies'),
    },
  },
  title: (p) => `Delete ${someOf(p.copies)} of ${namedWords(p)}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const subject = askProtected(view, asks, p);
    const points = subject ? askPoints(view, asks, subject, p.copies) : [];
    if (subject) askFree(view, asks, subject, points, context.now);
    if (asks.refusals.length > 0 || !subject) return refused(asks.refusals);
    const copies = points.flatMap((point) => point.copies);
    const { effects, freed } = dropped(view, copies, context.newId);
    const array = arrayOf(view, volumeOf(view, copies[0]!));
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Delete ${counted(points.length, 'copy', 'copies')} of ${subject.name}: ${formatBytes(freed, 'used')} come back`,
      takes: 2 * SECOND,
      effects,
      destroys: `what ${subject.name} was at ${someOf(points.map((point) => `${timeText(point.at)} UTC`))}`,
    });
  },
  foretell(view, draft, context) {
    const fields: Foretold['fields'] = protectedFields(view, draft);
    const points = draftPoints(view, draft);
    const alone = points.reduce((sum, point) => sum + freedByDropping(view, point.copies), 0);
    fields.copies = {
      choices: pointChoices(view, draft, context.now, (point) => barWords(view, point, context.now)),
      says:
        points.length === 0
          ? 'What each alone keeps comes back; what others show too stays.'
          : points.length === 1
            ? `${freedWords(view, points)} come back.`
            : `${freedWords(view, points)} come back together; each alone would give ${formatBytes(alone, 'used')} in all.`,
    };
    return { fields };
  },
};
