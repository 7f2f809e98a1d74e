import type { Bytes } from '../units/bytes';
import { forecast, type Forecast, type ForecastFailure, type Sample } from './forecast';

/** What somebody imagines of a pool. */
export interface Supposition {
  /** Usable bytes more. */
  added: Bytes;
  /** Growth more (or less) than it was, as a share: 0.5 for half as much again. */
  growth: number;
  /** Reduction the pool would come to, or null for what it has. */
  ratio: number | null;
}

export interface Supposed {
  size: Bytes;
  used: Bytes;
  marks: { percent: number; at: Bytes; answer: Forecast | ForecastFailure }[];
}

/**
 * A pool under a supposition. Its series is scaled so that today's use is what the ratio would make of it, and spread from today backwards so
 * that its growth is as supposed; then the marks are forecast as ever.
 */
export function suppose(
  pool: { size: Bytes; used: Bytes; data: Bytes; nonZero: Bytes; marks: readonly number[] },
  series: readonly Sample[],
  { added, growth, ratio }: Supposition,
): Supposed {
  const size = pool.size + added;
  const data = ratio === null ? pool.data : Math.round(pool.nonZero / ratio);
  const used = Math.max(0, pool.used - pool.data + data);
  const last = series.at(-1)?.bytes ?? 0;
  const scale = last === 0 ? 1 : used / last;
  const supposed = series.map((one) => ({
    day: one.day,
    bytes: Math.max(0, used - (last - one.bytes) * scale * (1 + growth)),
  }));
  return {
    size,
    used,
    marks: [...pool.marks, 100].map((percent) => {
      const at = Math.floor((size * percent) / 100);
      return { percent, at, answer: forecast(supposed, size, at) };
    }),
  };
}
