/** Samples whose least and greatest give the range. */
const RECENT = 10;

export interface Eta {
  /** Smoothed; null without samples. */
  rateBytesPerS: number | null;
  /** Until the switch is done; null where hosts change as much as is copied. */
  seconds: number | null;
  /** The same by the greatest and the least of the last ten samples. */
  leastS: number | null;
  mostS: number | null;
}

/**
 * When a copy will be done: what is left and what changed, over the smoothed rate less what goes on changing, and the barrier (move.md B). The
 * first sample starts the rate, then α·x + (1 − α)·r.
 */
export function eta({
  copiedBytes,
  totalBytes,
  dirtyBytes,
  ratesBytesPerS,
  alpha,
  dirtyBytesPerS,
  barrierS,
}: {
  copiedBytes: number;
  totalBytes: number;
  dirtyBytes: number;
  ratesBytesPerS: readonly number[];
  alpha: number;
  dirtyBytesPerS: number;
  barrierS: number;
}): Eta {
  const [first, ...later] = ratesBytesPerS;
  if (first === undefined) return { rateBytesPerS: null, seconds: null, leastS: null, mostS: null };
  const rate = later.reduce((smoothed, sample) => alpha * sample + (1 - alpha) * smoothed, first);
  const left = totalBytes - copiedBytes + dirtyBytes;
  const at = (bytesPerS: number) =>
    bytesPerS <= dirtyBytesPerS ? null : left / (bytesPerS - dirtyBytesPerS) + barrierS;
  const recent = ratesBytesPerS.slice(-RECENT);
  return { rateBytesPerS: rate, seconds: at(rate), leastS: at(Math.max(...recent)), mostS: at(Math.min(...recent)) };
}
