import { forecast, runwayWords, type Sample } from './forecast';
import type { ResourceRoom } from '../performance/room';

/** Utilisation is looked at in parts of a billion, for the forecast counts in whole numbers. */
const PARTS = 1e9;
/** Days whose mean is the level from which it grows: a week, so that no single day counts. */
const RECENT = 7;
/** Far above whatever utilisation may come to. */
const WHOLE = 1000 * PARTS;

/**
 * When what a resource has left is used up, in words: its daily means laid on a line, until they have grown by as much as its busiest hour in the
 * worst single-failure state is below what it is good for. `days` holds its mean utilisation by day, 0 to 1.
 */
export function loadRunway(
  { worst, room }: Pick<ResourceRoom, 'worst' | 'room'>,
  days: readonly { day: number; rho: number }[],
): string {
  if (room <= 0) return 'used up';
  if (worst <= 0) return 'never asked';
  const series = days.map(({ day, rho }): Sample => ({ day, bytes: Math.round(rho * PARTS) }));
  const recent = series.slice(-RECENT);
  if (recent.length === 0) return 'too few days';
  const level = recent.reduce((sum, { bytes }) => sum + bytes, 0) / recent.length;
  // The limit lies above the worst hour by as much as the mean may still grow.
  const limit = worst / (1 - room);
  const answer = forecast(series, WHOLE, Math.min(WHOLE, Math.floor((level * limit) / worst)));
  return runwayWords(answer)
    .replace(/^never: it /, '')
    .replace(' on record', '');
}
