import { changed, deleted, type Effect } from '../estate/effects';
import type { Job, Pool } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import { doneAt } from '../job/work';
import type { NewId, WorkDone } from '../job/work-kind';
import { SECOND, type Milliseconds } from '../units/duration';

/** Work that moves extents as it goes is done in so many batches. */
export const BATCHES = 20;

/** How extents of a pool are moved, a batch at a time. */
export interface Moving {
  /** Moves at most `most` extents. */
  batch: (view: EstateView, most: number, newId: NewId) => { effects: Effect[]; moved: number };
  /** How many are still to be moved. */
  left: (view: EstateView) => number;
  /** What the end does beside the job's own, and what is said of it: all was moved, or no more could be. */
  end: (whole: boolean) => { effects: Effect[]; said: string };
}

/** One batch: as many extents as should have moved by now. */
export function moveBatch(
  view: EstateView,
  pool: Pool,
  job: Job,
  now: Milliseconds,
  newId: NewId,
  how: Moving,
): WorkDone {
  const effects: Effect[] = [];
  const overlay = new Overlay(view);
  const target = Math.round(doneAt(job, now) / pool.extentSize);
  let due = Math.max(1, target - Math.round(job.done / pool.extentSize));
  let done = job.done;
  while (due > 0) {
    const batch = how.batch(overlay, due, newId);
    if (batch.moved === 0) break;
    overlay.apply(batch.effects);
    effects.push(...batch.effects);
    done += batch.moved * pool.extentSize;
    due -= batch.moved;
  }
  const rest = how.left(overlay);
  if (rest === 0 || due > 0 || effects.length === 0) {
    const { effects: last, said } = how.end(rest === 0);
    const name = `${arrayOf(view, job).name} ${pool.name}`;
    return { effects: [...effects, deleted('job', job), ...last], said: `${name}${said}` };
  }
  const total = Math.max(job.total, done + rest * pool.extentSize);
  const finishesAt = now + Math.ceil(Math.max(total - done, 1) / Math.max(job.rate, 1)) * SECOND;
  return { effects: [...effects, changed('job', job, { done, total, asOf: now, finishesAt })], said: null };
}
