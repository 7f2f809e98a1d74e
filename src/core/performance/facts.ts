import type { EstateView } from '../estate/estate';
import { DAY, type Milliseconds } from '../units/duration';
import { hourBook } from './book';
import { SLOTS_AN_HOUR } from './choices';
import { Course } from './course';
import { LOOKED_BACK, looksOf, type Look } from './looks';
import { loadModel } from './model';
import { partOf } from './parts';
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
  /** Five minutes by five minutes from the beginning of the hour before the last one on, by volume. */
  looks: ReadonlyMap<string, readonly Look[]>;
  peaks: ReadonlyMap<string, number>;
  disturbed: readonly Disturbed[];
  /** Volumes that were asked for something within sixty days. */
  asked: ReadonlySet<string>;
  model: LoadModel;
}

export const noFacts: LoadFacts = {
  hours: new Map(),
  looks: new Map(),
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
  const looks = new Map<string, Look[]>();
  for (let hour = 0; hour < 24; hour++) {
    const book = hourBook(start + hour * SLOTS_AN_HOUR).by(model);
    course.run(book.end, book);
    for (const { subject, parts } of book.all()) {
      const row = mergedRows(parts);
      hours.set(subject, [...(hours.get(subject) ?? []), row]);
      if (hour >= 24 - LOOKED_BACK)
        looks.set(subject, [
          ...(looks.get(subject) ?? []),
          ...looksOf(
            parts.map((part) => partOf(part)),
            row,
          ),
        ]);
    }
  }
  const peaks = new Map([...hours].map(([id, rows]) => [id, mergedRows(rows).mostIops]));
  return { hours, looks, peaks, disturbed: [], asked: new Set(model.volumes.map(({ id }) => id)), model };
}
