import type { EstateView } from '../estate/estate';
import { byName } from '../operation/draft';
import type { InParts } from '../units/in-parts';
import type { Milliseconds } from '../units/duration';
import { largestGap, nextRun } from './due';
import { namedScheduleWords } from './plan-schedule-fields';
import { subjectsOf } from './subject';
import type { PlanRow } from './subject-view';

/** All protection plans, by name. */
export function* plansInParts(view: EstateView, now: Milliseconds): InParts<PlanRow[]> {
  const rows: PlanRow[] = [];
  const cuts = new Map<string, Set<string>>();
  let looked = 0;
  for (const { plan, cut, kept } of view.table('snapshot').values()) {
    if (++looked % 5000 === 0) yield undefined;
    if (plan === null || !kept) continue;
    const known = cuts.get(plan);
    if (known) known.add(cut);
    else cuts.set(plan, new Set([cut]));
  }
  for (const plan of [...view.table('plan').values()].sort(byName)) {
    yield undefined;
    rows.push({
      id: plan.id,
      name: plan.name,
      schedules: plan.schedules.map(namedScheduleWords).join('; '),
      zone: plan.zone,
      rpo: plan.rpo,
      paused: plan.paused,
      protects: subjectsOf(view, plan).map((subject) => subject.name),
      next: plan.paused ? null : (nextRun(plan, now)?.at ?? null),
      gap: largestGap(plan, now),
      copies: cuts.get(plan.id)?.size ?? 0,
    });
  }
  return rows;
}
