import type { EstateView } from '../estate/estate';
import { arrayOf, siteOf } from '../estate/relations';
import { byName } from '../operation/draft';
import { shownBytes } from '../copies/parts';
import { DAY, MINUTE, type Milliseconds } from '../units/duration';
import type { InParts } from '../units/in-parts';
import { allSubjects, coverageOf, type Coverage } from './coverage';
import { runsWithin } from './due';
import { pointsOf } from './subject';
import type { PlanRow } from './subject-view';
import { isLocked } from '../copies/locked';

/** The stretches that the axis shows: copies of four weeks, two days closely, and the runs of the next day. */
export const BACK: Milliseconds = 28 * DAY;
export const CLOSE: Milliseconds = 2 * DAY;
export const AHEAD: Milliseconds = DAY;

/** How a copy is drawn: by its label, and whether it is locked. */
export const tickKinds = ['crash', 'application', 'crash-locked', 'application-locked'] as const;

/** A workload, or a volume by itself, on the time axis. */
export interface Lane {
  id: string;
  kind: 'workload' | 'volume';
  name: string;
  plan: string | null;
  volumes: number;
  bytes: number;
  places: string[];
  state: LaneState;
  /** The gravest shortfall, in words. */
  short: string | null;
  newest: Milliseconds | null;
  rpo: Milliseconds | null;
  points: number;
  held: number;
  lockedNewest: Milliseconds | null;
  proven: Milliseconds | null;
  /** Minutes before now, by kind of copy in the order of `tickKinds`. */
  ticks: number[][];
  /** Minutes from now. */
  due: number[];
}

/** What the Protection view draws. */
export interface ProtectionAnswer {
  version: number;
  /** The moment by which lanes are drawn. */
  now: Milliseconds;
  lanes: Lane[];
  plans: PlanRow[];
}

export type LaneState = 'good' | 'short' | 'broken' | 'none';

const stateOf = ({ short, plan }: Coverage): LaneState => {
  if (!plan) return 'none';
  if (short.some(({ code }) => code === 'no-copy' || code === 'over-rpo')) return 'broken';
  return short.length > 0 ? 'short' : 'good';
};

const rank: Record<LaneState, number> = { broken: 0, none: 1, short: 2, good: 3 };

/** Every workload and volume as a lane, the worst first. */
export function* lanesInParts(view: EstateView, now: Milliseconds): InParts<Lane[]> {
  const lanes: Lane[] = [];
  /** Runs of a plan are worked out once, however many it protects. */
  const dueOf = new Map<string, number[]>();
  let looked = 0;
  for (const subject of allSubjects(view)) {
    if (++looked % 20 === 0) yield undefined;
    const coverage = coverageOf(view, subject, now);
    const { plan, newest } = coverage;
    // A volume by itself that nobody protects is one of many: only what has copies, or is in use, is a lane.
    if (!subject.workload && !plan && coverage.points === 0) continue;
    const ticks: number[][] = tickKinds.map(() => []);
    for (const { at, copies } of pointsOf(view, subject)) {
      if (at < now - BACK || at > now) continue;
      const [copy] = copies;
      const locked = isLocked(view, copy!, now);
      ticks[(locked ? 2 : 0) + (copy!.label === 'application' ? 1 : 0)]!.push(Math.round((now - at) / MINUTE));
    }
    if (plan && !dueOf.has(plan.id))
      dueOf.set(
        plan.id,
        plan.paused ? [] : runsWithin(plan, now + 1, now + AHEAD).map(({ at }) => Math.round((at - now) / MINUTE)),
      );
    const arrays = [...new Set(subject.volumes.map((volume) => arrayOf(view, volume)))];
    lanes.push({
      id: subject.workload?.id ?? subject.volumes[0]!.id,
      kind: subject.workload ? 'workload' : 'volume',
      name: subject.name,
      plan: plan?.name ?? null,
      volumes: subject.volumes.length,
      bytes: subject.volumes.reduce((sum, volume) => sum + shownBytes(volume), 0),
      places: arrays.map((array) => `${array.name}, ${siteOf(view, array).name}`),
      state: stateOf(coverage),
      short: coverage.short[0]?.says ?? null,
      newest: newest?.at ?? null,
      rpo: plan?.rpo ?? null,
      points: coverage.points,
      held: coverage.held,
      lockedNewest: coverage.newestLocked?.at ?? null,
      proven: coverage.proven?.at ?? null,
      ticks,
      due: (plan && dueOf.get(plan.id)) ?? [],
    });
  }
  return lanes.sort((a, b) => rank[a.state] - rank[b.state] || byName(a, b));
}
