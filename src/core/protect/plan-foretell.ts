import { changedWithin } from '../copies/activity';
import { shownBytes } from '../copies/parts';
import type { Plan, PlanSchedule, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { zoneOf } from '../schedule/zone';
import { formatBytes, type Bytes } from '../units/bytes';
import { momentText, timeText } from '../units/date';
import { DAY, formatDuration, type Milliseconds } from '../units/duration';
import { largestGap, nextRuns, runsWithin } from './due';
import { retain } from './retain';
import { policyOf } from './prune';
import type { Protected } from './subject';

type Timed = Pick<Plan, 'zone' | 'gap' | 'schedules'>;

/** The copies that a plan would hold after so long, each by its instant, the oldest first. */
export function keptAfter(plan: Timed, from: Milliseconds, span: Milliseconds): Milliseconds[] {
  const runs = runsWithin(plan, from, from + span);
  const now = from + span;
  const kept = new Set<Milliseconds>();
  for (const schedule of plan.schedules) {
    const own = runs.filter((run) => run.schedules.some((one) => one.name === schedule.name));
    const verdict = retain({
      now,
      tz: plan.zone,
      policy: policyOf(schedule.retention),
      snapshots: own.map(({ at }) => ({ id: String(at), at })),
    });
    if (!verdict.ok) continue;
    for (const { id } of verdict.value.keep) kept.add(Number(id));
    for (const { at } of own) if (schedule.lockDays > 0 && at + schedule.lockDays * DAY > now) kept.add(at);
  }
  return [...kept].sort((a, b) => a - b);
}

/** Copies between which room is added up one by one; beyond, stretches are taken together. */
const MOST_GAPS = 400;

/**
 * The room that a plan comes to hold after so long: Σ over kept copies of what changes until the next newer one, for the newest until then
 * (protect.md G). What is not known to be rewritten costs nothing.
 */
export function roomAfter(volumes: readonly Volume[], plan: Timed, from: Milliseconds, span: Milliseconds): Bytes {
  const kept = keptAfter(plan, from, span);
  const step = Math.max(1, Math.ceil(kept.length / MOST_GAPS));
  let sum = 0;
  for (const volume of volumes) {
    const { activity } = volume;
    if (!activity) continue;
    const bytes = shownBytes(volume);
    for (let k = 0; k < kept.length; k += step) {
      const until = kept[k + 1] ?? from + span;
      sum += changedWithin(activity, bytes, kept[k]!, until) * Math.min(step, kept.length - k);
    }
  }
  return Math.round(sum);
}

const MONTH = 30 * DAY;

/** `Tue 15 Apr 02:30 (00:30 UTC)`: a run by the plan's own clock. */
function runWords(zone: string, at: Milliseconds): string {
  const wall = momentText(zoneOf(zone)?.wallAt(at) ?? at);
  return zone === 'UTC' ? `${wall} UTC` : `${wall} (${timeText(at).slice(11)} UTC)`;
}

/** The next five runs, by the plan's clock and in UTC. */
export function nextWords(plan: Timed, now: Milliseconds): string {
  const runs = nextRuns(plan, now, 5);
  return runs.length === 0 ? 'It never runs.' : `Next: ${runs.map(({ at }) => runWords(plan.zone, at)).join(', ')}.`;
}

/** The largest gap of the coming year, against what is promised. */
export function gapWords(plan: Timed & Pick<Plan, 'rpo'>, now: Milliseconds): string {
  const gap = largestGap(plan, now);
  if (!gap) return '';
  const says = `Largest gap in the coming year: ${formatDuration(gap.span)} from ${runWords(plan.zone, gap.from)}`;
  return plan.rpo !== null && gap.span > plan.rpo
    ? `${says}: more than the ${formatDuration(plan.rpo)} that are promised.`
    : `${says}.`;
}

/** The room that it comes to hold in a month for what it is attached to. */
export function roomWords(view: EstateView, plan: Timed, subjects: readonly Protected[], now: Milliseconds): string {
  const volumes = subjects.flatMap((subject) => subject.volumes);
  const copies = keptAfter(plan, now, MONTH).length;
  if (volumes.length === 0) return `After a month it would hold ${copies} copies of each volume.`;
  const known = volumes.filter((volume) => volume.activity !== null).length;
  const without = volumes.length - known;
  return `After a month: ${copies} copies, ${formatBytes(roomAfter(volumes, plan, now, MONTH), 'used')}${without > 0 ? ` (of ${without} nobody knows what is rewritten)` : ''}.`;
}

/** What one more schedule would make of a plan. */
export const withSchedule = (plan: Plan, schedule: PlanSchedule): Plan => ({
  ...plan,
  schedules: [...plan.schedules.filter((one) => one.name !== schedule.name), schedule],
});
