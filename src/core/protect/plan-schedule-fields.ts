import { z } from 'zod';
import type { PlanSchedule } from '../estate/entities';
import type { RetentionRules } from '../kinds/plan';
import { folded, such, type FieldWord } from '../operation/form';
import type { Inquiry } from '../operation/inquiry';
import { flag } from '../operation/params';
import { everyWords, parseEvery } from '../schedule/every';
import { validateRecurrence } from '../schedule/recurrence';
import { zoneOf } from '../schedule/zone';
import { counted } from '../units/counted';
import { DAY, HOUR, type Milliseconds } from '../units/duration';

const some = z.coerce.number().int().min(0).max(100_000);

/** How a schedule is said: how often, how long its copies are kept and locked, whether applications are paused. */
export const scheduleParams = {
  every: z.string().max(500).describe('30 min, 4 h, day 04:00, SU 04:00, month 1 22:00, or a rule of RFC 5545'),
  start: z.string().max(40).optional().describe('The first local time, such as 2031-05-02T22:00:00'),
  keepCount: some.optional().describe('The newest so many'),
  keepDays: z.coerce.number().min(0).max(36_500).optional().describe('Those no older than so many days'),
  hourly: some.optional().describe('One of each of the newest so many hours'),
  daily: some.optional(),
  weekly: some.optional(),
  monthly: some.optional(),
  yearly: some.optional(),
  lockDays: z.coerce.number().min(0).max(36_500).optional().describe('Days for which nobody can delete a copy'),
  lockMode: z.enum(['strict', 'dual']).optional(),
  quiesce: flag.optional().describe('Applications are paused for each copy'),
  onTimeout: z.enum(['crash', 'fail']).optional(),
};
type Said = z.output<z.ZodObject<typeof scheduleParams>>;
export type ScheduleParams = { [F in keyof Said]?: Said[F] | undefined };

export const scheduleFields = {
  every: such('Every', '30 min, day 04:00, SU 04:00'),
  keepDays: 'Keep for, days',
  keepCount: 'Keep the newest',
  quiesce: { label: 'Pause applications', control: 'switch' },
  lockDays: 'Lock for, days',
  hourly: folded('Hours kept'),
  daily: folded('Days kept'),
  weekly: folded('Weeks kept'),
  monthly: folded('Months kept'),
  yearly: folded('Years kept'),
  lockMode: folded('Kind of lock'),
  onTimeout: folded('If one does not pause'),
  start: folded(such('First run', '2031-05-02T22:00:00')),
} as const satisfies Record<keyof typeof scheduleParams, FieldWord>;

/** The zones that a form offers first; any of the IANA database may be written. */
export const usualZones = ['Europe/Oslo', 'Europe/Amsterdam', 'UTC'] as const;

/** A schedule from what is said, over what was said of it before. */
export function readSchedule(
  asks: Inquiry,
  name: string,
  p: ScheduleParams,
  zone: string,
  now: Milliseconds,
  before?: PlanSchedule,
): PlanSchedule | undefined {
  const clock = zoneOf(zone);
  const subject = { kind: 'plan', name } as const;
  if (!clock) {
    asks.refuse({
      code: 'schedule-zone-unknown',
      field: 'zone',
      subject,
      message: `No time zone ${zone}.`,
      mend: `Write one such as ${usualZones[0]}.`,
    });
    return undefined;
  }
  const said =
    p.every === undefined || p.every === ''
      ? before && { rule: before.rule, start: before.start }
      : asks.value(parseEvery(p.every, clock.wallAt(now)), 'every', subject);
  if (!said) {
    if (p.every === undefined || p.every === '')
      asks.refuse({
        code: 'every-unreadable',
        field: 'every',
        subject,
        message: 'Nothing says how often.',
        mend: 'Write a rhythm such as 30 min or day 04:00.',
      });
    return undefined;
  }
  const start = p.start || said.start;
  const recurrence = { rrule: said.rule, dtstart: start, tz: zone };
  const first = asks.value(validateRecurrence(recurrence), p.start ? 'start' : 'every', subject);
  if (first === undefined) return undefined;
  const kept = before?.retention;
  const retention: RetentionRules = {
    count: p.keepCount ?? kept?.count ?? null,
    maxAge: p.keepDays === undefined ? (kept?.maxAge ?? null) : p.keepDays * DAY,
    minKeep: kept?.minKeep ?? null,
    hourly: p.hourly ?? kept?.hourly ?? null,
    daily: p.daily ?? kept?.daily ?? null,
    weekly: p.weekly ?? kept?.weekly ?? null,
    monthly: p.monthly ?? kept?.monthly ?? null,
    yearly: p.yearly ?? kept?.yearly ?? null,
    pick: kept?.pick ?? 'last',
  };
  return {
    name,
    ...said,
    start,
    retention,
    lockDays: p.lockDays ?? before?.lockDays ?? 0,
    lockMode: p.lockMode ?? before?.lockMode ?? 'strict',
    quiesce: p.quiesce ?? before?.quiesce ?? false,
    onTimeout: p.onTimeout ?? before?.onTimeout ?? 'crash',
  };
}

/** `kept 2 d`, `newest 7, 4 weeks`, `all kept`: what a schedule keeps, in a few words. */
export function retentionWords(rules: RetentionRules): string {
  const parts = [
    ...(rules.count === null ? [] : [`newest ${rules.count}`]),
    ...(rules.maxAge === null
      ? []
      : [
          rules.maxAge % DAY === 0
            ? counted(rules.maxAge / DAY, 'day')
            : counted(Math.round(rules.maxAge / HOUR), 'hour'),
        ]),
    ...(['hourly', 'daily', 'weekly', 'monthly', 'yearly'] as const).flatMap((level, k) =>
      rules[level] === null ? [] : [counted(rules[level], ['hour', 'day', 'week', 'month', 'year'][k]!)],
    ),
  ];
  return parts.length === 0 ? 'all kept' : parts.join(', ');
}

/** A schedule in a line: `SU 04:00: 4 weeks, locked 30 days, paused`. */
export const scheduleWords = (schedule: PlanSchedule): string =>
  [
    `${everyWords(schedule.rule)}: ${retentionWords(schedule.retention)}`,
    ...(schedule.lockDays > 0 ? [`locked ${counted(schedule.lockDays, 'day')}`] : []),
    ...(schedule.quiesce ? ['applications paused'] : []),
  ].join(', ');

/** The same with its name before it, where that says more than how often. */
export const namedScheduleWords = (schedule: PlanSchedule): string =>
  schedule.name === everyWords(schedule.rule)
    ? scheduleWords(schedule)
    : `${schedule.name}: ${scheduleWords(schedule)}`;
