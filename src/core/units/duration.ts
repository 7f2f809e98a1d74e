/** A span of simulated time. */
export type Milliseconds = number;

export const SECOND: Milliseconds = 1000;
export const MINUTE = 60 * SECOND;
export const HOUR = 60 * MINUTE;
export const DAY = 24 * HOUR;

/** `4 s`, `2 min 20 s`, `18 h 31 min`, `3 d 4 h`: two units at most, rounded up (time left to wait). */
export function formatDuration(span: Milliseconds): string {
  const seconds = Math.ceil(Math.max(0, span) / SECOND);
  if (seconds < 60) return `${seconds} s`;
  const pair = (large: number, largeUnit: string, small: number, smallUnit: string) =>
    small > 0 ? `${large} ${largeUnit} ${small} ${smallUnit}` : `${large} ${largeUnit}`;
  if (seconds < 3600) return pair(Math.floor(seconds / 60), 'min', seconds % 60, 's');
  const minutes = Math.ceil(seconds / 60);
  if (minutes < 1440) return pair(Math.floor(minutes / 60), 'h', minutes % 60, 'min');
  const hours = Math.ceil(minutes / 60);
  return pair(Math.floor(hours / 24), 'd', hours % 24, 'h');
}
