import type { MovesAnswer } from '@/core/moving/answers';
import { DAY, HOUR } from '@/core/units/duration';

/** The time that is drawn, in pixels of a width. */
export interface Axis {
  from: number;
  to: number;
  width: number;
  x: (at: number) => number;
}

/** From a little before the first move under way to after the last end: a day and a half at the least, ten days at the most. */
export function axisOf({ now, plans }: MovesAnswer, width: number): Axis {
  const moves = plans.flatMap(({ groups }) => groups.flatMap((group) => group.moves));
  const begun = moves.flatMap(({ startedAt }) => (startedAt === null ? [] : [startedAt]));
  const ends = plans.flatMap(({ endsAt }) => (endsAt === null ? [] : [endsAt]));
  const from = Math.max(now - 2 * DAY, Math.min(now - 6 * HOUR, ...begun.map((at) => at - 2 * HOUR)));
  const to = Math.min(now + 10 * DAY, Math.max(now + 30 * HOUR, ...ends.map((at) => at + 4 * HOUR)));
  return { from, to, width, x: (at) => ((Math.min(to, Math.max(from, at)) - from) / (to - from)) * width };
}

const two = (value: number): string => String(value).padStart(2, '0');
const weekdays = new Intl.DateTimeFormat('en-US', { weekday: 'short', timeZone: 'UTC' });

export interface Mark {
  x: number;
  text: string;
  strong: boolean;
}

/** Hours and days to write in the head; those that would run into each other are left out. */
export function marksOf(axis: Axis, now: number): Mark[] {
  const perHour = axis.width / ((axis.to - axis.from) / HOUR);
  const step = [3, 6, 12, 24, 48].find((hours) => hours * perHour >= 56) ?? 48;
  const marks: Mark[] = [];
  for (let at = Math.ceil(axis.from / (step * HOUR)) * step * HOUR; at < axis.to; at += step * HOUR) {
    const x = axis.x(at);
    if (Math.abs(x - axis.x(now)) < 44 || x < 16 || x > axis.width - 22) continue;
    const day = new Date(at);
    const midnight = at % DAY === 0;
    marks.push({
      x,
      strong: midnight,
      text: midnight ? `${weekdays.format(day)} ${day.getUTCDate()}` : `${two(day.getUTCHours())}:00`,
    });
  }
  return marks;
}

/** Stretches of the axis in which no window is open; none where there are no windows. */
export function shut(axis: Axis, windows: readonly (readonly [number, number])[]): [number, number][] {
  if (windows.length === 0) return [];
  const found: [number, number][] = [];
  let at = axis.from;
  for (const [from, to] of windows) {
    if (from > at) found.push([at, Math.min(from, axis.to)]);
    at = Math.max(at, to);
    if (at >= axis.to) break;
  }
  if (at < axis.to) found.push([at, axis.to]);
  return found;
}
