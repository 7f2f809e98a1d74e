import { DAY, HOUR, MINUTE, type Milliseconds } from '../units/duration';
import type { Rule } from './rule';
import { fitsDay } from './wall-dates';
import type { Zone } from './zone';

const within = (of: Milliseconds, unit: Milliseconds): Milliseconds => of - Math.floor(of / unit) * unit;

/** The rule's limits by day, the last answer kept; null where it has none. */
function dayFilter(rule: Rule): ((day: number) => boolean) | null {
  if (!rule.months && !rule.monthDays && !rule.days) return null;
  let last = NaN;
  let answer = false;
  return (day) => {
    if (day !== last) {
      last = day;
      answer = fitsDay(rule, day);
    }
    return answer;
  };
}

/**
 * Instants of a rule MINUTELY or HOURLY up to `end` (included), ascending. It steps in elapsed time from the instant of its start; every limit
 * is read from the local clock (protect.md A 4). Those before `from` are left out.
 */
export function elapsedInstants(
  rule: Rule,
  zone: Zone,
  start: Milliseconds,
  from: Milliseconds,
  end: Milliseconds,
): Milliseconds[] {
  return rule.freq === 'HOURLY' && rule.minutes
    ? hourSlots(rule, rule.minutes, zone, start, from, end)
    : steps(rule, zone, start, from, end);
}

function steps(rule: Rule, zone: Zone, start: Milliseconds, from: Milliseconds, end: Milliseconds): Milliseconds[] {
  const step = rule.interval * (rule.freq === 'HOURLY' ? HOUR : MINUTE);
  const found: Milliseconds[] = [];
  const onDay = dayFilter(rule);
  const ceil = (at: Milliseconds) => start + Math.ceil((at - start) / step) * step;
  let at = ceil(Math.max(start, from));
  if (!onDay && !rule.hours && !rule.minutes) {
    for (; at <= end; at += step) found.push(at);
    return found;
  }
  while (at <= end) {
    const offset = zone.offsetAt(at);
    const change = zone.changeAfter(at);
    // Within one offset whatever does not fit is stepped over in one go.
    while (at <= end && at < change) {
      const wall = at + offset;
      if (onDay && !onDay(Math.floor(wall / DAY))) at = ceil(Math.min(change, at + DAY - within(wall, DAY)));
      else if (rule.hours && !rule.hours.includes(Math.floor(within(wall, DAY) / HOUR)))
        at = ceil(Math.min(change, at + HOUR - within(wall, HOUR)));
      else {
        if (!rule.minutes || rule.minutes.includes(Math.floor(within(wall, HOUR) / MINUTE))) found.push(at);
        at += step;
      }
    }
  }
  return found;
}

/** HOURLY with BYMINUTE: the listed local minutes of each hour slot. */
function hourSlots(
  rule: Rule,
  minutes: readonly number[],
  zone: Zone,
  start: Milliseconds,
  from: Milliseconds,
  end: Milliseconds,
): Milliseconds[] {
  const step = rule.interval * HOUR;
  const found: Milliseconds[] = [];
  const onDay = dayFilter(rule);
  const lead = Math.floor(within(zone.wallAt(start), HOUR) / MINUTE) * MINUTE;
  const first = start - lead;
  let slot = first + Math.max(0, Math.floor((from - HOUR - first) / step)) * step;
  for (; slot <= end; slot += step) {
    // Where the offset changes within the hour each minute is looked at by itself.
    const offset = zone.changeAfter(slot) >= slot + HOUR ? zone.offsetAt(slot) : null;
    const begins = offset === null ? null : Math.floor(within(slot + offset, HOUR) / MINUTE);
    const candidates =
      begins === null
        ? Array.from({ length: 60 }, (_, k) => slot + k * MINUTE)
        : minutes.map((minute) => slot + ((minute - begins + 60) % 60) * MINUTE).sort((a, b) => a - b);
    for (const at of candidates) {
      if (at < start || at < from || at > end) continue;
      const wall = at + (offset ?? zone.offsetAt(at));
      if (!minutes.includes(Math.floor(within(wall, HOUR) / MINUTE))) continue;
      if (rule.hours && !rule.hours.includes(Math.floor(within(wall, DAY) / HOUR))) continue;
      if (onDay && !onDay(Math.floor(wall / DAY))) continue;
      found.push(at);
    }
  }
  return found;
}
