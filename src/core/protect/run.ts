import { created, deleted, type Effect } from '../estate/effects';
import { rowOf, type Kind, type Plan, type PlanRun, type PlanSchedule } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { SILENT } from '../kinds/plan-run';
import { DAY, type Milliseconds } from '../units/duration';
import { unstopped } from '../units/counted';
import { makeCopies } from './make';
import { freeCopyName, nameByPattern } from './names';
import { pruned } from './prune';
import type { Protected } from './subject';

/** Runs that are remembered of one workload or volume: those that were done, and those that were not. */
const DONE_KEPT = 20;
const OTHERS_KEPT = 40;

/** All runs of a workload or volume that are remembered. */
export function runsOf(view: EstateView, subject: Protected): readonly PlanRun[] {
  const table = view.table('planRun');
  return subject.workload ? table.by('workload', subject.workload.id) : table.by('volume', subject.volumes[0]!.id);
}

/** The oldest of them go. */
function forgotten(view: EstateView, subject: Protected): Effect[] {
  const runs = [...runsOf(view, subject)].sort((a, b) => b.at - a.at);
  const done = runs.filter((run) => run.result === 'done').slice(DONE_KEPT - 1);
  const others = runs.filter((run) => run.result !== 'done').slice(OTHERS_KEPT - 1);
  return [...done, ...others].map((run) => deleted('planRun', run));
}

/** A run at work: which schedules ask for it, when it was due and when it is made. */
export interface RunWish {
  plan: Plan;
  schedules: readonly PlanSchedule[];
  dueAt: Milliseconds;
  at: Milliseconds;
  /** Who asked for it, where it is not the plan itself. */
  by?: string;
}

const longestLock = (schedules: readonly PlanSchedule[]): PlanSchedule | undefined =>
  [...schedules].sort((a, b) => b.lockDays - a.lockDays).find((schedule) => schedule.lockDays > 0);

export interface RunDone {
  effects: Effect[];
  run: PlanRun;
  /** What the log says of it; null for a run without anything to tell. */
  said: string | null;
}

/** One run of a plan for one subject: cut, label, lock, retention, record (protect.md G). */
export const runPlan = (view: EstateView, subject: Protected, wish: RunWish, newId: (kind: Kind) => string): RunDone =>
  runPlanOn(new Overlay(view), subject, wish, newId);

/** The same, with what it does applied to the overlay that is given: many runs in turn. */
export function runPlanOn(
  overlay: Overlay,
  subject: Protected,
  { plan, schedules, dueAt, at, by = '' }: RunWish,
  newId: (kind: Kind) => string,
): RunDone {
  const effects: Effect[] = [];
  const put = (made: readonly Effect[]) => {
    overlay.apply(made);
    effects.push(...made);
  };
  const lock = longestLock(schedules);
  const name = nameByPattern(plan.pattern, at, {
    plan: plan.name,
    schedule: schedules[0]?.name ?? '',
    workload: subject.name,
  });
  const wishes = {
    at,
    name: freeCopyName(overlay, subject.volumes, name),
    plan: plan.id,
    schedules: schedules.map((schedule) => schedule.name),
    madeBy: by,
    quiesce: schedules.some((schedule) => schedule.quiesce),
    onTimeout: schedules.some((schedule) => schedule.onTimeout === 'crash') ? ('crash' as const) : ('fail' as const),
    lockMode: lock?.lockMode ?? ('strict' as const),
    lockedUntil: lock ? at + lock.lockDays * DAY : null,
  };
  let made = makeCopies(overlay, subject, wishes, newId);
  // A copy without its lock is worth more than none; the record says that the lock is lacking.
  let unlocked: string | null = null;
  if (!made.ok && made.refusals.every((refusal) => refusal.code === 'lock-outlasts-room')) {
    unlocked = unstopped(made.refusals[0]!.message);
    made = makeCopies(overlay, subject, { ...wishes, lockedUntil: null }, newId);
  }
  if (made.ok) put(made.effects);
  // What nobody has to keep goes also where nothing could be added: above all then.
  const pruning = pruned(overlay, plan, subject, at, newId);
  put(pruning.effects);
  put(forgotten(overlay, subject));
  const silent = !made.ok && made.refusals.some((refusal) => refusal.code === 'array-silent');
  const run = rowOf('planRun', {
    id: newId('planRun'),
    plan: plan.id,
    workload: subject.workload?.id ?? null,
    volume: subject.workload ? null : subject.volumes[0]!.id,
    schedules: wishes.schedules,
    dueAt,
    at,
    took: made.ok ? made.paused.took : made.took,
    result: made.ok ? 'done' : silent ? 'missed' : 'failed',
    label: made.ok ? made.paused.label : null,
    reason: made.ok ? (unlocked ?? made.paused.reason) : silent ? SILENT : unstopped(made.refusals[0]!.message),
    made: made.ok ? made.copies.length : 0,
    deleted: pruning.deleted,
    heldBack: pruning.heldBack,
  });
  put([created('planRun', run)]);
  const trouble = run.reason !== null && (run.result !== 'done' || unlocked !== null);
  return {
    effects,
    run,
    said: trouble
      ? `${plan.name}: ${subject.name} ${made.ok ? 'is copied, but not locked' : 'is not copied'}: ${run.reason}`
      : null,
  };
}
