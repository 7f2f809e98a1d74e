import { bisected } from '../units/bisect';
import { percentileKey } from './percentile';
import { saturation, type Saturated } from './saturation';

/** Chance that all of `servers` are busy for an offered load `a` without a queue (Erlang B): b₀ = 1, b ← a·b/(k + a·b). */
export function erlangB(a: number, servers: number): number {
  let b = 1;
  for (let k = 1; k <= servers; k++) b = (a * b) / (k + a * b);
  return b;
}

/** Chance that an arrival waits in M/M/c (Erlang C): b/(1 − ρ(1 − b)). */
export function waitChance(a: number, servers: number): number {
  const b = erlangB(a, servers);
  return b / (1 - (a / servers) * (1 - b));
}

type Percentiles = Readonly<Record<`responseP${string}` | `waitP${string}`, number>>;

export type Mmc =
  | Saturated
  | (Percentiles & {
      saturated: false;
      rho: number;
      pWait: number;
      waitS: number;
      responseS: number;
      queueLength: number;
    });

/** P(T > t) of the response of M/M/c: e^(−t/S)·[1 + C(1 − e^(−d·t/S))/d] with d = c − a − 1. */
function beyond(t: number, serviceS: number, chance: number, d: number): number {
  const x = t / serviceS;
  return Math.abs(d) < 1e-9
    ? Math.exp(-x) * (1 + chance * x)
    : Math.exp(-x) + (chance * (Math.exp(-x) - Math.exp(-x * (1 + d)))) / d;
}

/** The time within which the share `q` of M/M/c responses lies, in seconds; by bisection. */
export function mmcResponseQuantile(arrivalsPerS: number, serviceS: number, servers: number, q: number): number {
  const a = arrivalsPerS * serviceS;
  const chance = waitChance(a, servers);
  const below = (t: number) => 1 - q - beyond(t, serviceS, chance, servers - a - 1);
  let high = serviceS;
  while (below(high) < 0) high *= 2;
  return bisected(below, 0, high);
}

/** M/M/c: Poisson arrivals, exponential service of mean `serviceS` seconds, `servers` alike; exact (load.md C). */
export function mmc({
  arrivalsPerS,
  serviceS,
  servers,
  percentiles = [],
}: {
  arrivalsPerS: number;
  serviceS: number;
  servers: number;
  percentiles?: readonly number[];
}): Mmc {
  const full = saturation(arrivalsPerS, serviceS, servers);
  if (full) return full;
  const a = arrivalsPerS * serviceS;
  const pWait = waitChance(a, servers);
  const spare = servers / serviceS - arrivalsPerS;
  const waitS = pWait / spare;
  const more: Record<string, number> = {};
  for (const percentile of percentiles) {
    const q = percentile / 100;
    more[percentileKey(percentile, 'response')] = mmcResponseQuantile(arrivalsPerS, serviceS, servers, q);
    more[percentileKey(percentile, 'wait')] = pWait === 0 ? 0 : Math.max(0, Math.log(pWait / (1 - q)) / spare);
  }
  return {
    saturated: false,
    rho: a / servers,
    pWait,
    waitS,
    responseS: waitS + serviceS,
    queueLength: arrivalsPerS * waitS,
    ...(more as Percentiles),
  };
}

/** M/G/1: one server, service of mean `serviceS` seconds and squared coefficient of variation `scv`; exact (Pollaczek–Khinchine). */
export function mg1({
  arrivalsPerS,
  serviceS,
  scv,
}: {
  arrivalsPerS: number;
  serviceS: number;
  scv: number;
}): Saturated | { saturated: false; rho: number; waitS: number; responseS: number; queueLength: number } {
  const full = saturation(arrivalsPerS, serviceS);
  if (full) return full;
  const rho = arrivalsPerS * serviceS;
  const waitS = ((rho / (1 - rho)) * (1 + scv) * serviceS) / 2;
  return { saturated: false, rho, waitS, responseS: waitS + serviceS, queueLength: arrivalsPerS * waitS };
}

/** G/G/c: (ca² + cs²)/2 times the wait of M/M/c (Kingman, Allen–Cunneen). */
export function ggc({
  arrivalsPerS,
  serviceS,
  servers,
  arrivalScv,
  serviceScv,
}: {
  arrivalsPerS: number;
  serviceS: number;
  servers: number;
  arrivalScv: number;
  serviceScv: number;
}): Saturated | { saturated: false; rho: number; waitS: number; responseS: number } {
  const full = saturation(arrivalsPerS, serviceS, servers);
  if (full) return full;
  const a = arrivalsPerS * serviceS;
  const waitS = (((arrivalScv + serviceScv) / 2) * waitChance(a, servers)) / (servers / serviceS - arrivalsPerS);
  return { saturated: false, rho: a / servers, waitS, responseS: waitS + serviceS };
}
