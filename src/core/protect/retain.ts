import { weekdays, type Weekday } from '../schedule/rule';
import { weekStartOf } from '../schedule/wall-dates';
import { zoneOf, type Zone } from '../schedule/zone';
import { refuse } from '../schedule/refusal';
import { civilOf } from '../units/date';
import { DAY, HOUR, type Milliseconds } from '../units/duration';
import { parsed, type Parsed } from '../units/parsed';
import { byCodePoint } from '../units/order';

export const levels = ['hourly', 'daily', 'weekly', 'monthly', 'yearly'] as const;
export type Level = (typeof levels)[number];

/** What is kept of a plan's copies. Without any of count, maxAge and gfs it says nothing, and all are kept. */
export interface RetentionPolicy {
  /** The newest so many; 0 is a rule that keeps none. */
  count?: number | null;
  maxAge?: Milliseconds | null;
  /** The newest so many are kept whatever else is said. */
  minKeep?: number | null;
  /** The newest of each of so many hours, days, weeks, months and years that hold a copy; `first` picks the oldest of each. */
  gfs?: (Partial<Record<Level, number | null>> & { pick?: 'last' | 'first' }) | null;
}

export const holdReasons = ['replication-base', 'clone', 'mounted'] as const;
export type HoldReason = (typeof holdReasons)[number];

/** A copy as retention sees it. */
export interface RetainedCopy {
  id: string;
  at: Milliseconds;
  kind?: 'scheduled' | 'manual';
  state?: string;
  lockedUntil?: Milliseconds | null;
  holds?: readonly HoldReason[];
}

export type KeepReason = 'manual' | 'future' | 'no-policy' | 'count' | 'age' | Level | 'minKeep';
export interface Kept<Reason> {
  id: string;
  reasons: Reason[];
}

export interface Retention {
  keep: Kept<KeepReason>[];
  held: Kept<'locked' | HoldReason>[];
  delete: string[];
}

interface Asked {
  now: Milliseconds;
  tz: string;
  weekStart?: Weekday;
  policy: RetentionPolicy;
}

const older = (a: RetainedCopy, b: RetainedCopy): number => a.at - b.at || byCodePoint(a.id, b.id);

/**
 * Which copies are kept and why, which would go but cannot, and which go; each list by age and id (protect.md B). What is locked or held never
 * changes which others are kept. Reasons: schedule-zone-unknown.
 */
export function retain({
  now,
  tz,
  weekStart = 'MO',
  snapshots,
  policy,
}: Asked & { snapshots: readonly RetainedCopy[] }): Parsed<Retention> {
  const zone = zoneOf(tz);
  if (!zone) return refuse('schedule-zone-unknown', tz);
  const sorted = [...snapshots].sort(older);
  const candidates = sorted.filter((copy) => isCandidate(copy, now, policy)).reverse();
  const reasons = reasonsFor(candidates, now, policy, zone, weekdays.indexOf(weekStart));
  const found: Retention = { keep: [], held: [], delete: [] };
  for (const copy of sorted) {
    const kept = verdictAhead(copy, now, policy) ?? reasons.get(copy.id) ?? [];
    const held = holdsOf(copy, now);
    if (kept.length > 0) found.keep.push({ id: copy.id, reasons: kept });
    else if (held.length > 0) found.held.push({ id: copy.id, reasons: held });
    else found.delete.push(copy.id);
  }
  return parsed(found);
}

const saysNothing = ({ count, maxAge, gfs }: RetentionPolicy): boolean =>
  (count ?? null) === null && (maxAge ?? null) === null && (gfs ?? null) === null;

/** What is decided without looking at the others; undefined where the policy is asked. */
function verdictAhead(copy: RetainedCopy, now: Milliseconds, policy: RetentionPolicy): KeepReason[] | undefined {
  if (copy.kind === 'manual') return ['manual'];
  if ((copy.state ?? 'ready') !== 'ready') return [];
  if (copy.at > now) return ['future'];
  return saysNothing(policy) ? ['no-policy'] : undefined;
}

