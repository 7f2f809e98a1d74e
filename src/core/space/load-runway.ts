import { forecast, runwayWords, type Sample } from './forecast';
import type { ResourceRoom } from '../performance/room';

/** The forecast counts in whole numbers: what is used is looked at in parts of the mean of a week. */
const PARTS = 1e9;
/** Far above whatever may come to be used. */
const WHOLE = 1000 * PARTS;
/** Days whose mean is the level from which it grows: a week, so that no single day counts. */
const RECENT = 7;

/**
 * When what a resource has left is used up, in words: what is used by day laid on a line, until it has grown by as much as the busiest hour in the
 * worst single-failure state is below what the resource is good for. `days` holds what is used of it, or of it and those it may stand in for, in any
 * unit.
 */
export function loadRunway(
  { worst, room }: Pick<ResourceRoom, 'worst' | 'room'>,
  days: readonly { day: number; used: number }[],
): string {
  if (room <= 0) return 'used up';
  if (worst <= 0) return 'never asked';
  const recent = days.slice(-RECENT);
  if (recent.length === 0) return 'too few days';
  const level = recent.reduce((sum, { used }) => sum + used, 0) / recent.length;
  if (level <= 0) return 'never asked';
  // The limit lies above the worst hour by as much as the level may still grow.
  const growth = 1 / (1 - room);
  const series = days.map(({ day, used }): Sample => ({ day, bytes: Math.round((used / level) * PARTS) }));
  const answer = forecast(series, WHOLE, Math.min(WHOLE, Math.floor(growth * PARTS)));
  return runwayWords(answer)
    .replace(/^never: it /, '')
    .replace(' on record', '');
}
