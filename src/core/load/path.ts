import { bisected } from '../units/bisect';
import { deviateOf, normalBelow, percentileKey } from './percentile';
import { waitChance } from './queue';
import { saturation, type Saturated } from './saturation';

/** One stage on the way of an I/O. Times in seconds, rates a second; SCV is the squared coefficient of variation. */
export interface Stage {
  id: string;
  /** Chance that it is visited, or above 1 so many visits in a row. */
  visits: number;
  serviceS: number;
  servers: number;
  arrivalScv: number;
  serviceScv: number;
  /** Added to each visit whatever the load. */
  fixedS?: number;
  /** What others ask of it. */
  otherPerS?: number;
}

export type PathPercentiles = Readonly<Record<`p${string}`, number>>;

/** Quantile of a lognormal of this mean and variance; without variance the mean. */
export function lognormalQuantile(mean: number, variance: number, percentile: number): number {
  if (variance <= 0 || mean <= 0) return mean;
  const s2 = Math.log1p(variance / (mean * mean));
  return Math.exp(Math.log(mean) - s2 / 2 + deviateOf(percentile) * Math.sqrt(s2));
}

/** Share of a lognormal of this mean and variance that is at most `value`. */
export function lognormalBelow(mean: number, variance: number, value: number): number {
  if (variance <= 0 || mean <= 0) return value >= mean ? 1 : 0;
  if (value <= 0) return 0;
  const s2 = Math.log1p(variance / (mean * mean));
  return normalBelow((Math.log(value) - Math.log(mean) + s2 / 2) / Math.sqrt(s2));
}

/**
 * Mean and variance of the time an I/O takes over its stages, and lognormal percentiles (load.md D). The first stage that is saturated, in path
 * order, gives the saturated answer.
 */
export function path({
  arrivalsPerS,
  stages,
  percentiles = [],
}: {
  arrivalsPerS: number;
  stages: readonly Stage[];
  percentiles?: readonly number[];
}):
  | (Saturated & { stage: string })
  | (PathPercentiles & {
      saturated: false;
      meanS: number;
      varianceS2: number;
      stages: { id: string; rho: number; responseS: number }[];
    }) {
  let meanS = 0;
  let varianceS2 = 0;
  const each: { id: string; rho: number; responseS: number }[] = [];
  for (const stage of stages) {
    const { id, visits, serviceS, servers, arrivalScv, serviceScv, fixedS = 0, otherPerS = 0 } = stage;
    const asked = arrivalsPerS * visits + otherPerS;
    const full = saturation(asked, serviceS, servers);
    if (full) return { ...full, stage: id };
    const a = asked * serviceS;
    const chance = waitChance(a, servers);
    const g = (arrivalScv + serviceScv) / 2 / (servers / serviceS - asked);
    const wait = chance * g;
    const one = wait + serviceS + fixedS;
    meanS += visits * one;
    varianceS2 += visits * (chance * (2 - chance) * g * g + serviceScv * serviceS * serviceS);
    if (visits < 1) varianceS2 += visits * (1 - visits) * one * one;
    each.push({ id, rho: a / servers, responseS: wait + serviceS });
  }
  const more: Record<string, number> = {};
  for (const percentile of percentiles)
    more[percentileKey(percentile)] = lognormalQuantile(meanS, varianceS2, percentile);
  return { saturated: false, meanS, varianceS2, stages: each, ...(more as PathPercentiles) };
}

/** One kind of I/O in a mixture. */
export interface LatencyClass {
  share: number;
  meanS: number;
  varianceS2: number;
}

/** Quantile of a weighted sum of lognormals; shares are scaled to sum 1, a class without variance is a step. By bisection. */
export function mixtureQuantile(classes: readonly LatencyClass[], percentile: number): number {
  const some = classes.filter(({ share }) => share > 0);
  const total = some.reduce((sum, { share }) => sum + share, 0);
  if (total === 0) return 0;
  const q = percentile / 100;
  const below = (value: number) =>
    some.reduce((sum, one) => sum + (one.share / total) * lognormalBelow(one.meanS, one.varianceS2, value), 0) - q;
  let high = Math.max(...some.map(({ meanS }) => meanS), Number.MIN_VALUE);
  while (below(high) < 0) high *= 2;
  return bisected(below, 0, high);
}

/** Mean and percentiles of several kinds of I/O together: read hits, read misses and writes keep their own shape (load.md D). */
export function mixture({
  classes,
  percentiles,
}: {
  classes: readonly LatencyClass[];
  percentiles: readonly number[];
}): { meanS: number } & PathPercentiles {
  const total = classes.reduce((sum, { share }) => sum + share, 0);
  const meanS = total === 0 ? 0 : classes.reduce((sum, { share, meanS: mean }) => sum + (share / total) * mean, 0);
  const more: Record<string, number> = {};
  for (const percentile of percentiles) more[percentileKey(percentile)] = mixtureQuantile(classes, percentile);
  return { meanS, ...(more as PathPercentiles) };
}
