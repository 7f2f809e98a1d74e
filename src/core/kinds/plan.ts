import { z } from 'zod';
import { count, id, instant, name } from './fields';
import { kind, to, type RowOf } from './kind';

const some = count.max(100_000).nullable().default(null);

/** What is kept of a schedule's copies; without any rule all of them. Ages in milliseconds. */
export const retentionRules = z.object({
  count: some,
  maxAge: z.number().min(0).nullable().default(null),
  minKeep: some,
  hourly: some,
  daily: some,
  weekly: some,
  monthly: some,
  yearly: some,
  pick: z.enum(['last', 'first']).default('last'),
});
export type RetentionRules = z.infer<typeof retentionRules>;

/** When copies are made, how long each is kept and locked, and whether applications are paused for it. */
export const planSchedule = z.object({
  name,
  /** The text after `RRULE:` (RFC 5545 §3.3.10). */
  rule: z.string().min(1).max(500),
  /** The first local time, `YYYY-MM-DDTHH:MM:SS`. */
  start: z.string().max(40),
  retention: retentionRules,
  /** Days for which nobody can delete a copy; 0 for none. */
  lockDays: z.number().min(0).max(36_500).default(0),
  lockMode: z.enum(['strict', 'dual']).default('strict'),
  quiesce: z.boolean().default(false),
  /** Whether a copy is made all the same when an application does not pause. */
  onTimeout: z.enum(['crash', 'fail']).default('crash'),
});
export type PlanSchedule = z.infer<typeof planSchedule>;

/** How applications' volumes are protected: reusable, attached to workloads and volumes. */
export const planKind = kind({
  words: ['protection plan', 'protection plans'],
  prefix: 'plan',
  path: 'plans',
  row: z.object({
    id,
    name,
    notes: z.string().default(''),
    /** Whose clock its schedules go by, an IANA name. */
    zone: z.string().min(1).max(64),
    /** How much of the newest work may be lost, milliseconds; null where nothing is promised. */
    rpo: z.number().min(0).nullable().default(null),
    /** How copies are named: {date} {time} {plan} {schedule} {workload}. */
    pattern: z.string().max(63).default('{date}-{time}'),
    schedules: z.array(planSchedule).default([]),
    gap: z.enum(['shift', 'skip']).default('shift'),
    catchUp: z.enum(['skip', 'latest', 'all']).default('latest'),
    /** How late a missed run may still be made, milliseconds. */
    grace: z.number().min(0).default(0),
    /** Days after which a copy must be proven once more; 0 where nobody asks. */
    proveDays: count.max(3650).default(0),
    /** The host that looks at them then; null where somebody does it by hand. */
    proveAt: id.nullable().default(null),
    paused: z.boolean().default(false),
    pausedSince: instant.nullable().default(null),
    createdAt: instant.default(0),
  }),
  refers: { proveAt: to('host', { by: null }) },
  named: '',
  searched: {},
});
export type Plan = RowOf<typeof planKind>;
