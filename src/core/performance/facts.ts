import type { EstateView } from '../estate/estate';
import { DAY, type Milliseconds } from '../units/duration';
import { hourBook } from './book';
import { SLOTS_AN_HOUR } from './choices';
import { Course } from './course';
import { loadModel } from './model';
import { slotOf } from './profile';
import { mergedRows, type LoadRow } from './row';
import type { LoadModel } from './shape';

/** What a neighbour adds to a volume that waited far longer than usual. */
export interface Disturbed {
  x: string;
  y: string;
  at: Milliseconds;
  addedS: number;
  share: number;
  /** What y waits on the mean of the day, and the limit on x that would keep it near that; null where none does. */
  usualS: number;
  proposed: number | null;
}

/** What was measured, for checks: the whole hours of the last day by volume and resource, peaks of 30 days, and who disturbed whom. */
export interface LoadFacts {
  hours: ReadonlyMap<string, readonly LoadRow[]>;
  peaks: ReadonlyMap<string, number>;
  disturbed: readonly Disturbed[];
  /** Volumes that were asked for something within sixty days. */
  asked: ReadonlySet<string>;
  model: LoadModel;
}

export const noFacts: LoadFacts = {
  hours: new Map(),
  peaks: new Map(),
  disturbed: [],
  asked: new Set(),
  model: { resources: [], volumes: [], limits: [], background: [] },
};

/** What would be measured of an estate in the day before a moment, had it stood as it is now. */
export function watchedDay(view: EstateView, now: Milliseconds): LoadFacts {
  const model = loadModel(view);
  const start = Math.floor(slotOf(now - DAY) / SLOTS_AN_HOUR) * SLOTS_AN_HOUR;
  const course = new Course(model, start);
  const hours = new Map<string, LoadRow[]>();
  for (let hour = 0; hour < 24; hour++) {
    const book = hourBook(start + hour * SLOTS_AN_HOUR).by(model);
    course.run(book.end, book);
    for (const { subject, parts } of book.all()) hours.set(subject, [...(hours.get(subject) ?? []), mergedRows(parts)]);
  }
  const peaks = new Map([...hours].map(([id, rows]) => [id, mergedRows(rows).mostIops]));
  return { hours, peaks, disturbed: [], asked: new Set(model.volumes.map(({ id }) => id)), model };
}
