import { changed, type Effect } from '../estate/effects';
import { Overlay, type EstateView } from '../estate/estate';
import { paused, resumed } from '../job/work';
import type { Milliseconds } from '../units/duration';
import { arrayAnswers } from '../volume/health';

/** Jobs that stand still once effects took the last controller of their array, and that go on from where they were once one is back. */
export function standstill(view: EstateView, effects: readonly Effect[], now: Milliseconds): Effect[] {
  if (!effects.some((effect) => effect.kind === 'controller')) return [];
  const overlay = new Overlay(view);
  overlay.apply(effects);
  return [...overlay.table('job').values()].flatMap((job) => {
    const runs = arrayAnswers(overlay, job.array);
    if (runs !== job.paused) return [];
    return [changed('job', job, runs ? resumed(job, now) : paused(job, now))];
  });
}
