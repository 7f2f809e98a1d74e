import { changedBytes, firstFailure, type WriteClass } from '../protect/changed-bytes';
import { bisected } from '../units/bisect';
import { formatDuration, SECOND } from '../units/duration';
import { notParsed, parsed, type Parsed } from '../units/parsed';

/** Two moments closer than this are one, seconds. */
const INSTANT = 1e-9;
/** A period beyond this is none, seconds. */
const ENDLESS = 3650 * 86_400;

/** What one cycle costs: `fixedS` before the first byte, then what has changed, so much smaller on the wire, through this bandwidth. */
export interface CycleCost {
  classes: readonly WriteClass[];
  bandwidthBytesPerS: number;
  /** Bytes sent for each that changed. */
  wireRatio: number;
  fixedS: number;
}

/** Seconds that a cycle takes which sends what changed in `spanS`. */
export const cycleSeconds = ({ classes, bandwidthBytesPerS, wireRatio, fixedS }: CycleCost, spanS: number): number => {
  const bytes = changedBytes(classes, spanS) * wireRatio;
  return fixedS + (bytes === 0 ? 0 : bytes / bandwidthBytesPerS);
};

export interface SteadyCycles {
  mode: 'scheduled' | 'back-to-back' | 'diverges';
  /** From one point in time to the next, and how long each is on its way, seconds; null where they diverge. */
  cycleS: number | null;
  transferS: number | null;
  worstLagS: number | null;
  meanLagS: number | null;
  bestLagS: number | null;
}

/**
 * How a replication settles under writes that stay as they are (protect.md H2): at its ticks while a cycle fits between two, else one cycle after
 * the other at the period at which what changes in it is sent in it. Reasons: those of `uniqueChanged`.
 */
export function rpoSteady({ intervalS, ...cost }: CycleCost & { intervalS: number }): Parsed<SteadyCycles> {
  const failure = firstFailure(cost.classes);
  if (failure) return failure;
  const first = cycleSeconds(cost, intervalS);
  if (first <= intervalS + INSTANT) return parsed(lags('scheduled', intervalS, first));
  const spare = (periodS: number) => periodS - cycleSeconds(cost, periodS);
  let high = intervalS;
  while (high < ENDLESS && spare(high) < 0) high = Math.min(ENDLESS, high * 2);
  if (spare(high) < 0)
    return parsed({ mode: 'diverges', cycleS: null, transferS: null, worstLagS: null, meanLagS: null, bestLagS: null });
  const period = bisected(spare, intervalS, high);
  return parsed(lags('back-to-back', period, period));
}

const lags = (mode: 'scheduled' | 'back-to-back', cycleS: number, transferS: number): SteadyCycles => ({
  mode,
  cycleS,
  transferS,
  worstLagS: cycleS + transferS,
  meanLagS: transferS + cycleS / 2,
  bestLagS: transferS,
});

/**
 * The least bandwidth that holds a recovery point of `rpoS`: what changes in an interval must be gone within it, and within what the recovery
 * point leaves behind it. Half of the recovery point is the best interval, since what changes grows ever slower. Reasons: rpo-interval-too-long,
 * rpo-fixed-cost-exceeds-interval, those of `uniqueChanged`.
 */
export function rpoMinBandwidth({
  classes,
  rpoS,
  wireRatio,
  fixedS,
  intervalS = null,
}: Omit<CycleCost, 'bandwidthBytesPerS'> & { rpoS: number; intervalS?: number | null }): Parsed<{
  intervalS: number;
  bytesPerS: number;
}> {
  const failure = firstFailure(classes);
  if (failure) return failure;
  const interval = intervalS ?? rpoS / 2;
  const sending = Math.min(interval, rpoS - interval) - fixedS;
  if (sending > 0)
    return parsed({ intervalS: interval, bytesPerS: (wireRatio * changedBytes(classes, interval)) / sending });
  const words = (seconds: number) => formatDuration(Math.max(0, seconds) * SECOND);
  return intervalS !== null && rpoS - interval - fixedS <= 0
    ? notParsed(
        'rpo-interval-too-long',
        `Copying every ${words(interval)} leaves no time to send within ${words(rpoS)}; shorten the interval below ${words(rpoS - fixedS)}.`,
      )
    : notParsed(
        'rpo-fixed-cost-exceeds-interval',
        `Each cycle costs ${words(fixedS)} before a byte is sent; ${words(rpoS)} cannot be met.`,
      );
}
