import type { Plan, PlanSchedule } from '../estate/entities';
import { expandRecurrence, type Recurrence } from '../schedule/recurrence';
import { DAY, type Milliseconds } from '../units/duration';

export const recurrenceOf = (plan: Pick<Plan, 'zone' | 'gap'>, { rule, start }: PlanSchedule): Recurrence => ({
  rrule: rule,
  dtstart: start,
  tz: plan.zone,
  gap: plan.gap,
});

/** A run that is due, and the schedules that ask for it: those that fall on one instant are one run. */
export interface DueRun {
  at: Milliseconds;
  schedules: PlanSchedule[];
}

/** Runs of a plan within [from, to), ascending. */
export function runsWithin(
  plan: Pick<Plan, 'zone' | 'gap' | 'schedules'>,
  from: Milliseconds,
  to: Milliseconds,
): DueRun[] {
  const runs = new Map<Milliseconds, PlanSchedule[]>();
  for (const schedule of plan.schedules) {
    const instants = expandRecurrence({ ...recurrenceOf(plan, schedule), from, to });
    if (!instants.ok) continue;
    for (const at of instants.value) {
      const known = runs.get(at);
      if (known) known.push(schedule);
      else runs.set(at, [schedule]);
    }
  }
  return [...runs].map(([at, schedules]) => ({ at, schedules })).sort((a, b) => a.at - b.at);
}

/** Ever longer looks ahead: most plans run within a day. */
const LOOKS = [DAY, 8 * DAY, 40 * DAY, 400 * DAY, 3653 * DAY];

/** The first run of a plan after an instant; null where none comes within ten years. */
export function nextRun(plan: Pick<Plan, 'zone' | 'gap' | 'schedules'>, after: Milliseconds): DueRun | null {
  let from = after + 1;
  for (const look of LOOKS) {
    const [first] = runsWithin(plan, from, after + 1 + look);
    if (first) return first;
    from = after + 1 + look;
  }
  return null;
}

/** The first few runs after an instant. */
export function nextRuns(plan: Pick<Plan, 'zone' | 'gap' | 'schedules'>, after: Milliseconds, most: number): DueRun[] {
  const found: DueRun[] = [];
  for (let at = after; found.length < most;) {
    const next = nextRun(plan, at);
    if (!next) break;
    found.push(next);
    at = next.at;
  }
  return found;
}

interface Gap {
  from: Milliseconds;
  span: Milliseconds;
}

/** A year of runs is looked at once a day; rows never change in place. */
const gaps = new WeakMap<object, { day: number; gap: Gap | null }>();

/** The longest stretch without a run in the year to come, and when it begins; null where there are fewer than two runs. */
export function largestGap(plan: Pick<Plan, 'zone' | 'gap' | 'schedules'>, now: Milliseconds): Gap | null {
  const day = Math.floor(now / DAY);
  const known = gaps.get(plan);
  if (known?.day === day) return known.gap;
  const runs = runsWithin(plan, now, now + 366 * DAY);
  let gap: Gap | null = null;
  for (let k = 1; k < runs.length; k++) {
    const span = runs[k]!.at - runs[k - 1]!.at;
    if (!gap || span > gap.span) gap = { from: runs[k - 1]!.at, span };
  }
  gaps.set(plan, { day, gap });
  return gap;
}
