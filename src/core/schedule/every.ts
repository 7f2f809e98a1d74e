import { dateText } from '../units/date';
import { DAY, type Milliseconds } from '../units/duration';
import { notParsed, parsed, type Parsed } from '../units/parsed';
import { parseRule, weekdays, type Weekday } from './rule';

/** A rule with its first local time. */
export interface Every {
  rule: string;
  start: string;
}

const SHAPES = '30 min, 4 h, day 04:00, SU 04:00, month 1 22:00, or a rule such as FREQ=DAILY;BYHOUR=4';
const two = (value: number | string): string => String(value).padStart(2, '0');

function timesOf(text: string): { hours: number[]; minute: number } | null {
  const times = text.split(/\s*,\s*/).map((one) => /^(\d{1,2}):(\d\d)$/.exec(one));
  if (times.some((one) => !one || Number(one[1]) > 23 || Number(one[2]) > 59)) return null;
  const minutes = new Set(times.map((one) => Number(one![2])));
  if (minutes.size > 1) return null;
  return { hours: times.map((one) => Number(one![1])).sort((a, b) => a - b), minute: [...minutes][0]! };
}

const full: Record<string, Weekday> = {
  monday: 'MO',
  tuesday: 'TU',
  wednesday: 'WE',
  thursday: 'TH',
  friday: 'FR',
  saturday: 'SA',
  sunday: 'SU',
};

const dayOf = (text: string): Weekday | undefined =>
  full[text.toLowerCase()] ?? weekdays.find((day) => day === text.toUpperCase());

/**
 * Reads how people say how often: `30 min`, `4 h`, `day 04:00,16:00`, `SU 04:00`, `month 1 22:00`, or a rule of RFC 5545. `today` is a local
 * moment of the day it begins. Reasons: every-unreadable, and those of a rule.
 */
export function parseEvery(text: string, today: Milliseconds): Parsed<Every> {
  const said = text.trim().replace(/^every\s+/i, '');
  const day = dateText(Math.floor(today / DAY) * DAY);
  const at = (hour: number, minute: number) => `${day}T${two(hour)}:${two(minute)}:00`;
  if (/^(RRULE:)?FREQ=/i.test(said) || said.includes('=')) {
    const rule = said.replace(/^RRULE:/i, '').toUpperCase();
    const read = parseRule(rule);
    return read.ok ? parsed({ rule, start: at(read.value.hours?.[0] ?? 0, read.value.minutes?.[0] ?? 0) }) : read;
  }
  const span = /^(\d{1,4})?\s*(min|minutes?|h|hours?)$/i.exec(said);
  if (span) {
    const many = Number(span[1] ?? 1);
    const freq = span[2]!.toLowerCase().startsWith('m') ? 'MINUTELY' : 'HOURLY';
    if (many < 1) return notParsed('every-unreadable', `${text} is no interval. Write one such as 30 min.`);
    return parsed({ rule: `FREQ=${freq};INTERVAL=${many}`, start: at(0, 0) });
  }
  const month = /^month(?:ly)?\s+(?:on\s+)?(-?\d{1,2})\s+(?:at\s+)?(\S.*)$/i.exec(said);
  const week = month ? null : /^([A-Za-z]+(?:\s*,\s*[A-Za-z]+)*)\s+(?:at\s+)?(\d.*)$/.exec(said);
  const times = timesOf((month?.[2] ?? week?.[2] ?? '').trim());
  if (times) {
    const clock = `BYHOUR=${times.hours.join(',')};BYMINUTE=${times.minute}`;
    const start = at(times.hours[0]!, times.minute);
    if (month) {
      const rule = `FREQ=MONTHLY;BYMONTHDAY=${Number(month[1])};${clock}`;
      const read = parseRule(rule);
      return read.ok ? parsed({ rule, start }) : read;
    }
    if (/^(day|daily)$/i.test(week![1]!)) return parsed({ rule: `FREQ=DAILY;${clock}`, start });
    const days = week![1]!.split(/\s*,\s*/).map(dayOf);
    if (days.every((one) => one !== undefined))
      return parsed({ rule: `FREQ=WEEKLY;BYDAY=${days.join(',')};${clock}`, start });
  }
  return notParsed('every-unreadable', `${text.trim() || 'Nothing'} says no rhythm. Write ${SHAPES}.`);
}

const plainNumbers = (text: string | undefined): string[] => (text ? text.split(',') : []);

/** A rule as people say it: `30 min`, `day 04:00`, `SU 04:00`, `month 1 22:00`; else the rule itself. Reading it back gives the same rule. */
export function everyWords(rule: string): string {
  const parts = new Map(rule.split(';').map((part) => part.split('=', 2) as [string, string]));
  const freq = parts.get('FREQ');
  const others = [...parts.keys()].filter(
    (key) => !['FREQ', 'INTERVAL', 'BYHOUR', 'BYMINUTE', 'BYDAY', 'BYMONTHDAY'].includes(key),
  );
  const interval = Number(parts.get('INTERVAL') ?? 1);
  const by = (key: string) => parts.get(key);
  if (others.length > 0) return rule;
  if ((freq === 'MINUTELY' || freq === 'HOURLY') && parts.size === (parts.has('INTERVAL') ? 2 : 1))
    return `${interval} ${freq === 'MINUTELY' ? 'min' : 'h'}`;
  const minutes = plainNumbers(by('BYMINUTE'));
  const hours = plainNumbers(by('BYHOUR'));
  if (interval !== 1 || parts.has('INTERVAL') || hours.length === 0 || minutes.length !== 1) return rule;
  const clock = hours.map((hour) => `${two(hour)}:${two(minutes[0]!)}`).join(',');
  if (freq === 'DAILY' && !by('BYDAY') && !by('BYMONTHDAY')) return `day ${clock}`;
  if (freq === 'WEEKLY' && by('BYDAY') && !by('BYMONTHDAY') && !/\d/.test(by('BYDAY')!))
    return `${by('BYDAY')} ${clock}`;
  if (freq === 'MONTHLY' && by('BYMONTHDAY') && !by('BYDAY') && !by('BYMONTHDAY')!.includes(','))
    return `month ${by('BYMONTHDAY')} ${clock}`;
  return rule;
}
