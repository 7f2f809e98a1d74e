import type { Weekday } from './rule';
import { DAY, HOUR, type Milliseconds } from '../units/duration';

/** A stretch of hours that comes back: every day, or on days of the week on which it begins. UTC; null hours are always. */
export interface Hours {
  from: number | null;
  until: number | null;
  days?: readonly Weekday[];
}

/** An open stretch, [from, to); an end of null is never. */
export interface OpenStretch {
  from: Milliseconds;
  to: Milliseconds | null;
}

/** 1 January 1970 was a Thursday. */
const names: readonly Weekday[] = ['TH', 'FR', 'SA', 'SU', 'MO', 'TU', 'WE'];
const dayOf = (at: Milliseconds): Weekday => names[Math.floor(at / DAY) % 7]!;

/** Stretches from the one that is open at a moment, else the next, on; the first is cut to begin no earlier than the moment. */
export function* openStretches({ from, until, days = [] }: Hours, at: Milliseconds): Generator<OpenStretch, undefined> {
  if (from === null || until === null) {
    yield { from: at, to: null };
    return undefined;
  }
  const hours = (until - from + 24) % 24 || 24;
  const midnight = Math.floor(at / DAY) * DAY;
  for (let day = -1; ; day++) {
    const begins = midnight + day * DAY + from * HOUR;
    if (days.length > 0 && !days.includes(dayOf(midnight + day * DAY))) continue;
    const ends = begins + hours * HOUR;
    if (at < ends) yield { from: Math.max(begins, at), to: ends };
  }
}

/** The stretch that is open at a moment, else the next one. */
export const openAt = (hours: Hours, at: Milliseconds): OpenStretch => openStretches(hours, at).next().value!;

const hourText = (hour: number): string => `${String(hour).padStart(2, '0')}:00`;
/** A day as it is written in a row of several. */
export const dayWords: Record<Weekday, string> = {
  MO: 'Mon',
  TU: 'Tue',
  WE: 'Wed',
  TH: 'Thu',
  FR: 'Fri',
  SA: 'Sat',
  SU: 'Sun',
};

/** `every day from 20:00 to 06:00`, `Sat, Sun all day`; null where no hours are set. */
export function hoursWords({ from, until, days = [] }: Hours): string | null {
  if (from === null || until === null) return null;
  const on = days.length === 0 ? 'every day' : days.map((day) => dayWords[day]).join(', ');
  if (from === until) return days.length === 0 ? `all day, ${on}` : `${on} all day`;
  return `${on} from ${hourText(from)} to ${hourText(until)}`;
}
