import { aloneBytes, areaBytes, heldByCopies } from '../copies/area';
import type { EstateView } from '../estate/estate';
import { arrayOf, hostOf, poolOf, siteOf } from '../estate/relations';
import type { NamedFile } from '../kinds/file-image';
import { everyWords } from '../schedule/every';
import { availableExtents } from '../pool/usage';
import { DAY, type Milliseconds } from '../units/duration';
import { coverageOf, subjectById, type Coverage } from './coverage';
import { largestGap, nextRuns, runsWithin } from './due';
import { fullOn } from './make';
import { retentionWords } from './plan-schedule-fields';
import { policyOf, verdicts } from './prune';
import { runsOf } from './run';
import { restoreFigures } from './snapshot-restore';
import { pointsOf } from './subject';

/** A restore point as its table shows it. */
export interface PointRow {
  cut: string;
  name: string;
  at: Milliseconds;
  label: 'application' | 'crash';
  reason: string | null;
  volumes: number;
  /** Bytes that it alone keeps. */
  alone: number;
  /** By which plan and schedules, or by hand. */
  by: string;
  notes: string;
  /** Why and until when it is kept. */
  kept: string;
  until: Milliseconds | null;
  lockedUntil: Milliseconds | null;
  hold: string;
  proven: { at: Milliseconds; good: boolean; says: string } | null;
  files: number;
}

export interface SubjectView {
  id: string;
  kind: 'workload' | 'volume';
  name: string;
  /** How operations name it. */
  named: Record<string, string>;
  now: Milliseconds;
  plan: {
    name: string;
    zone: string;
    rpo: Milliseconds | null;
    paused: boolean;
    schedules: {
      name: string;
      every: string;
      kept: string;
      lockDays: number;
      quiesce: boolean;
      next: Milliseconds | null;
    }[];
    next: Milliseconds[];
    gap: { from: Milliseconds; span: Milliseconds } | null;
  } | null;
  short: Coverage['short'];
  points: PointRow[];
  pools: {
    pool: string;
    array: string;
    site: string;
    /** What the copies of these volumes keep apart, the extents that hold it, and what the pool has left. */
    kept: number;
    held: number;
    left: number;
    fullOn: Milliseconds | null;
  }[];
  volumes: { id: string; name: string; array: string; activity: string | null; hosts: string[]; files: NamedFile[] }[];
  runs: {
    id: string;
    at: Milliseconds;
    dueAt: Milliseconds;
    took: number;
    result: string;
    label: string | null;
    reason: string | null;
    made: number;
    deleted: number;
    heldBack: number;
    schedules: string[];
  }[];
}

const levelWords: Record<string, string> = {
  count: 'newest',
  age: 'by age',
  minKeep: 'newest',
  hourly: 'of its hour',
  daily: 'of its day',
  weekly: 'of its week',
  monthly: 'of its month',
  yearly: 'of its year',
  'no-policy': 'all are kept',
  future: 'of the future',
};

