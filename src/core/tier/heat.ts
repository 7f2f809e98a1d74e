import { DAY, HOUR, type Milliseconds } from '../units/duration';
import { KIB, type Bytes } from '../units/bytes';

/** After so long an extent that nobody touches is half as hot (a choice of space.md I). */
export const HALF_LIFE: Milliseconds = DAY;
/** What one larger sequential I/O counts, where a scattered one of up to 64 KiB counts 1. */
export const SEQUENTIAL_WEIGHT = 0.25;
const SMALL: Bytes = 64 * KIB;
/** Heat below this is none. */
const NONE = 1e-9;

/** How much one access adds to the heat of its extent. */
export const accessWeight = ({ ioBytes, sequential }: { ioBytes: Bytes; sequential: boolean }): number =>
  sequential && ioBytes > SMALL ? SEQUENTIAL_WEIGHT : 1;

/** h(t) = h(t0)·2^(−(t − t0)/τ) + a; a is the weighted accesses since, summed first. Below 1e-9 it is none. */
export function heatAt({
  heat,
  since,
  at,
  accesses = 0,
  halfLife = HALF_LIFE,
}: {
  heat: number;
  since: Milliseconds;
  at: Milliseconds;
  accesses?: number;
  halfLife?: Milliseconds;
}): number {
  const now = heat * 2 ** (-(at - since) / halfLife) + accesses;
  return now < NONE ? 0 : now;
}

/** Where the heat of a steady rate settles: r/(1 − 2^(−1/τ)), `ratePerHour` accesses in hourly epochs. */
export const steadyHeat = ({
  ratePerHour,
  halfLife = HALF_LIFE,
}: {
  ratePerHour: number;
  halfLife?: Milliseconds;
}): number => ratePerHour / (1 - 2 ** (-HOUR / halfLife));
