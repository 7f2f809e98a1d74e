/** Times closer than this are one, seconds. */
const INSTANT = 1e-9;

export interface FluidSegment {
  seconds: number;
  demandPerS: number;
}

export interface FluidResult {
  /** `queued` and `tokens` stand at the end of each segment. */
  segments: { admitted: number; rejected: number; queued: number; tokens: number }[];
  admitted: number;
  rejected: number;
}

/**
 * A token bucket as a fluid (load.md I): out ≤ peak while there are tokens, else ≤ min(rate, peak); tokens grow by rate − out within [0, depth].
 * `police` rejects what is over; `shape` queues it, the queue first. It goes from event to event: tokens gone or full, queue gone, segment over.
 */
export function bucketFluid({
  ratePerS,
  depth,
  initial,
  segments,
  mode,
  peakPerS = Infinity,
}: {
  ratePerS: number;
  depth: number;
  initial: number;
  segments: readonly FluidSegment[];
  mode: 'police' | 'shape';
  peakPerS?: number;
}): FluidResult {
  let tokens = Math.min(depth, initial);
  let queued = 0;
  const each: FluidResult['segments'] = [];
  for (const { seconds, demandPerS } of segments) {
    let left = seconds;
    let [admitted, rejected] = [0, 0];
    while (left > INSTANT) {
      const cap = tokens > 0 ? peakPerS : Math.min(ratePerS, peakPerS);
      // What waits would go at once if it could.
      const out = queued > 0 && cap < Infinity ? cap : Math.min(demandPerS, cap);
      const refill = ratePerS - out;
      const waits = mode === 'shape' ? demandPerS - out : 0;
      const drained = refill < 0 && tokens > 0 ? tokens / -refill : Infinity;
      const filled = refill > 0 && tokens < depth ? (depth - tokens) / refill : Infinity;
      const served = queued > 0 && waits < 0 ? queued / -waits : Infinity;
      const step = Math.min(left, drained, filled, served);
      admitted += out * step;
      if (mode === 'police') rejected += (demandPerS - out) * step;
      const near = (event: number) => event - step <= INSTANT;
      queued = near(served) ? 0 : queued + waits * step;
      tokens = near(drained) ? 0 : near(filled) ? depth : Math.min(depth, Math.max(0, tokens + refill * step));
      left -= step;
    }
    each.push({ admitted, rejected, queued, tokens });
  }
  return {
    segments: each,
    admitted: each.reduce((sum, one) => sum + one.admitted, 0),
    rejected: each.reduce((sum, one) => sum + one.rejected, 0),
  };
}
