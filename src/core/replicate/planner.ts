import { hoursOfWeek } from '../copies/activity';
import { cuts } from '../copies/replica';
import { changedIn, type Writing } from '../copies/writing';
import type { Replication, SiteLink } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { whileStill } from '../estate/while-still';
import type { BytesPerSecond } from '../units/rate';
import { HOUR, SECOND, type Milliseconds } from '../units/duration';
import { FIXED } from './choices';
import { lineRateAt } from './line';
import { arraysUnder } from './sides';
import { spareHours } from './spare';

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

/** The hour of the week in which a line or an array falls shortest of what is needed, and what is needed and given then. */
export function scarcestHour(
  view: EstateView,
  row: Replication,
  writing: Writing,
): { hour: number; need: BytesPerSecond; share: Share } | null {
  const needs = needsByHour(writing, row);
  if (!needs) return null;
  const link = view.table('siteLink').get(row.link)!;
  const shares = sharesOf(view, link, row.weight, row);
  const hours = needs.map((need, hour) => ({ hour, need, share: shares[hour]! }));
  return hours[firstMost(hours.map((one) => one.need - one.share.bytesPerS))]!;
}

/** Weights of all that cut, by the arrays they read from and write to. */
const weightsOn: (view: EstateView) => ReadonlyMap<string, number> = whileStill((view) => {
  const weights = new Map<string, number>();
  for (const row of view.table('replication').values())
    if (cuts(row))
      for (const array of arraysUnder(view, row)) weights.set(array, (weights.get(array) ?? 0) + row.weight);
  return weights;
});

/** What a replication may have, and the array whose groups leave no more; null where it is the line, or its own cap. */
export interface Share {
  bytesPerS: BytesPerSecond;
  array: string | null;
}

/**
 * What a replication may have in each hour of the week from Monday 00:00 UTC, when all that use its line, and those that use its arrays, send at
 * once: of the line, and of what hosts leave of the arrays' groups.
 */
export function sharesOf(
  view: EstateView,
  link: SiteLink,
  weight: number,
  own: Replication | null = null,
  arrays: readonly string[] = own ? arraysUnder(view, own) : [],
): Share[] {
  const onLine = view
    .table('replication')
    .by('link', link.id)
    .reduce((sum, row) => (row.id === own?.id ? sum : sum + row.weight), weight);
  const ownArrays = own && cuts(own) ? arraysUnder(view, own) : [];
  const besides = arrays.map((array) => {
    const others = (weightsOn(view).get(array) ?? 0) - (ownArrays.includes(array) ? own!.weight : 0);
    return { array, spare: spareHours(view, array), share: weight / (weight + Math.max(0, others)) };
  });
  return Array.from({ length: 168 }, (_, hour) => {
    const ofLine = (lineRateAt(link, MONDAY + hour * HOUR) * weight) / onLine;
    return besides.reduce<Share>(
      (least, { array, spare, share }) =>
        spare[hour]! * share < least.bytesPerS ? { bytesPerS: spare[hour]! * share, array } : least,
      { bytesPerS: Math.min(own?.cap ?? Infinity, ofLine), array: null },
    );
  });
}

/** The least of it in a week. */
export const shareOf = (...asked: Parameters<typeof sharesOf>): Share =>
  sharesOf(...asked).reduce((least, one) => (one.bytesPerS < least.bytesPerS ? one : least));
