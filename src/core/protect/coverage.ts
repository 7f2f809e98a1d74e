import { heldByCopies } from '../copies/area';
import type { ConsistencyLabel } from './consistency';
import type { Plan, PlanRun } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { DAY, MINUTE, type Milliseconds } from '../units/duration';
import { runsOf } from './run';
import { planOf, pointsOf, subjectsOf, type Protected, type RestorePoint } from './subject';
import { isLocked } from '../copies/locked';
import { shownAs } from '../copies/legs';
import { replicaBar } from '../copies/replica';

/** What a workload's plan promises beside what is true now (protect.md G). */
export interface Coverage {
  plan: Plan | null;
  points: number;
  newest: RestorePoint | null;
  label: ConsistencyLabel | null;
  /** The newest copy that nobody can delete now. */
  newestLocked: RestorePoint | null;
  /** The newest copy that was looked at and found good, and when. */
  proven: { point: RestorePoint; at: Milliseconds } | null;
  lastRun: PlanRun | null;
  /** What falls short of the promises, the gravest first, and since when. */
  short: { code: ShortCode; says: string; since: Milliseconds | null }[];
  /** Bytes of pools that its copies hold. */
  held: number;
}

export type ShortCode = 'no-plan' | 'paused' | 'no-copy' | 'over-rpo' | 'only-crash' | 'not-proven';

/** Copies are made a little after they are due: so much later than promised is no shortfall. */
const LEEWAY: Milliseconds = MINUTE;

export const planOfSubject = (view: EstateView, { workload, volumes }: Protected): Plan | null =>
  (workload
    ? workload.plan === null
      ? undefined
      : view.table('plan').get(workload.plan)
    : planOf(view, volumes[0]!)) ?? null;

/** The newest look at a copy that found it good; null where none was good since one failed. */
function provenOf(points: readonly RestorePoint[]): Coverage['proven'] {
  let found: Coverage['proven'] = null;
  let failedAt = -Infinity;
  for (const point of points)
    for (const { verdict } of point.copies) {
      if (!verdict) continue;
      if (!verdict.good) failedAt = Math.max(failedAt, verdict.at);
      else if (!found || verdict.at > found.at) found = { point, at: verdict.at };
    }
  return found && found.at > failedAt ? found : null;
}

export function coverageOf(view: EstateView, subject: Protected, now: Milliseconds): Coverage {
  const plan = planOfSubject(view, subject);
  const points = pointsOf(view, subject).filter((point) => point.at <= now);
  const newest = points.at(-1) ?? null;
  const runs = [...runsOf(view, subject)].sort((a, b) => b.at - a.at);
  const proven = provenOf(points);
  const label = newest ? newest.copies[0]!.label : null;
  const locked = points.filter((point) => point.copies.every((copy) => isLocked(view, copy, now)));
  const short: Coverage['short'] = [];
  const say = (code: ShortCode, says: string, since: Milliseconds | null = null) => short.push({ code, says, since });
  if (!plan) say('no-plan', 'no plan makes copies of it');
  else {
    if (!newest) say('no-copy', 'nothing is copied yet', plan.createdAt);
    else if (plan.rpo !== null && now - newest.at > plan.rpo + LEEWAY)
      say('over-rpo', 'the newest copy is older than promised', newest.at + plan.rpo);
    if (plan.paused) say('paused', 'its plan is paused', plan.pausedSince);
    const wanted = plan.schedules.some((schedule) => schedule.quiesce);
    if (newest && wanted && label === 'crash' && newest.copies[0]!.plan === plan.id) {
      const lastGood = [...points].reverse().find((point) => point.copies[0]!.label === 'application');
      say('only-crash', newest.copies[0]!.reason ?? 'applications were not paused', lastGood?.at ?? null);
    }
    if (plan.proveDays > 0 && (!proven || now - proven.at > plan.proveDays * DAY))
      say('not-proven', proven ? 'no copy was proven for too long' : 'no copy was ever proven', proven?.at ?? null);
  }
  const order: ShortCode[] = ['no-copy', 'over-rpo', 'no-plan', 'paused', 'only-crash', 'not-proven'];
  short.sort((a, b) => order.indexOf(a.code) - order.indexOf(b.code));
  return {
    plan,
    points: points.length,
    newest,
    label,
    newestLocked: locked.at(-1) ?? null,
    proven,
    lastRun: runs[0] ?? null,
    short,
    held: subject.volumes.reduce((sum, volume) => sum + heldByCopies(view, volume), 0),
  };
}

/** Everything that is protected or could be: workloads with volumes, and volumes that have a plan of their own or belong to no workload. */
export function allSubjects(view: EstateView): Protected[] {
  const found: Protected[] = [];
  for (const workload of view.table('workload').values()) {
    const volumes = view
      .table('volume')
      .by('workload', workload.id)
      .filter((volume) => volume.deletedAt === null);
    if (volumes.length > 0) found.push({ workload, volumes: [...volumes], name: workload.name });
  }
  for (const volume of view.table('volume').values()) {
    if (volume.deletedAt !== null || (volume.workload !== null && volume.plan === null)) continue;
    // What receives a replication is a copy itself.
    if (replicaBar(view, volume.id) !== null || shownAs(view, volume.id) !== volume.id) continue;
    found.push({ workload: null, volumes: [volume], name: volume.name });
  }
  return found;
}

/** The subject of a plan that a workload or a volume is, or what it is by itself. */
export function subjectById(view: EstateView, id: string): Protected | null {
  const workload = view.table('workload').get(id);
  if (workload) {
    const plan = workload.plan === null ? undefined : view.table('plan').get(workload.plan);
    const own = plan && subjectsOf(view, plan).find((one) => one.workload?.id === id);
    if (own) return own;
    const volumes = view
      .table('volume')
      .by('workload', id)
      .filter((volume) => volume.deletedAt === null);
    return { workload, volumes: [...volumes], name: workload.name };
  }
  const volume = view.table('volume').get(id);
  return volume ? { workload: null, volumes: [volume], name: volume.name } : null;
}
