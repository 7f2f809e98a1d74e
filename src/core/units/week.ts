import { DAY, HOUR, type Milliseconds } from './duration';
import { notParsed, parsed, type Parsed } from './parsed';

export const DAYS_OF_WEEK = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'] as const;
const days = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];
const HOURS = 24;
const EXAMPLE = 'Mon-Fri 07-18: 8, else: 1';

const NAMED = '(?:mon|tue|wed|thu|fri|sat|sun)';
const PART = new RegExp(
  `^(?:else|(${NAMED})?(?:\\s*-\\s*(${NAMED}))?\\s*(?:(\\d{1,2})(?::00)?(?:\\s*-\\s*(\\d{1,2})(?::00)?)?)?)\\s*:\\s*(\\d+(?:\\.\\d+)?)$`,
  'i',
);

/** An hour of the week from Monday 00:00 UTC: `Monday 22:00 UTC` */
export const hourWords = (hour: number): string =>
  `${days[Math.floor(hour / HOURS)]} ${String(hour % HOURS).padStart(2, '0')}:00 UTC`;

/** 1 January 1970 was a Thursday: the week begins three days before. */
const MONDAY: Milliseconds = -3 * DAY;

/** Hour of the week in which a moment lies, 0 from Monday 00:00 UTC. */
export function hourOfWeek(at: Milliseconds): number {
  const since = (at - MONDAY) % (7 * DAY);
  return Math.floor((since < 0 ? since + 7 * DAY : since) / HOUR);
}

/** So many from one on, and round again. */
const around = (from: number, count: number, of: number): number[] =>
  Array.from({ length: count }, (_, k) => (from + k) % of);

const dayOf = (text: string): number =>
  DAYS_OF_WEEK.findIndex((day) => day.toLowerCase() === text.slice(0, 3).toLowerCase());

/** Days and hours that a part names; null where it names none or what is no hour. */
function hoursNamed(fromDay?: string, toDay?: string, from?: string, to?: string): number[] | null {
  if (fromDay === undefined && (toDay !== undefined || from === undefined)) return null;
  const first = fromDay === undefined ? 0 : dayOf(fromDay);
  const last = fromDay === undefined ? 6 : toDay === undefined ? first : dayOf(toDay);
  const days = around(first, ((last - first + 7) % 7) + 1, 7);
  const begin = from === undefined ? 0 : Number(from);
  const end = from === undefined ? HOURS : to === undefined ? begin + 1 : Number(to);
  if (begin > 23 || end > HOURS || begin === end) return null;
  // From late to early is over midnight, counted to the same day.
  const hours = around(begin, end > begin ? end - begin : end - begin + HOURS, HOURS);
  return days.flatMap((day) => hours.map((hour) => day * HOURS + hour));
}

const wrong = (part: string): Parsed<never> =>
  notParsed('week-unclear', `“${part}” names no days, hours and how busy they are. Write it like ${EXAMPLE}.`);

/**
 * How busy each of the 168 hours of a week is, from Monday 00:00 UTC: parts such as `Mon-Fri 07-18: 8, Sat: 2, else: 1`. Only proportions matter; of
 * what is named twice the last counts, what is not named has what `else` says, or nothing. Reasons: week-unclear, week-idle.
 */
export function parseWeek(text: string): Parsed<number[]> {
  const named = new Map<number, number>();
  let rest = 0;
  for (const part of text.split(/[,;]/).map((one) => one.trim())) {
    const found = PART.exec(part);
    if (!found) return wrong(part);
    const [, fromDay, toDay, from, to, weight] = found;
    if (/^else/i.test(part)) {
      rest = Number(weight);
      continue;
    }
    const hours = hoursNamed(fromDay, toDay, from, to);
    if (!hours) return wrong(part);
    for (const hour of hours) named.set(hour, Number(weight));
  }
  const week = Array.from({ length: 7 * HOURS }, (_, hour) => named.get(hour) ?? rest);
  if (!week.some((one) => one > 0))
    return notParsed('week-idle', `Nothing is done in any hour of it. Give some hours more than 0, like ${EXAMPLE}.`);
  return parsed(week);
}

/** The same as text: equal weeks give equal texts. */
export function formatWeek(week: readonly number[]): string {
  const rounded = week.map((one) => Number(one.toPrecision(4)));
  const counts = new Map<number, number>();
  for (const one of rounded) counts.set(one, (counts.get(one) ?? 0) + 1);
  const [rest] = [...counts].reduce((most, one) => (one[1] > most[1] ? one : most));
  const days = Array.from({ length: 7 }, (_, day) => rounded.slice(day * HOURS, (day + 1) * HOURS));
  const parts: string[] = [];
  for (let day = 0; day < 7;) {
    let end = day + 1;
    while (end < 7 && days[end]!.every((one, hour) => one === days[day]![hour])) end += 1;
    const name = end - day === 1 ? DAYS_OF_WEEK[day]! : `${DAYS_OF_WEEK[day]!}-${DAYS_OF_WEEK[end - 1]!}`;
    parts.push(...runs(days[day]!, rest).map(({ hours, weight }) => `${name}${hours}: ${weight}`));
    day = end;
  }
  return [...parts, ...(rest === 0 && parts.length > 0 ? [] : [`else: ${rest}`])].join(', ');
}

/** Stretches of a day in which it is equally busy, but for those as busy as the rest of the week. */
function runs(day: readonly number[], rest: number): { hours: string; weight: number }[] {
  const found: { hours: string; weight: number }[] = [];
  const two = (hour: number) => String(hour).padStart(2, '0');
  for (let from = 0; from < HOURS;) {
    let to = from + 1;
    while (to < HOURS && day[to] === day[from]) to += 1;
    if (day[from] !== rest)
      found.push({ hours: to - from === HOURS ? '' : ` ${two(from)}-${two(to)}`, weight: day[from]! });
    from = to;
  }
  return found;
}
