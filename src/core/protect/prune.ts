import { dropped } from '../copies/drop';
import type { Effect } from '../estate/effects';
import type { Kind, Plan, Snapshot, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { volumeOf } from '../estate/relations';
import type { RetentionRules } from '../kinds/plan';
import type { Milliseconds } from '../units/duration';
import { isLocked } from '../copies/locked';
import { retain, type RetentionPolicy } from './retain';
import { pointsOf, type Protected, type RestorePoint } from './subject';

/** The rules of a schedule as retention reads them. */
export function policyOf({ count, maxAge, minKeep, pick, ...periods }: RetentionRules): RetentionPolicy {
  const gfs = Object.values(periods).some((many) => many !== null) ? { ...periods, pick } : null;
  return { count, maxAge, minKeep, gfs };
}

/** What keeps a copy from being deleted whatever retention says. */
export function barsOf(view: EstateView, copy: Snapshot, now: Milliseconds): ('locked' | 'held' | 'clone')[] {
  return [
    ...(isLocked(view, copy, now) ? (['locked'] as const) : []),
    ...(copy.hold === '' ? [] : (['held'] as const)),
    ...(clonesOf(view, copy).length > 0 ? (['clone'] as const) : []),
  ];
}

/** Volumes that were made from a copy, or are a shown view of it, and rest on it still. */
export function clonesOf(view: EstateView, copy: Snapshot): Volume[] {
  const others = [
    ...view.table('volume').by('base', copy.id),
    ...view
      .table('snapshot')
      .by('parent', copy.id)
      .map((one) => volumeOf(view, one)),
  ].filter((volume) => volume.id !== copy.volume && volume.origin !== null);
  return [...new Set(others)];
}

export const pointBarred = (view: EstateView, point: RestorePoint, now: Milliseconds): boolean =>
  point.copies.some((copy) => barsOf(view, copy, now).length > 0);

export interface PointVerdicts {
  /** By cut, the schedules and reasons that keep it. */
  kept: Map<string, readonly string[]>;
  held: RestorePoint[];
  going: RestorePoint[];
}

/**
 * What a plan keeps of a subject's copies: each of its schedules judges those that it asked for, and one that any of them keeps stays. Copies
 * made by hand stay until their own day; those of other plans are not looked at.
 */
export function verdicts(
  view: EstateView,
  plan: Plan,
  points: readonly RestorePoint[],
  now: Milliseconds,
): PointVerdicts {
  const kept = new Map<string, readonly string[]>();
  const own = points.filter(({ copies }) => copies[0]!.plan === plan.id);
  for (const schedule of plan.schedules) {
    const asked = own.filter(({ copies }) => copies[0]!.schedules.includes(schedule.name));
    const verdict = retain({
      now,
      tz: plan.zone,
      policy: policyOf(schedule.retention),
      snapshots: asked.map(({ cut, at }) => ({ id: cut, at })),
    });
    if (!verdict.ok) continue;
    for (const { id, reasons } of verdict.value.keep) {
      const known = kept.get(id);
      kept.set(id, known ? [...known, ...reasons] : reasons);
    }
  }
  const over = points.filter(({ cut, copies }) => {
    const [first] = copies;
    if (first!.plan === plan.id) return !kept.has(cut);
    return first!.plan === null && first!.keepUntil !== null && first!.keepUntil <= now;
  });
  return {
    kept,
    held: over.filter((point) => pointBarred(view, point, now)),
    going: over.filter((point) => !pointBarred(view, point, now)),
  };
}

/** Deletes what a plan keeps no longer. */
export function pruned(
  view: EstateView,
  plan: Plan,
  subject: Protected,
  now: Milliseconds,
  newId: (kind: Kind) => string,
): { effects: Effect[]; deleted: number; heldBack: number } {
  const { going, held } = verdicts(view, plan, pointsOf(view, subject), now);
  if (going.length === 0) return { effects: [], deleted: 0, heldBack: held.length };
  const { effects } = dropped(
    view,
    going.flatMap(({ copies }) => copies),
    newId,
  );
  return { effects, deleted: going.length, heldBack: held.length };
}
