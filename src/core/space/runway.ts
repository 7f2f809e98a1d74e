import type { Bytes } from '../units/bytes';
import type { Forecast, ForecastFailure } from './forecast';

/** A day on record: what was used last, at most, and of what. */
export interface UsagePoint {
  day: number;
  size: Bytes;
  promised: Bytes;
  written: Bytes;
  used: Bytes;
  most: Bytes;
}

/** What the Capacity view shows of a pool's past and future. */
export interface PoolRunway {
  pool: string;
  days: UsagePoint[];
  marks: { percent: number; at: Bytes; words: string; answer: Forecast | ForecastFailure }[];
}
