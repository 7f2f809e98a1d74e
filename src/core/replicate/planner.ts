import { hoursOfWeek } from '../copies/activity';
import { changedIn, type Writing } from '../copies/writing';
import type { Replication, SiteLink } from '../estate/entities';
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

/** Hours of the week in which something moves otherwise than in the one before; the others are like it. */
function turns({ volumes }: Writing): number[] {
  const shapes = new Set(volumes.flatMap((volume) => volume.activity?.week ?? []));
  return Array.from({ length: 168 }, (_, hour) => hour).filter(
    (hour) => hour === 0 || [...shapes].some((shape) => hoursOfWeek(shape)[hour] !== hoursOfWeek(shape)[hour - 1]),
  );
}

/** Values closer than this, relatively, are one. */
const CLOSE = 1e-9;

/** The first hour that is as scarce as the scarcest. */
export function firstMost(hours: readonly number[]): number {
  const most = Math.max(...hours);
  return hours.findIndex((one) => one >= most - Math.abs(most) * CLOSE);
}

export type Terms = Pick<Replication, 'interval' | 'rpo' | 'wireRatio'>;

/** Milliseconds that are left for sending what one interval changed; none or less where a promise leaves no time. */
const sendingTime = ({ interval, rpo }: Terms): Milliseconds =>
  (rpo === null ? interval : Math.min(interval, rpo - interval)) - FIXED;

/** What a replication needs of a line to hold a recovery point through the week (protect.md H2, judged by its busiest hour). */
export function needOfLine(writing: Writing, terms: Terms): Need {
  let most = { bytes: 0, hour: 0 };
  for (const hour of turns(writing)) {
    const bytes = changedIn(writing, MONDAY + hour * HOUR, terms.interval);
    if (bytes > most.bytes) most = { bytes, hour };
  }
  const sending = sendingTime(terms);
  return { bytesPerS: sending > 0 ? (most.bytes * terms.wireRatio) / (sending / SECOND) : null, hour: most.hour };
}

/** The same in each hour of the week from Monday 00:00 UTC; null where no line would do. */
export function needsByHour(writing: Writing, terms: Terms): BytesPerSecond[] | null {
  const sending = sendingTime(terms);
  if (sending <= 0) return null;
  return Array.from(
    { length: 168 },
    (_, hour) => (changedIn(writing, MONDAY + hour * HOUR, terms.interval) * terms.wireRatio) / (sending / SECOND),
  );
}

/** The hour of the week in which a line falls shortest of what is needed, and what is needed and given then. */
export function scarcestHour(
  view: EstateView,
  row: Replication,
  writing: Writing,
): { hour: number; need: BytesPerSecond; share: BytesPerSecond } | null {
  const needs = needsByHour(writing, row);
  if (!needs) return null;
  const link = view.table('siteLink').get(row.link)!;
  const hours = needs.map((need, hour) => ({ hour, need, share: shareOf(view, link, row.weight, row, hour) }));
  return hours[firstMost(hours.map((one) => one.need - one.share))]!;
}

/** What a replication may have of its line when all that use it send at once, in an hour of the week; without one in the scarcer half of the day. */
export function shareOf(
  view: EstateView,
  link: SiteLink,
  weight: number,
  own: Replication | null = null,
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
