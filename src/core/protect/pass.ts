import { oldLegWhy } from '../copies/legs';
import { changed, type Effect } from '../estate/effects';
import type { Kind, Plan, PlanRun } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { SILENT } from '../kinds/plan-run';
import { catchUp } from '../schedule/catch-up';
import type { Milliseconds } from '../units/duration';
import { arrayAnswers } from '../volume/health';
import { nextRun, runsWithin, type DueRun } from './due';
import { runPlanOn } from './run';
import { ofVolume, ofWorkload, subjectsOf, type Protected } from './subject';

type NewId = (kind: Kind) => string;

/** Rows never change in place, so that what follows from one holds as long as it stands. */
const known = new WeakMap<Plan, { after: Milliseconds; next: DueRun | null }>();

/** The next run of a plan after a moment. */
export function nextRunOf(plan: Plan, after: Milliseconds): DueRun | null {
  const last = known.get(plan);
  if (last && last.after <= after && (last.next === null || last.next.at > after)) return last.next;
  const next = nextRun(plan, after);
  known.set(plan, { after, next });
  return next;
}

const isAtWork = (view: EstateView, plan: Plan): boolean =>
  !plan.paused &&
  plan.schedules.length > 0 &&
  view.table('workload').countBy('plan', plan.id) + view.table('volume').countBy('plan', plan.id) > 0;

/** The next moment after `after` at which any plan runs; null for none. */
export function nextPlanRun(view: EstateView, after: Milliseconds): Milliseconds | null {
  let first: Milliseconds | null = null;
  for (const plan of view.table('plan').values()) {
    if (!isAtWork(view, plan)) continue;
    const next = nextRunOf(plan, after);
    if (next && (first === null || next.at < first)) first = next.at;
  }
  return first;
}

const answers = (view: EstateView, { volumes }: Protected): boolean =>
  volumes.every((volume) => arrayAnswers(view, volume.array) && oldLegWhy(view, volume.id) === null);

/** Whom a run was for, as it is now. */
function subjectOfRun(view: EstateView, run: PlanRun): Protected | null {
  const workload = run.workload === null ? undefined : view.table('workload').get(run.workload);
  const plan = view.table('plan').get(run.plan);
  if (workload) {
    return plan
      ? (subjectsOf(view, plan).find((one) => one.workload?.id === workload.id) ?? null)
      : ofWorkload(view, workload);
  }
  const volume = run.volume === null ? undefined : view.table('volume').get(run.volume);
  return volume ? ofVolume(volume) : null;
}

/** Missed runs that are made up for as soon as their arrays answer, by subject. */
function waiting(view: EstateView): { subject: Protected; runs: PlanRun[] }[] {
  const found = new Map<string, { subject: Protected; runs: PlanRun[] }>();
  for (const run of view.table('planRun').by('waiting', '')) {
    const key = run.workload ?? run.volume!;
    const one = found.get(key);
    if (one) one.runs.push(run);
    else {
      const subject = subjectOfRun(view, run);
      if (subject) found.set(key, { subject, runs: [run] });
    }
  }
  return [...found.values()];
}

/** Whether a run that was missed can be made now. */
export const canCatchUp = (view: EstateView): boolean =>
  view.table('planRun').countBy('waiting', '') > 0 && waiting(view).some(({ subject }) => answers(view, subject));

/** What the plans do when their runs within (after, now] fall due, in their order. */
export const planPass = (
  view: EstateView,
  after: Milliseconds,
  now: Milliseconds,
  newId: NewId,
): { effects: Effect[]; said: string[] } => planPassOn(new Overlay(view), after, now, newId);

/** The same, with what they do applied to the overlay that is given. */
export function planPassOn(
  overlay: Overlay,
  after: Milliseconds,
  now: Milliseconds,
  newId: NewId,
): { effects: Effect[]; said: string[] } {
  const effects: Effect[] = [];
  const said: string[] = [];
  const put = (made: readonly Effect[]) => {
    overlay.apply(made);
    effects.push(...made);
  };
  const due: { plan: Plan; run: DueRun }[] = [];
  for (const plan of overlay.table('plan').values())
    if (isAtWork(overlay, plan)) for (const run of runsWithin(plan, after + 1, now + 1)) due.push({ plan, run });
  due.sort((a, b) => a.run.at - b.run.at || (a.plan.id < b.plan.id ? -1 : 1));
  for (const { plan, run } of due)
    for (const subject of subjectsOf(overlay, plan)) {
      const done = runPlanOn(overlay, subject, { plan, schedules: run.schedules, dueAt: run.at, at: now }, newId);
      effects.push(...done.effects);
      if (done.said !== null) said.push(done.said);
    }
  for (const { subject, runs } of waiting(overlay)) {
    if (!answers(overlay, subject)) continue;
    const plan = overlay.table('plan').get(runs[0]!.plan)!;
    const verdict = catchUp({
      due: runs.map((run) => run.dueAt),
      downFrom: -Infinity,
      upAt: now,
      policy: plan.catchUp,
      grace: plan.grace,
    });
    const chosen = new Set(verdict.ok && !plan.paused ? verdict.value.run.map((one) => one.scheduledFor) : []);
    for (const missed of runs) {
      put([changed('planRun', missed, { reason: `${SILENT}, and it was too late for it afterwards` })]);
      if (!chosen.has(missed.dueAt)) continue;
      const schedules = plan.schedules.filter((schedule) => missed.schedules.includes(schedule.name));
      if (schedules.length === 0) continue;
      put([
        changed('planRun', overlay.table('planRun').get(missed.id)!, {
          reason: `${SILENT}; it was made up for afterwards`,
        }),
      ]);
      const done = runPlanOn(overlay, subject, { plan, schedules, dueAt: missed.dueAt, at: now }, newId);
      effects.push(...done.effects);
      said.push(done.said ?? `${plan.name}: the run of ${subject.name} that was missed is made up for`);
    }
  }
  return { effects, said };
}