/** One workload or volume, with its restore points, the newest first; null where there is none. */
export function subjectView(view: EstateView, id: string, now: Milliseconds): SubjectView | null {
  const subject = subjectById(view, id);
  if (!subject) return null;
  const { workload, volumes } = subject;
  const coverage = coverageOf(view, subject, now);
  const { plan } = coverage;
  const points = pointsOf(view, subject);
  const verdict = plan ? verdicts(view, plan, points, now) : null;
  const alone = new Map<string, number>();
  for (const volume of volumes) for (const [copy, bytes] of aloneBytes(view, volume)) alone.set(copy, bytes);
  const going = new Set(verdict?.going.map((point) => point.cut));
  const held = new Set(verdict?.held.map((point) => point.cut));
  const rows = points.map(({ cut, name, at, copies }): PointRow => {
    const [first] = copies;
    const reasons = [...new Set(verdict?.kept.get(cut) ?? [])].map((reason) => levelWords[reason] ?? reason);
    const ages = (plan?.schedules ?? [])
      .filter((schedule) => first!.schedules.includes(schedule.name))
      .map((schedule) => policyOf(schedule.retention).maxAge ?? null);
    const byAge = ages.filter((age) => age !== null);
    const proof = copies.flatMap((copy) => copy.verdict ?? []).sort((a, b) => b.at - a.at)[0];
    const byPlan = first!.plan !== null;
    const keptWhy = (): string => {
      if (!byPlan) return first!.keepUntil === null ? 'until somebody deletes it' : 'until its day';
      if (held.has(cut)) return 'past its time, not deletable';
      if (going.has(cut)) return 'goes at the next run';
      return first!.plan === plan?.id ? reasons.join(', ') : 'by a plan that is not at work here';
    };
    const untilByPlan = byAge.length > 0 ? at + Math.max(...byAge) : null;
    return {
      cut,
      name,
      at,
      label: first!.label,
      reason: first!.reason,
      volumes: copies.length,
      alone: copies.reduce((sum, copy) => sum + (alone.get(copy.id) ?? 0), 0),
      by: byPlan
        ? (view.table('plan').get(first!.plan!)?.name ?? '') +
          (first!.schedules.length > 0 ? `, ${first!.schedules.join(', ')}` : '')
        : first!.madeBy || 'by hand',
      notes: first!.notes,
      kept: keptWhy(),
      until: byPlan ? untilByPlan : first!.keepUntil,
      lockedUntil: first!.lockedUntil,
      hold: first!.hold,
      proven: proof ? { at: proof.at, good: proof.good, says: proof.says } : null,
      files: copies.reduce((sum, copy) => sum + copy.files.length, 0),
    };
  });
  const pools = [...new Set(volumes.map((volume) => poolOf(view, volume)))].map((pool) => {
    const here = volumes.filter((volume) => volume.pool === pool.id);
    const array = arrayOf(view, pool);
    return {
      pool: pool.name,
      array: array.name,
      site: siteOf(view, array).name,
      kept: here.reduce((sum, volume) => sum + areaBytes(view, volume), 0),
      held: here.reduce((sum, volume) => sum + heldByCopies(view, volume), 0),
      left: availableExtents(view, pool) * pool.extentSize,
      fullOn: fullOn(view, pool.id, now),
    };
  });
  return {
    id,
    kind: workload ? 'workload' : 'volume',
    name: subject.name,
    named: workload
      ? { workload: workload.name }
      : { array: arrayOf(view, volumes[0]!).name, volume: volumes[0]!.name },
    now,
    plan: plan && {
      name: plan.name,
      zone: plan.zone,
      rpo: plan.rpo,
      paused: plan.paused,
      schedules: plan.schedules.map((schedule) => ({
        name: schedule.name,
        every: everyWords(schedule.rule),
        kept: retentionWords(schedule.retention),
        lockDays: schedule.lockDays,
        quiesce: schedule.quiesce,
        next: runsWithin({ ...plan, schedules: [schedule] }, now + 1, now + 40 * DAY)[0]?.at ?? null,
      })),
      next: nextRuns(plan, now, 5).map((run) => run.at),
      gap: largestGap(plan, now),
    },
    short: coverage.short,
    points: rows.reverse(),
    pools,
    volumes: volumes.map((volume) => ({
      id: volume.id,
      name: volume.name,
      array: arrayOf(view, volume).name,
      activity: volume.activity?.kind ?? null,
      hosts: [
        ...new Set(
          view
            .table('hostDevice')
            .by('volume', volume.id)
            .map((device) => hostOf(view, device).name),
        ),
      ],
      files: volume.files,
    })),
    runs: [...runsOf(view, subject)]
      .sort((a, b) => b.at - a.at)
      .map(({ id: run, at, dueAt, took, result, label, reason, made, deleted, heldBack, schedules }) => ({
        id: run,
        at,
        dueAt,
        took,
        result,
        label,
        reason,
        made,
        deleted,
        heldBack,
        schedules,
      })),
  };
}

/** What going back to a point would drop and bring back, and the files that differ. */
export interface PointView {
  name: string;
  at: Milliseconds;
  restored: number;
  dropped: number;
  /** Files as they were then, each told as it stands now. */
  files: (NamedFile & { volume: string; now: 'same' | 'other' | 'gone' })[];
  /** Files that came since. */
  newer: (NamedFile & { volume: string })[];
}

export function pointView(view: EstateView, id: string, cut: string): PointView | null {
  const subject = subjectById(view, id);
  const point = subject && pointsOf(view, subject).find((one) => one.cut === cut);
  if (!point) return null;
  const found: PointView = { name: point.name, at: point.at, restored: 0, dropped: 0, files: [], newer: [] };
  for (const copy of point.copies) {
    const volume = view.table('volume').get(copy.volume)!;
    const figures = restoreFigures(view, volume, copy);
    found.restored += figures.restored;
    found.dropped += figures.dropped;
    const now = new Map(volume.files.map((file) => [file.path, file.checksum]));
    const then = new Set(copy.files.map((file) => file.path));
    for (const file of copy.files) {
      const sum = now.get(file.path);
      const still = sum === file.checksum ? 'same' : 'other';
      found.files.push({ ...file, volume: volume.name, now: sum === undefined ? 'gone' : still });
    }
    for (const file of volume.files) if (!then.has(file.path)) found.newer.push({ ...file, volume: volume.name });
  }
  return found;
}

/** A plan as its table shows it. */
export interface PlanRow {
  id: string;
  name: string;
  schedules: string;
  zone: string;
  rpo: Milliseconds | null;
  paused: boolean;
  protects: string[];
  next: Milliseconds | null;
  gap: { from: Milliseconds; span: Milliseconds } | null;
  copies: number;
}
