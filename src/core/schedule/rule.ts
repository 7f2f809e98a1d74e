import { daysOf, civilOf } from '../units/date';
import { DAY, HOUR, MINUTE, SECOND, type Milliseconds } from '../units/duration';
import { parsed, type ParseFailure, type Parsed } from '../units/parsed';
import { refuse } from './refusal';

export const frequencies = ['MINUTELY', 'HOURLY', 'DAILY', 'WEEKLY', 'MONTHLY', 'YEARLY'] as const;
export type Frequency = (typeof frequencies)[number];
/** Monday is 0, as ISO 8601 counts. */
export const weekdays = ['MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU'] as const;
export type Weekday = (typeof weekdays)[number];

/** One entry of BYDAY: a weekday, or with an ordinal the n-th of its month or year, from the end if negative. */
export interface RuleDay {
  day: number;
  ordinal: number | null;
}

/** A recurrence rule as it is read (RFC 5545 §3.3.10, the subset of protect.md A). A list that is not given is null. */
export interface Rule {
  freq: Frequency;
  interval: number;
  count: number | null;
  until: Milliseconds | null;
  months: number[] | null;
  monthDays: number[] | null;
  days: RuleDay[] | null;
  hours: number[] | null;
  minutes: number[] | null;
  positions: number[] | null;
  weekStart: number;
}

type Reader = (rule: Rule, value: string) => ParseFailure | null;

const whole = /^[+-]?\d{1,9}$/;

/** Reads a list of whole numbers within what `fits` lets through. */
const list =
  (field: 'months' | 'monthDays' | 'hours' | 'minutes' | 'positions', fits: (value: number) => boolean): Reader =>
  (rule, value) => {
    const numbers = value.split(',').map((one) => (whole.test(one) ? Number(one) : NaN));
    if (!numbers.every(fits)) return refuse('rrule-value', value);
    rule[field] = [...new Set(numbers)].sort((a, b) => a - b);
    return null;
  };

const single =
  (field: 'interval' | 'count'): Reader =>
  (rule, value) => {
    if (!whole.test(value) || Number(value) < 1) return refuse('rrule-value', value);
    rule[field] = Number(value);
    return null;
  };

const within = (least: number, most: number) => (value: number) => value >= least && value <= most;
const eitherWay = (most: number) => (value: number) => value !== 0 && Math.abs(value) <= most;

const readers: Record<string, Reader> = {
  FREQ: (rule, value) => {
    if (!(frequencies as readonly string[]).includes(value)) return refuse('rrule-freq-unsupported', value);
    rule.freq = value as Frequency;
    return null;
  },
  INTERVAL: single('interval'),
  COUNT: single('count'),
  UNTIL: (rule, value) => {
    const match = /^(\d{4})(\d\d)(\d\d)T(\d\d)(\d\d)(\d\d)Z$/.exec(value);
    if (!match) return refuse('rrule-until-not-utc', value);
    rule.until = instant(match.slice(1).map(Number));
    return rule.until === null ? refuse('rrule-value', value) : null;
  },
  BYMONTH: list('months', within(1, 12)),
  BYMONTHDAY: list('monthDays', eitherWay(31)),
  BYDAY: (rule, value) => {
    const days: RuleDay[] = [];
    for (const one of value.split(',')) {
      const match = /^([+-]?\d{1,2})?(MO|TU|WE|TH|FR|SA|SU)$/.exec(one);
      const ordinal = match?.[1] === undefined ? null : Number(match[1]);
      if (!match || (ordinal !== null && !eitherWay(53)(ordinal))) return refuse('rrule-value', one);
      days.push({ day: weekdays.indexOf(match[2] as Weekday), ordinal });
    }
    rule.days = days;
    return null;
  },
  BYHOUR: list('hours', within(0, 23)),
  BYMINUTE: list('minutes', within(0, 59)),
  BYSETPOS: list('positions', eitherWay(366)),
  WKST: (rule, value) => {
    rule.weekStart = weekdays.indexOf(value as Weekday);
    return rule.weekStart < 0 ? refuse('rrule-value', value) : null;
  },
};

const notOffered = new Set(['BYSECOND', 'BYYEARDAY', 'BYWEEKNO']);

/** Year, month, day, hour, minute, second as UTC; null where there is no such moment. */
function instant(parts: readonly number[]): Milliseconds | null {
  const [year, month, day, hour, minute, second] = parts as [number, number, number, number, number, number];
  const days = daysOf(year, month, day);
  const back = civilOf(days);
  if (back.month !== month || back.day !== day || hour > 23 || minute > 59 || second > 59) return null;
  return days * DAY + hour * HOUR + minute * MINUTE + second * SECOND;
}

/** Reads `2031-03-16T02:15:00`, a local time, as wall milliseconds. Reasons: schedule-start. */
export function parseWall(text: string): Parsed<Milliseconds> {
  const match = /^(\d{4})-(\d\d)-(\d\d)T(\d\d):(\d\d)(?::(\d\d))?$/.exec(text.trim());
  const wall = match && instant(match.slice(1).map((part) => Number(part ?? 0)));
  return wall === null ? refuse('schedule-start', text.trim() || 'Nothing') : parsed(wall);
}

/**
 * Reads the text after `RRULE:`. What offends first is said: part by part from the left, then the rule as a whole.
 * Reasons: those of protect.md N that begin with `rrule-`, without `rrule-never-fires`.
 */
export function parseRule(text: string): Parsed<Rule> {
  const rule: Rule = {
    freq: 'DAILY',
    interval: 1,
    count: null,
    until: null,
    months: null,
    monthDays: null,
    days: null,
    hours: null,
    minutes: null,
    positions: null,
    weekStart: 0,
  };
  const given = new Set<string>();
  for (const part of text.trim().toUpperCase().split(';')) {
    const [, name, value] = /^([^=]+)=(.*)$/.exec(part) ?? [];
    if (name === undefined || value === undefined) return refuse('rrule-syntax', part);
    if (given.has(name)) return refuse('rrule-duplicate-part', name);
    given.add(name);
    if (notOffered.has(name)) return refuse('rrule-part-unsupported', name);
    const reader = readers[name];
    if (!reader) return refuse('rrule-part-unknown', name);
    const failure = reader(rule, value);
    if (failure) return failure.reason === 'rrule-value' ? refuse('rrule-value', part) : failure;
  }
  return whyNot(rule, given) ?? parsed(rule);
}

function whyNot(rule: Rule, given: ReadonlySet<string>): ParseFailure | null {
  if (!given.has('FREQ')) return refuse('rrule-freq-missing');
  if (rule.count !== null && rule.until !== null) return refuse('rrule-count-and-until');
  const ordinals = rule.days?.some((one) => one.ordinal !== null) ?? false;
  if (ordinals && rule.freq !== 'MONTHLY' && rule.freq !== 'YEARLY') return refuse('rrule-ordinal-day');
  if (rule.monthDays && rule.freq === 'WEEKLY') return refuse('rrule-monthday-in-weekly');
  if (rule.positions && elapses(rule)) return refuse('rrule-setpos-subdaily');
  return null;
}

/** Whether a rule goes by elapsed time, not by the wall clock (protect.md A 4). */
export const elapses = ({ freq }: Pick<Rule, 'freq'>): boolean => freq === 'MINUTELY' || freq === 'HOURLY';
