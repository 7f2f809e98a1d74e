/**
 * Chance of losing a leg of drives, as a continuous-time Markov chain over the number of failed drives, with read errors during the last
 * rebuild. Exponential lifetimes, no correlated failures, no errors of people or software: it compares designs, it promises nothing.
 */

export const YEAR_HOURS = 8766;

export interface LegModel {
  /** Drives of the leg and how many it may lose: a parity leg w and m, a mirror set c and c−1, level 0 n and 0. */
  width: number;
  survives: number;
  /** Failures an hour of one drive. */
  failureRate: number;
  /** Repairs an hour: of one drive, or with 1, 2, … drives failed where that differs. */
  repairRate: number | readonly number[];
  /** Failed drives are repaired side by side: k times as fast with k of them. Without it one after the other. */
  parallel?: boolean;
  /** Chance that a rebuild without redundancy left meets an unrecoverable read error. */
  readErrorChance: number;
}

/** λ = −ln(1−AFR)/8766 an hour. */
export function failureRate(annual: number): number {
  if (annual < 0 || annual >= 1) throw new RangeError(`An annual failure rate of ${annual} is no share below 1.`);
  return -Math.log1p(-annual) / YEAR_HOURS;
}

/** h = 1 − (1−q)^bits, for `sources` strips read for each of `bytes` bytes rebuilt. */
export const readErrorChance = (errorRate: number, sources: number, bytes: number): number =>
  -Math.expm1(8 * sources * bytes * Math.log1p(-errorRate));

/** Repairs an hour with k drives failed. */
function repairRateOf({ repairRate, parallel }: LegModel, k: number): number {
  const rate = typeof repairRate === 'number' ? repairRate : (repairRate[k - 1] ?? repairRate.at(-1)!);
  return parallel ? k * rate : rate;
}

/** Rates up (a failure more) and down (one repaired) from each number of failed drives; the last up rate leads to loss. */
function ratesOf(model: LegModel) {
  const { width, survives, failureRate: lambda, readErrorChance: h } = model;
  const up: number[] = [];
  const down: number[] = [0];
  for (let k = 0; k <= survives; k++) up.push((width - k) * lambda);
  for (let k = 1; k <= survives; k++) down.push((k === survives ? 1 - h : 1) * repairRateOf(model, k));
  if (survives > 0) up[survives]! += h * repairRateOf(model, survives);
  return { up, down };
}

/** Mean time to data loss in hours, from no failure: E_0 = 1/a_0, E_k = (1 + b_k·E_{k−1})/a_k, their sum. Null where nothing ever fails. */
export function meanTimeToLoss(model: LegModel): number | null {
  if (model.failureRate === 0) return null;
  const { up, down } = ratesOf(model);
  let last = 0;
  let sum = 0;
  for (let k = 0; k < up.length; k++) {
    last = (1 + down[k]! * last) / up[k]!;
    sum += last;
  }
  return sum;
}

/**
 * P(loss within `hours`): entry (0, L) of exp(Q·t) by uniformisation, Λ = max|q_ii|, M = I + Q/Λ, a Taylor series of 30 terms over t/2^s and
 * s squarings. Only non-negative numbers are added, so nothing cancels.
 */
export function chanceOfLoss(model: LegModel, hours: number): number {
  if (model.failureRate === 0 || hours <= 0) return 0;
  const key = `${JSON.stringify(model)} ${hours}`;
  let chance = known.get(key);
  if (chance === undefined) {
    if (known.size >= MOST_KNOWN) known.clear();
    known.set(key, (chance = computedChance(model, hours)));
  }
  return chance;
}

/** The same groups are asked about again and again while a form is filled in. */
const known = new Map<string, number>();
const MOST_KNOWN = 2000;

function computedChance(model: LegModel, hours: number): number {
  const { up, down } = ratesOf(model);
  const states = up.length + 1;
  const fastest = Math.max(...up.map((rate, k) => rate + down[k]!));
  let squarings = 0;
  let a = fastest * hours;
  while (a > 0.5) {
    a /= 2;
    squarings += 1;
  }
  const step = new Float64Array(states * states);
  for (let k = 0; k < up.length; k++) {
    step[k * states + k] = 1 - (up[k]! + down[k]!) / fastest;
    step[k * states + k + 1] = up[k]! / fastest;
    if (k > 0) step[k * states + k - 1] = down[k]! / fastest;
  }
  step[states * states - 1] = 1;
  let term: Float64Array = new Float64Array(states * states);
  for (let k = 0; k < states; k++) term[k * states + k] = Math.exp(-a);
  let result: Float64Array = term.slice();
  for (let k = 1; k < 30; k++) {
    term = multiply(term, step, states, a / k);
    for (let i = 0; i < term.length; i++) result[i]! += term[i]!;
  }
  for (let k = 0; k < squarings; k++) result = multiply(result, result, states, 1);
  return Math.min(1, result[states - 1]!);
}

function multiply(a: Float64Array, b: Float64Array, n: number, scale: number): Float64Array {
  const out = new Float64Array(n * n);
  for (let i = 0; i < n; i++)
    for (let k = 0; k < n; k++) {
      const value = a[i * n + k]! * scale;
      if (value === 0) continue;
      for (let j = 0; j < n; j++) out[i * n + j]! += value * b[k * n + j]!;
    }
  return out;
}

/** Several independent legs: 1 − (1−P)^G. */
export const chanceOfAny = (chance: number, legs: number): number => -Math.expm1(legs * Math.log1p(-chance));

/** Independent groups that each lose data with some chance, as the groups under a pool: 1 − Π(1−P_i). */
export const chanceOfOne = (chances: readonly number[]): number =>
  -Math.expm1(chances.reduce((sum, chance) => sum + Math.log1p(-chance), 0)) || 0;

/** Nines of durability: −log10(P); Infinity where nothing can be lost. */
export const nines = (chance: number): number => (chance === 0 ? Infinity : -Math.log10(chance));

/** Closed approximation of the mean time to loss, to compare: Π μ_k / (Π_{k<m}(w−k)λ · ((w−m)λ + h·μ)). */
export function approximateTimeToLoss(model: LegModel): number {
  const { width: w, survives: m, failureRate: lambda, readErrorChance: h } = model;
  let top = 1;
  let bottom = 1;
  for (let k = 0; k < m; k++) {
    top *= repairRateOf(model, k + 1);
    bottom *= (w - k) * lambda;
  }
  return top / (bottom * ((w - m) * lambda + (m > 0 ? h * repairRateOf(model, m) : 0)));
}

/** Drives expected to be replaced in a year: −n·ln(1−AFR). */
export const replacedAYear = (drives: number, annual: number): number => -drives * Math.log1p(-annual);
