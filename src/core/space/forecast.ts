import type { Bytes } from '../units/bytes';

/** A day's last figure. */
export interface Sample {
  day: number;
  bytes: Bytes;
}

export interface Forecast {
  /** Bytes a day, and its bounds at 95 %. */
  slope: number;
  low: number;
  high: number;
  /** The level of the trend on the last day. */
  level: number;
  /** Whole days until the threshold, and the earliest and latest; null for never. */
  days: number | null;
  earliest: number | null;
  latest: number | null;
  /** With the week's rhythm, where there is one. */
  daysInSeason: number | null;
  why: 'grows' | 'flat' | 'falling' | 'reached';
  /** Fewer than 14 samples. */
  weak: boolean;
  steps: { day: number; bytes: Bytes }[];
  recentStep: boolean;
}

export type ForecastFailure = 'too-few-samples' | 'threshold-above-capacity';

/** Longest series that is looked at: the slopes of all pairs are taken. */
const MOST_SAMPLES = 400;
const Z95 = 1.959964;

export function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  const middle = sorted.length >> 1;
  return sorted.length % 2 === 1 ? sorted[middle]! : (sorted[middle - 1]! + sorted[middle]!) / 2;
}

/**
 * When a series reaches a threshold: confirmed steps are taken out, a weekly rhythm is found, a line is laid through the medians of all slopes
 * (Theil and Sen), with the confidence bounds of Sen 1968 from the variance of Kendall's statistic.
 */
export function forecast(series: readonly Sample[], capacity: Bytes, threshold: Bytes): Forecast | ForecastFailure {
  if (threshold > capacity) return 'threshold-above-capacity';
  const samples = series.slice(-MOST_SAMPLES);
  if (new Set(samples.map((one) => one.day)).size < 2) return 'too-few-samples';
  const daily = samples.every((one, k) => k === 0 || one.day - samples[k - 1]!.day === 1);
  const { levelled, steps, recent } = daily
    ? withoutSteps(samples, capacity)
    : { levelled: [...samples], steps: [], recent: null };
  let line = theilSen(levelled, capacity);
  let season: number[] | null = null;
  if (daily && levelled.length >= 21) {
    season = weekly(levelled, line);
    if (season) {
      const rhythm = season;
      line = theilSen(
        levelled.map((one) => ({ ...one, bytes: one.bytes - rhythm[mod7(one.day)]! })),
        capacity,
      );
    }
  }
  const last = levelled.at(-1)!;
  const level = line.intercept + line.slope * last.day;
  const reached = samples.at(-1)!.bytes >= threshold;
  const within = (slope: number) => (slope > 0 ? Math.max(0, Math.floor((threshold - level) / slope + 1e-9)) : null);
  return {
    slope: line.slope,
    low: line.low,
    high: line.high,
    level,
    days: reached ? 0 : within(line.slope),
    earliest: reached ? 0 : within(line.high),
    latest: reached ? 0 : within(line.low),
    daysInSeason: season && !reached ? seasonal(level, line.slope, season, last.day, threshold) : null,
    why: reached ? 'reached' : line.slope > 0 ? 'grows' : line.high < 0 ? 'falling' : 'flat',
    weak: samples.length < 14,
    steps,
    recentStep: recent !== null && !(season && withinRhythm(samples, season, recent, capacity)),
  };
}

const mod7 = (day: number): number => ((day % 7) + 7) % 7;

/** Finds jumps that last, and lifts what came before them. Windows of seven cancel the week. */
function withoutSteps(samples: readonly Sample[], capacity: Bytes) {
  const levelled = samples.map((one) => ({ ...one }));
  const steps: { day: number; bytes: Bytes }[] = [];
  let recent: number | null = null;
  const n = samples.length;
  if (n < 15) return { levelled, steps, recent };
  const y = samples.map((one) => one.bytes);
  const d = y.slice(1).map((value, k) => value - y[k]!);
  const usual = median(d);
  const spread = 1.4826 * median(d.map((value) => Math.abs(value - usual)));
  const confirmed: { at: number; jump: number }[] = [];
  d.forEach((value, i) => {
    const jump = value - usual;
    if (Math.abs(jump) <= Math.max(6 * spread, 0.02 * capacity)) return;
    if (i + 7 > n - 1) recent = i;
    if (i < 6 || i + 7 > n - 1) return;
    const shift = median(y.slice(i + 1, i + 8)) - median(y.slice(i - 6, i + 1)) - 7 * usual;
    if (Math.sign(shift) === Math.sign(jump) && Math.abs(shift) >= 0.5 * Math.abs(jump))
      confirmed.push({ at: i, jump });
  });
  for (const { at, jump } of confirmed) {
    for (let k = 0; k <= at; k++) levelled[k]!.bytes += jump;
    steps.push({ day: samples[at + 1]!.day, bytes: jump });
  }
  return { levelled, steps, recent };
}

