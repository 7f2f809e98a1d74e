import type { Cycle } from '../estate/entities';
import { DAY, HOUR, type Milliseconds } from '../units/duration';
import { CYCLES_KEPT } from './choices';

/** How long a replication remembers how far it was behind. */
export const LAG_KEPT: Milliseconds = 30 * DAY;

type Ended = Pick<Cycle, 'id' | 'startedAt' | 'finishedAt' | 'lagBefore' | 'lagAfter' | 'result'>;

/** Old cycles are looked at once in so many: it takes all of them. */
const THINNED_AT = 60;

/** How far the target was behind just before a cycle was applied. */
const peakOf = ({ startedAt, finishedAt, lagBefore }: Omit<Ended, 'id' | 'result' | 'lagAfter'>): Milliseconds =>
  lagBefore + finishedAt - startedAt;

/**
 * Cycles that are forgotten once another one ends: of those that are no longer among the newest, one an hour is kept, the one before which the
 * target was furthest behind, and none longer than 30 days. Failed ones go first.
 */
export function forgottenCycles<C extends Ended>(all: readonly C[], now: Milliseconds): C[] {
  if (all.length < CYCLES_KEPT || all.length % THINNED_AT !== 0) return [];
  const newestFirst = [...all].sort((a, b) => b.finishedAt - a.finishedAt);
  const kept = new Map<number, C>();
  const going: C[] = [];
  for (const one of newestFirst.slice(CYCLES_KEPT - 1)) {
    if (now - one.finishedAt > LAG_KEPT || one.result === 'failed') {
      going.push(one);
      continue;
    }
    const hour = Math.floor(one.finishedAt / HOUR);
    const rival = kept.get(hour);
    if (!rival) kept.set(hour, one);
    else if (peakOf(one) > peakOf(rival)) {
      going.push(rival);
      kept.set(hour, one);
    } else going.push(one);
  }
  return going;
}

/** A moment, and how far the target was behind at it. */
export interface LagPoint {
  at: Milliseconds;
  lag: Milliseconds;
}

/**
 * How far a target was behind from a moment up to now: it rises with time and falls when a cycle is applied. Of `buckets` equal stretches each
 * shows its highest and its lowest lag, so that no peak is lost however long the stretch is.
 */
export function lagCourse(
  cycles: readonly Omit<Ended, 'id'>[],
  { from, now, lag, buckets = 280 }: { from: Milliseconds; now: Milliseconds; lag: Milliseconds; buckets?: number },
): LagPoint[] {
  const width = Math.max(1, (now - from) / buckets);
  const seen = new Map<number, { high: LagPoint; low: LagPoint }>();
  const put = (point: LagPoint) => {
    const bucket = Math.floor((point.at - from) / width);
    const known = seen.get(bucket);
    if (!known) seen.set(bucket, { high: point, low: point });
    else if (point.lag > known.high.lag) known.high = point;
    else if (point.lag < known.low.lag) known.low = point;
  };
  for (const one of cycles) {
    if (one.result !== 'done' || one.finishedAt < from) continue;
    put({ at: one.finishedAt, lag: peakOf(one) });
    put({ at: one.finishedAt, lag: one.lagAfter });
  }
  put({ at: now, lag });
  return [...seen.entries()]
    .sort(([a], [b]) => a - b)
    .flatMap(([, { high, low }]) => (high === low ? [high] : [high, low]))
    .sort((a, b) => a.at - b.at || b.lag - a.lag);
}