const isCandidate = (copy: RetainedCopy, now: Milliseconds, policy: RetentionPolicy): boolean =>
  verdictAhead(copy, now, policy) === undefined;

const holdsOf = ({ lockedUntil, holds = [] }: RetainedCopy, now: Milliseconds): ('locked' | HoldReason)[] => [
  ...((lockedUntil ?? -Infinity) > now ? (['locked'] as const) : []),
  ...holdReasons.filter((hold) => holds.includes(hold)),
];

/** The reasons of each candidate in their order; candidates are given newest first. */
function reasonsFor(
  candidates: readonly RetainedCopy[],
  now: Milliseconds,
  { count, maxAge, minKeep, gfs }: RetentionPolicy,
  zone: Zone,
  weekStart: number,
): Map<string, KeepReason[]> {
  const found = new Map<string, KeepReason[]>();
  const keep = (copy: RetainedCopy, reason: KeepReason) => {
    const known = found.get(copy.id);
    if (known) known.push(reason);
    else found.set(copy.id, [reason]);
  };
  for (const copy of candidates.slice(0, count ?? 0)) keep(copy, 'count');
  if (typeof maxAge === 'number') for (const copy of candidates) if (now - copy.at <= maxAge) keep(copy, 'age');
  for (const level of levels)
    for (const copy of chosenOf(candidates, gfs?.[level] ?? 0, periodKey(level, zone, weekStart), gfs?.pick ?? 'last'))
      keep(copy, level);
  for (const copy of candidates.slice(0, minKeep ?? 0)) keep(copy, 'minKeep');
  return found;
}

/** One copy of each of the newest periods that hold any: an outage uses up none. */
function chosenOf(
  candidates: readonly RetainedCopy[],
  periods: number,
  keyOf: (at: Milliseconds) => number | string,
  pick: 'last' | 'first',
): RetainedCopy[] {
  const chosen: RetainedCopy[] = [];
  if (periods === 0) return chosen;
  let period: number | string | null = null;
  for (const copy of candidates) {
    const key = keyOf(copy.at);
    if (key !== period) {
      if (chosen.length === periods) break;
      chosen.push(copy);
      period = key;
    } else if (pick === 'first') chosen[chosen.length - 1] = copy;
  }
  return chosen;
}

/** The period of a level in which an instant lies, by the local clock. An hour that comes twice is two. */
function periodKey(level: Level, zone: Zone, weekStart: number): (at: Milliseconds) => number | string {
  const dayOf = (at: Milliseconds) => Math.floor(zone.wallAt(at) / DAY);
  switch (level) {
    case 'hourly':
      return (at) => `${Math.floor(zone.wallAt(at) / HOUR)} ${zone.offsetAt(at)}`;
    case 'daily':
      return dayOf;
    case 'weekly':
      return (at) => weekStartOf(dayOf(at), weekStart);
    case 'monthly':
      return (at) => {
        const { year, month } = civilOf(dayOf(at));
        return year * 12 + month;
      };
    case 'yearly':
      return (at) => civilOf(dayOf(at)).year;
  }
}

/**
 * What is left of copies made regularly and pruned after each: `runs` of them, from `firstAt`, `every` so often, each locked for `lock`.
 * Reasons: schedule-zone-unknown.
 */
export function retainOverTime({
  firstAt,
  every,
  runs,
  lock = 0,
  ...asked
}: Omit<Asked, 'now'> & {
  firstAt: Milliseconds;
  every: Milliseconds;
  runs: number;
  lock?: Milliseconds;
}): Parsed<Milliseconds[]> {
  let left: RetainedCopy[] = [];
  for (let k = 0; k < runs; k++) {
    const now = firstAt + k * every;
    left.push({ id: String(now), at: now, lockedUntil: now + lock });
    const verdict = retain({ ...asked, now, snapshots: left });
    if (!verdict.ok) return verdict;
    if (verdict.value.delete.length === 0) continue;
    const gone = new Set(verdict.value.delete);
    left = left.filter((copy) => !gone.has(copy.id));
  }
  return parsed(left.map((copy) => copy.at));
}
