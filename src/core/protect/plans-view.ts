import type { EstateView } from '../estate/estate';
import { byName } from '../operation/draft';
import type { InParts } from '../units/in-parts';
import type { Milliseconds } from '../units/duration';
import { largestGap, nextRun } from './due';
import { scheduleWords } from './plan-schedule-fields';
import { subjectsOf } from './subject';
import type { PlanRow } from './subject-view';

/** All protection plans, by name. */
export function* plansInParts(view: EstateView, now: Milliseconds): InParts<PlanRow[]> {
  const rows: PlanRow[] = [];
  for (const plan of [...view.table('plan').values()].sort(byName)) {
    yield undefined;
    const cuts = new Set(
      view
        .table('snapshot')
        .by('plan', plan.id)
        .flatMap((copy) => (copy.kept ? [copy.cut] : [])),
    );
    rows.push({
      id: plan.id,
      name: plan.name,
      schedules: plan.schedules.map((schedule) => `${schedule.name}: ${scheduleWords(schedule)}`).join('; '),
      zone: plan.zone,
      rpo: plan.rpo,
      paused: plan.paused,
      protects: subjectsOf(view, plan).map((subject) => subject.name),
      next: plan.paused ? null : (nextRun(plan, now)?.at ?? null),
      gap: largestGap(plan, now),
      copies: cuts.size,
    });
  }
  return rows;
}