/** Whether a jump near the end is no more than the week's rhythm. */
function withinRhythm(samples: readonly Sample[], season: readonly number[], at: number, capacity: Bytes): boolean {
  const y = samples.map((one) => one.bytes - season[mod7(one.day)]!);
  const d = y.slice(1).map((value, k) => value - y[k]!);
  const usual = median(d);
  const spread = 1.4826 * median(d.map((value) => Math.abs(value - usual)));
  return Math.abs(d[at]! - usual) <= Math.max(6 * spread, 0.02 * capacity);
}

interface Line {
  slope: number;
  intercept: number;
  low: number;
  high: number;
}

function theilSen(samples: readonly Sample[], capacity: Bytes): Line {
  const slopes: number[] = [];
  for (let i = 0; i < samples.length; i++)
    for (let j = i + 1; j < samples.length; j++) {
      const run = samples[j]!.day - samples[i]!.day;
      if (run !== 0) slopes.push((samples[j]!.bytes - samples[i]!.bytes) / run);
    }
  const sorted = Float64Array.from(slopes).sort();
  const count = sorted.length;
  const middle = count >> 1;
  const dust = (value: number) => (Math.abs(value) < 1e-12 * capacity ? 0 : value);
  const slope = dust(count % 2 === 1 ? sorted[middle]! : (sorted[middle - 1]! + sorted[middle]!) / 2);
  const n = samples.length;
  const ties = new Map<number, number>();
  for (const { bytes } of samples) ties.set(bytes, (ties.get(bytes) ?? 0) + 1);
  let tied = 0;
  for (const u of ties.values()) tied += u * (u - 1) * (2 * u + 5);
  const c = Z95 * Math.sqrt((n * (n - 1) * (2 * n + 5) - tied) / 18);
  const low = sorted[Math.max(1, Math.floor((count - c) / 2)) - 1]!;
  const high = sorted[Math.min(count, Math.ceil((count + c) / 2) + 1) - 1]!;
  return {
    slope,
    intercept: median(samples.map((one) => one.bytes - slope * one.day)),
    low: dust(low),
    high: dust(high),
  };
}

/** The rhythm of the week around a line, or null where it explains less than two fifths of what is left. */
function weekly(samples: readonly Sample[], { slope, intercept }: Line): number[] | null {
  const rest = samples.map((one) => ({ day: one.day, value: one.bytes - intercept - slope * one.day }));
  const season = Array.from({ length: 7 }, (_, w) => {
    const values = rest.filter((one) => mod7(one.day) === w).map((one) => one.value);
    return values.length === 0 ? 0 : median(values);
  });
  const mean = season.reduce((sum, value) => sum + value, 0) / 7;
  const centred = season.map((value) => value - mean);
  const square = (values: readonly number[]) => values.reduce((sum, value) => sum + value * value, 0);
  const all = square(rest.map((one) => one.value));
  const left = square(rest.map((one) => one.value - centred[mod7(one.day)]!));
  return all > 1e-12 * square(samples.map((one) => one.bytes)) && 1 - left / all >= 0.4 ? centred : null;
}

function seasonal(
  level: number,
  slope: number,
  season: readonly number[],
  day: number,
  threshold: Bytes,
): number | null {
  const most = slope > 0 ? 3650 : 7;
  for (let after = 1; after <= most; after++)
    if (level + slope * after + season[mod7(day + after)]! >= threshold) return after;
  return null;
}

/** Days in words: never a date where growth is not certain. */
export function runwayWords(answer: Forecast | ForecastFailure): string {
  if (answer === 'too-few-samples') return 'too few days on record';
  if (answer === 'threshold-above-capacity') return 'never: the mark lies above the size';
  if (answer.why === 'reached') return 'reached';
  if (answer.days === null) return answer.why === 'falling' ? 'never: it is falling' : 'never: it does not grow';
  if (answer.latest === null) return 'not certain to grow';
  return dayWords(answer.days);
}

/** Days as they are shown: rounded down, and beyond ten years no number. */
export const dayWords = (days: number): string =>
  days > 3650 ? 'more than 10 years' : `${days} ${days === 1 ? 'day' : 'days'}`;

/** The band around a forecast in words; empty where there is none to tell. */
export function bandWords(answer: Forecast | ForecastFailure): string {
  if (typeof answer === 'string' || answer.days === null || answer.days === 0 || answer.earliest === null) return '';
  const weak = answer.weak ? ', few samples' : '';
  if (answer.latest === null) return `at the earliest in ${dayWords(answer.earliest)}${weak}`;
  if (answer.earliest === answer.latest) return `the past is so even that all of it says the same${weak}`;
  return `between ${answer.earliest} and ${dayWords(answer.latest)}${weak}`;
}
