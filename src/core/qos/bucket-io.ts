import { exactQuantile } from '../load/percentile';

export interface Bucket {
  ratePerS: number;
  depth: number;
  initial: number;
}

export interface BucketIo {
  atS: number;
  /** What it takes of each bucket, by the bucket's name. */
  cost: Readonly<Record<string, number>>;
}

/** Held against rounding when tokens are compared with a cost. */
const HAIR = 1e-12;

/**
 * Token buckets, I/O by I/O (load.md I): in order, each goes at the first time, no earlier than it arrives or the one before goes, at which every
 * bucket holds min(cost, depth); then the whole cost is taken, so that one larger than the depth leaves a debt. `police` rejects what would wait,
 * `shape` what would wait longer than `maxWaitS`; the rejected take nothing. Waits are over the admitted.
 */
export function bucketPerIo({
  buckets,
  ios,
  mode,
  maxWaitS = Infinity,
}: {
  buckets: Readonly<Record<string, Bucket>>;
  ios: readonly BucketIo[];
  mode: 'police' | 'shape';
  maxWaitS?: number;
}): {
  ios: { atS: number; goS: number | null }[];
  admitted: number;
  rejected: number;
  maxWaitS: number | null;
  p95WaitS: number | null;
} {
  const names = Object.keys(buckets);
  const tokens = names.map((name) => Math.min(buckets[name]!.depth, buckets[name]!.initial));
  const since = names.map(() => 0);
  const holds = (k: number, at: number) => {
    const { ratePerS, depth } = buckets[names[k]!]!;
    return Math.min(depth, tokens[k]! + ratePerS * Math.max(0, at - since[k]!));
  };
  let last = -Infinity;
  const waits: number[] = [];
  const each = ios.map(({ atS, cost }) => {
    const first = Math.max(atS, last);
    let goS = first;
    for (const [k, name] of names.entries()) {
      const { ratePerS, depth } = buckets[name]!;
      const lacks = Math.min(cost[name] ?? 0, depth) - holds(k, first);
      if (lacks > HAIR * Math.max(1, depth)) goS = Math.max(goS, ratePerS > 0 ? first + lacks / ratePerS : Infinity);
    }
    const wait = goS - atS;
    if (goS === Infinity || (mode === 'police' ? wait > 1e-9 : wait > maxWaitS)) return { atS, goS: null };
    for (const [k, name] of names.entries()) {
      tokens[k] = holds(k, goS) - (cost[name] ?? 0);
      since[k] = goS;
    }
    last = goS;
    waits.push(wait);
    return { atS, goS };
  });
  return {
    ios: each,
    admitted: waits.length,
    rejected: ios.length - waits.length,
    maxWaitS:
      waits.length === 0
        ? null
        : Math.max(
            0,
            waits.reduce((most, one) => Math.max(most, one), 0),
          ),
    p95WaitS: exactQuantile({ values: waits, q: 0.95 }).value,
  };
}
