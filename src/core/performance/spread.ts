import { lognormalBelow } from '../load/path';
import { BUCKETS, FIRST_BUCKET_S, GAMMA } from './choices';

/** A lognormal's shares by bucket, from the bucket of its mean on; its width is taken in steps, and its mean to an eighth of a bucket. */
const STEPS = 48;
const EIGHTHS = 8;
/** Standard deviation of the logarithm at the last step. */
const WIDEST = 3;
const REACH = 60;
const LOG_GAMMA = Math.log(GAMMA);
/** Less than this share of a bucket is left out. */
const NEGLIGIBLE = 1e-4;

/** Shares of the buckets from `from` on, counted from the one of the mean. */
interface Shape {
  from: number;
  shares: Float64Array;
}
const shapes = new Map<number, Shape>();

function shapeOf(step: number, eighth: number): Shape {
  const key = step * EIGHTHS + eighth;
  let shape = shapes.get(key);
  if (!shape) {
    const sigma = (step / STEPS) * WIDEST;
    const variance = Math.expm1(sigma * sigma);
    // A mean of 1 that lies so far up in its bucket (γ^(−eighth/8), 1].
    const top = GAMMA ** (1 - (eighth + 0.5) / EIGHTHS);
    let below = 0;
    const all = Array.from({ length: 2 * REACH + 1 }, (_, k) => {
      const upTo = k === 2 * REACH ? 1 : lognormalBelow(1, variance, top * GAMMA ** (k - REACH));
      const share = upTo - below;
      below = upTo;
      return share;
    });
    const first = all.findIndex((share) => share >= NEGLIGIBLE);
    const some = all.slice(first, all.findLastIndex((share) => share >= NEGLIGIBLE) + 1);
    const sum = some.reduce((total, share) => total + share, 0);
    shape = { from: first - REACH, shares: Float64Array.from(some, (share) => share / sum) };
    shapes.set(key, shape);
  }
  return shape;
}

/** Shares of a histogram from a bucket on. */
export interface Spread {
  first: number;
  shares: Float64Array;
}

const WHOLE = Float64Array.of(1);

/** How a lognormal latency lies over the buckets of a histogram; null where there is none. */
export function spreadOf(meanS: number, varianceS2: number): Spread | null {
  if (meanS <= 0) return null;
  const sigma = Math.sqrt(Math.log1p(varianceS2 / (meanS * meanS)));
  const step = Math.min(STEPS, Math.round((sigma / WIDEST) * STEPS));
  const place = Math.log(meanS / FIRST_BUCKET_S) / LOG_GAMMA;
  const floor = Math.floor(place);
  if (step === 0) return { first: floor + 1, shares: WHOLE };
  const { from, shares } = shapeOf(step, Math.min(EIGHTHS - 1, Math.floor((place - floor) * EIGHTHS)));
  return { first: floor + 1 + from, shares };
}

/** Adds `count` operations that lie so to a histogram. */
export function addSpread(counts: Float64Array, count: number, { first, shares }: Spread): void {
  if (first >= 0 && first + shares.length <= BUCKETS)
    for (let k = 0; k < shares.length; k++) counts[first + k]! += count * shares[k]!;
  else
    for (let k = 0; k < shares.length; k++)
      counts[Math.min(BUCKETS - 1, Math.max(0, first + k))]! += count * shares[k]!;
}

/** Adds `count` operations of a lognormal latency to a histogram. */
export function spread(counts: Float64Array, count: number, meanS: number, varianceS2: number): void {
  const how = count > 0 ? spreadOf(meanS, varianceS2) : null;
  if (how) addSpread(counts, count, how);
}
