import { DAY, HOUR, MINUTE } from '@/core/units/duration';

/** The time axis in pixels: four weeks narrow, two days wide, the day to come; a gap stands between weeks and days. */
export const WEEKS = { from: 0, to: 112 };
export const DAYS = { from: 124, to: 508 };
export const AHEAD_TO = 664;
export const WIDTH = AHEAD_TO;

const BACK_MINUTES = (28 * DAY) / MINUTE;
const CLOSE_MINUTES = (2 * DAY) / MINUTE;
const AHEAD_MINUTES = DAY / MINUTE;

/** Where a moment so many minutes ago stands. */
export const xOfAgo = (minutes: number): number =>
  minutes <= CLOSE_MINUTES
    ? DAYS.to - (minutes / CLOSE_MINUTES) * (DAYS.to - DAYS.from)
    : WEEKS.to - ((minutes - CLOSE_MINUTES) / (BACK_MINUTES - CLOSE_MINUTES)) * (WEEKS.to - WEEKS.from);

export const xOfAhead = (minutes: number): number => DAYS.to + (minutes / AHEAD_MINUTES) * (AHEAD_TO - DAYS.to);

/** One line for many ticks; those that would fall on the same pixel are drawn once. */
export function tickPath(xs: readonly number[], from: number, to: number): string {
  const drawn = new Set<number>();
  let path = '';
  for (const x of xs) {
    const at = Math.round(x * 2) / 2;
    if (drawn.has(at)) continue;
    drawn.add(at);
    path += `M${at} ${from}V${to}`;
  }
  return path;
}

export interface AxisMark {
  x: number;
  text: string;
  strong: boolean;
}

const two = (value: number): string => String(value).padStart(2, '0');
const weekdays = new Intl.DateTimeFormat('en-US', { weekday: 'short', timeZone: 'UTC' });
const months = new Intl.DateTimeFormat('en-US', { month: 'short', timeZone: 'UTC' });

/** Hours and days to write above the lanes. */
export function axisMarks(now: number): AxisMark[] {
  const marks: AxisMark[] = [];
  const step = 12 * HOUR;
  for (let at = Math.ceil((now - 2 * DAY) / step) * step; at <= now + DAY; at += step) {
    const x = at <= now ? xOfAgo((now - at) / MINUTE) : xOfAhead((at - now) / MINUTE);
    // Beside the moment of now there is no room for another word.
    if (Math.abs(x - DAYS.to) < 34 || x > WIDTH - 16) continue;
    const day = new Date(at);
    const midnight = at % DAY === 0;
    marks.push({
      x,
      strong: midnight,
      text: midnight ? `${weekdays.format(day)} ${day.getUTCDate()}` : `${two(day.getUTCHours())}:00`,
    });
  }
  const far = new Date(now - 28 * DAY);
  marks.push({ x: 0, strong: false, text: `${far.getUTCDate()} ${months.format(far)}` });
  return marks;
}
