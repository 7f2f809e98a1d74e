import { changedWithin, hoursOfWeek } from '../copies/activity';
import { shownBytes } from '../copies/parts';
import type { Replication, SiteLink, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { BytesPerSecond } from '../units/rate';
import { HOUR, SECOND, type Milliseconds } from '../units/duration';
import { DAY_FROM, FIXED } from './choices';
import { lineRateAt } from './line';

/** 1 January 1970 was a Thursday: a Monday. */
export const MONDAY: Milliseconds = 4 * 24 * HOUR;

export interface Need {
  /** The least bandwidth that holds the recovery point in the busiest hour, bytes a second; null where none does. */
  bytesPerS: BytesPerSecond | null;
  /** That hour of the week from Monday 00:00 UTC. */
  hour: number;
}

const workOf = (volumes: readonly Volume[], from: Milliseconds, span: Milliseconds): number =>
  volumes.reduce(
    (sum, volume) =>
      sum + (volume.activity ? changedWithin(volume.activity, shownBytes(volume), from, from + span) : 0),
    0,
  );

/** The busiest hour of the week for some volumes, and what an interval changes in it. */
function busiest(volumes: readonly Volume[], interval: Milliseconds): { bytes: number; hour: number } {
  const shapes = new Set(volumes.flatMap((volume) => volume.activity?.week ?? []));
  // Hours in which nothing moves otherwise than in the one before need not be looked at.
  const hours = Array.from({ length: 168 }, (_, hour) => hour).filter(
    (hour) => hour === 0 || [...shapes].some((shape) => hoursOfWeek(shape)[hour] !== hoursOfWeek(shape)[hour - 1]),
  );
  let found = { bytes: 0, hour: 0 };
  for (const hour of hours) {
    const bytes = workOf(volumes, MONDAY + hour * HOUR, interval);
    if (bytes > found.bytes) found = { bytes, hour };
  }
  return found;
}

/** What a replication needs of a line to hold a recovery point through the week (protect.md H2, judged by its busiest hour). */
export function needOfLine(
  volumes: readonly Volume[],
  { interval, rpo, wireRatio }: { interval: Milliseconds; rpo: Milliseconds | null; wireRatio: number },
): Need {
  const { bytes, hour } = busiest(volumes, interval);
  const sending = (rpo === null ? interval : Math.min(interval, rpo - interval)) - FIXED;
  return { bytesPerS: sending > 0 ? (bytes * wireRatio) / (sending / SECOND) : null, hour };
}

/** What a replication may have of its line when all that use it send at once, in an hour of the week; without one in the scarcer half of the day. */
export function shareOf(
  view: EstateView,
  link: SiteLink,
  weight: number,
  own?: Replication,
  hour?: number,
): BytesPerSecond {
  const others = view
    .table('replication')
    .by('link', link.id)
    .filter((row) => row.id !== own?.id);
  const all = others.reduce((sum, row) => sum + row.weight, weight);
  const hours = hour === undefined ? [0, DAY_FROM] : [hour];
  const through = Math.min(...hours.map((one) => lineRateAt(link, MONDAY + one * HOUR)));
  return Math.min(own?.cap ?? Infinity, (through * weight) / all);
}

const days = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];
/** `Monday 22:00 UTC` */
export const hourWords = (hour: number): string =>
  `${days[Math.floor(hour / 24)]} ${String(hour % 24).padStart(2, '0')}:00 UTC`;
