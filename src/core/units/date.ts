import { DAY, HOUR, MINUTE, SECOND, type Milliseconds } from './duration';
import { notParsed, parsed, type Parsed } from './parsed';

const two = (value: number): string => String(value).padStart(2, '0');

/**
 * Year, month and day of a count of days since 1970-01-01 in the Gregorian calendar, without a clock
 * (H. Hinnant, "chrono-compatible low-level date algorithms": civil_from_days).
 */
export function civilOf(days: number): { year: number; month: number; day: number } {
  const z = days + 719_468;
  const era = Math.floor(z / 146_097);
  const ofEra = z - era * 146_097;
  const yearOfEra = Math.floor(
    (ofEra - Math.floor(ofEra / 1460) + Math.floor(ofEra / 36_524) - Math.floor(ofEra / 146_096)) / 365,
  );
  const ofYear = ofEra - (365 * yearOfEra + Math.floor(yearOfEra / 4) - Math.floor(yearOfEra / 100));
  const shifted = Math.floor((5 * ofYear + 2) / 153);
  const month = shifted < 10 ? shifted + 3 : shifted - 9;
  return {
    year: yearOfEra + era * 400 + (month <= 2 ? 1 : 0),
    month,
    day: ofYear - Math.floor((153 * shifted + 2) / 5) + 1,
  };
}

/** Days since 1970-01-01 of a date (days_from_civil). */
export function daysOf(year: number, month: number, day: number): number {
  const y = month <= 2 ? year - 1 : year;
  const era = Math.floor(y / 400);
  const yearOfEra = y - era * 400;
  const ofYear = Math.floor((153 * (month + (month > 2 ? -3 : 9)) + 2) / 5) + day - 1;
  return era * 146_097 + yearOfEra * 365 + Math.floor(yearOfEra / 4) - Math.floor(yearOfEra / 100) + ofYear - 719_468;
}

/** `2031-04-14` */
export function dateText(at: Milliseconds): string {
  const { year, month, day } = civilOf(Math.floor(at / DAY));
  return `${year}-${two(month)}-${two(day)}`;
}

/** `2031-04-14 06:30`, in UTC. */
export function timeText(at: Milliseconds): string {
  const rest = at - Math.floor(at / DAY) * DAY;
  return `${dateText(at)} ${two(Math.floor(rest / HOUR))}:${two(Math.floor((rest % HOUR) / MINUTE))}`;
}

// Three letters for every month and weekday.
const months = new Intl.DateTimeFormat('en-US', { month: 'short', timeZone: 'UTC' });
const weekdays = new Intl.DateTimeFormat('en-US', { weekday: 'short', timeZone: 'UTC' });

/** `4 Apr`, where the year is clear: along an axis. */
export const dayText = (at: Milliseconds): string => `${civilOf(Math.floor(at / DAY)).day} ${months.format(at)}`;

/** `Mon 14 Apr 06:42`, or with its seconds; in UTC, as wide for each day. */
export function momentText(at: Milliseconds, seconds = false): string {
  const rest = at - Math.floor(at / DAY) * DAY;
  const clock = [HOUR, MINUTE, SECOND].map((unit) => two(Math.floor(rest / unit) % 60));
  return `${weekdays.format(at)} ${dayText(at).padStart(6, '0')} ${clock.slice(0, seconds ? 3 : 2).join(':')}`;
}

/** Reads `2031-05-31` as the moment that day begins. Reasons: date-unreadable. */
export function parseDate(text: string): Parsed<Milliseconds> {
  const match = /^(\d{4})-(\d\d)-(\d\d)$/.exec(text.trim());
  if (match) {
    const [year, month, day] = match.slice(1).map(Number) as [number, number, number];
    const days = daysOf(year, month, day);
    const back = civilOf(days);
    if (back.month === month && back.day === day) return parsed(days * DAY);
  }
  return notParsed('date-unreadable', `${text.trim() || 'Nothing'} is no date. Write one such as 2031-05-31.`);
}

/** `Mon 06:42`, within a week or so of which everybody knows. */
export const weekTimeText = (at: Milliseconds): string => `${weekdays.format(at)} ${timeText(at).slice(-5)}`;
