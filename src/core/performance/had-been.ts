import { Book } from './book';
import { Course, type CourseState } from './course';
import { slotOf } from './profile';
import { mergedRows, type LoadRow } from './row';
import type { LoadModel, ModelLimit } from './shape';
import type { Milliseconds } from '../units/duration';

/** From a moment on this model held, and this waited. */
export interface Basis {
  at: Milliseconds;
  model: LoadModel;
  state: CourseState;
}

/** A limit as it might have been on one volume; without figures none. */
export interface Variant {
  label: string;
  iops: number | null;
  burst: number;
}

/** A span as it would have been: no more rows than a chart takes, and what only single slots show of the volume in question. */
export interface HadBeen {
  rows: Map<string, LoadRow[]>;
  whole: Map<string, LoadRow>;
  /** Slots in which its limit held it back. */
  heldSlots: number;
  /** Seconds by which its work comes late at the most. */
  lateS: number;
}

/** The model with a limit on a volume in the place of another; by `null` the other is only left out. */
export function otherwise(
  model: LoadModel,
  volume: string,
  replaces: string | null,
  { iops, burst }: Variant,
): LoadModel {
  const index = model.volumes.findIndex(({ id }) => id === volume);
  const others = model.limits.flatMap((limit): ModelLimit[] => {
    if (limit.id !== replaces) return [limit];
    const members = limit.members.filter((one) => one.volume !== index);
    return members.length > 0 ? [{ ...limit, members }] : [];
  });
  if (iops === null || index < 0) return { ...model, limits: others };
  return {
    ...model,
    limits: [
      ...others,
      {
        id: 'in draft',
        name: 'in draft',
        shared: false,
        weight: 1,
        burst,
        fromHour: null,
        untilHour: null,
        together: null,
        members: [{ volume: index, iops, floor: null }],
      },
    ],
  };
}

/** The rows of a span as they would have been with such a limit: the same model, the same bursts, the same hours. */
export function hadBeen(
  basis: readonly Basis[],
  {
    from,
    to,
    volume,
    replaces,
    keep,
    points,
  }: {
    from: Milliseconds;
    to: Milliseconds;
    volume: string;
    replaces: string | null;
    keep: (id: string) => boolean;
    points: number;
  },
  variant: Variant | null,
): HadBeen {
  const [first, last] = [slotOf(from), slotOf(to)];
  const slots = Math.max(1, Math.ceil((last - first) / points));
  const book = new Book(first, slots, Math.max(1, Math.ceil((last - first) / slots)), keep);
  let state: CourseState | null = null;
  let [heldSlots, lateS] = [0, 0];
  basis.forEach(({ at, model, state: marked }, k) => {
    const then = variant ? otherwise(model, volume, replaces, variant) : model;
    const index = then.volumes.findIndex(({ id }) => id === volume);
    // What waits goes on from one mark to the next as it would have, not as it did.
    const course: Course = new Course(then, slotOf(at), state ?? marked);
    book.by(then);
    course.run(k + 1 < basis.length ? slotOf(basis[k + 1]!.at) : last, {
      volume(v, start, end, figures) {
        book.volume(v, start, end, figures);
        if (v !== index || end <= first) return;
        if (figures.limited) heldSlots += end - Math.max(start, first);
        if (figures.served > 0) lateS = Math.max(lateS, figures.queue / figures.served);
      },
      resource: (...told) => book.resource(...told),
    });
    state = course.state();
  });
  const rows = new Map([...book.all()].map(({ subject, parts }) => [subject, parts]));
  return { rows, whole: new Map([...rows].map(([id, parts]) => [id, mergedRows(parts)])), heldSlots, lateS };
}
