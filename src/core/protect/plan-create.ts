import { z } from 'zod';
import { created } from '../estate/effects';
import { rowOf, type Plan } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { draftFlag, draftText, hostChoices } from '../operation/draft';
import { folded, pick, such } from '../operation/form';
import { inquire, type Inquiry } from '../operation/inquiry';
import { planned, refused, type Draft, type Foretold, type OperationType } from '../operation/operation';
import { record } from '../operation/record';
import { catchUpPolicies } from '../schedule/catch-up';
import { everyWords } from '../schedule/every';
import { DAY, HOUR, MINUTE, SECOND, type Milliseconds } from '../units/duration';
import { notParsed, parsed, type Parsed } from '../units/parsed';
import { nameByPattern, nameParts, USUAL_PATTERN } from './names';
import { gapWords, nextWords, roomWords } from './plan-foretell';
import { readSchedule, scheduleFields, scheduleParams, usualZones } from './plan-schedule-fields';

/** Plans are Trabes' own record: arrays hear of each run. */

export const promiseParams = {
  zone: z.string().max(64).optional().describe('Whose clock it goes by, such as Europe/Oslo'),
  rpo: z.string().optional().describe('How much of the newest work may be lost, such as 30 min; none promises nothing'),
  catchUp: z.enum(catchUpPolicies).optional().describe('What becomes of runs that were missed'),
  grace: z.string().optional().describe('How late a missed run may still be made, such as 4 h'),
  pattern: z.string().max(63).optional().describe('How copies are named: {date} {time} {plan} {schedule} {workload}'),
  proveDays: z.coerce.number().int().min(0).max(3650).optional().describe('A copy is to be proven every so many days'),
  proveAt: z
    .string()
    .optional()
    .describe('The host that looks at it then, by itself; none where somebody does it by hand'),
  notes: z.string().max(1000).optional(),
};

const schema = z.object({
  name: z.string(),
  schedule: z.string().max(60).optional().describe('The name of its first schedule; without it how often'),
  ...promiseParams,
  ...scheduleParams,
});
type Params = z.output<typeof schema>;

/** The grace of a plan that says nothing of it. */
export const USUAL_GRACE = 4 * HOUR;

/** Reads `30 min`, `4 h`, `2 d`, `none`. Reasons: span-unreadable. */
export function parseSpan(text: string): Parsed<Milliseconds | null> {
  const said = text.trim().toLowerCase();
  if (said === 'none' || said === '0') return parsed(null);
  const match = /^(\d+(?:\.\d+)?)\s*(s|min|h|d|days?)$/.exec(said);
  const units: Record<string, Milliseconds> = { s: SECOND, min: MINUTE, h: HOUR, d: DAY, day: DAY, days: DAY };
  return match
    ? parsed(Number(match[1]) * units[match[2]!]!)
    : notParsed('span-unreadable', `${text} is no span of time. Write one such as 30 min, 4 h or 2 d.`);
}

export type PromiseParams = z.output<z.ZodObject<typeof promiseParams>>;

/** The fields of a plan that are not its schedules, from what is said; what is not said is left out. */
export function readPromises(asks: Inquiry, p: PromiseParams, name: string): Partial<Plan> {
  const subject = { kind: 'plan', name } as const;
  const said: Partial<Plan> = {};
  if (p.rpo !== undefined && p.rpo !== '') {
    const rpo = asks.value(parseSpan(p.rpo), 'rpo', subject);
    if (rpo !== undefined) said.rpo = rpo;
  }
  if (p.grace !== undefined && p.grace !== '') {
    const grace = asks.value(parseSpan(p.grace), 'grace', subject);
    if (grace !== undefined) said.grace = grace ?? 0;
  }
  if (p.pattern) {
    const strange = /\{[^}]*\}/g;
    const wrong = (p.pattern.match(strange) ?? []).find((part) => !(nameParts as readonly string[]).includes(part));
    if (wrong)
      asks.refuse({
        code: 'pattern-part-unknown',
        field: 'pattern',
        subject,
        message: `${wrong} means nothing in a name.`,
        mend: `Use ${nameParts.join(', ')}.`,
      });
    else said.pattern = p.pattern;
  }
  if (p.catchUp !== undefined) said.catchUp = p.catchUp;
  if (p.proveDays !== undefined) said.proveDays = p.proveDays;
  if (p.proveAt) said.proveAt = p.proveAt === 'none' ? null : (asks.find('host', p.proveAt, 'proveAt')?.id ?? null);
  if (p.notes !== undefined) said.notes = p.notes;
  return said;
}

/** What the fields of a plan's promises say while they are filled in. */
export function promiseFields(view: EstateView, draft: Draft, now: Milliseconds): Foretold['fields'] {
  return {
    zone: {
      choices: usualZones.map((value) => ({ value, label: value })),
      suggested: usualZones[0],
      says: 'Local times go by its clock; clock changes are foretold.',
    },
    rpo: { says: 'What is promised: no more than this of the newest work is lost.' },
    catchUp: {
      choices: [
        { value: 'latest', label: 'The latest of them is made up for' },
        { value: 'skip', label: 'None is made up for' },
        { value: 'all', label: 'All are made up for' },
      ],
    },
    grace: { says: 'Older ones are not made up for. Without it 4 h.' },
    pattern: {
      suggested: USUAL_PATTERN,
      says: `Such as ${nameByPattern(draftText(draft, 'pattern') || USUAL_PATTERN, now, { plan: draftText(draft, 'name') || 'plan' })}.`,
    },
    proveDays: { says: 'A finding tells when no copy was proven for so long; 0 for never.' },
    proveAt: {
      choices: [{ value: 'none', label: 'Nowhere by itself' }, ...hostChoices(view)],
      says: 'This host looks at the newest copy at midnight when the time has come.',
    },
    notes: { says: 'Who answers for it, what was agreed.' },
  };
}

/** What the fields of a schedule say while they are filled in. */
export function scheduleSays(draft: Draft, plan: Plan | undefined, now: Milliseconds): Foretold['fields'] {
  const lock = Number(draftText(draft, 'lockDays') || 0);
  return {
    every: {
      says: plan
        ? `${nextWords(plan, now)} ${gapWords(plan, now)}`.trim()
        : 'Such as 30 min, 4 h, day 04:00, SU 04:00, month 1 22:00.',
    },
    keepDays: { says: 'Copies no older than this stay.' },
    keepCount: { says: 'The newest so many stay; any one rule keeps a copy.' },
    quiesce: {
      says: draftFlag(draft, 'quiesce')
        ? 'Agents at the hosts pause their applications; where one does not, the copy says so.'
        : 'What a power cut would leave, write order kept.',
    },
    lockDays: { says: lock > 0 ? `Nobody can delete a copy for ${lock} days after it is made.` : 'Not locked.' },
    hourly: { says: 'One of each of the newest so many hours that hold a copy.' },
    daily: { says: 'One of each of the newest so many days that hold a copy.' },
    weekly: { says: 'One of each of the newest so many weeks that hold a copy.' },
    monthly: { says: 'One of each of the newest so many months that hold a copy.' },
    yearly: { says: 'One of each of the newest so many years that hold a copy.' },
    lockMode: {
      choices: [
        { value: 'strict', label: 'Strict: only ever lengthened' },
        { value: 'dual', label: 'Dual: two people may shorten it' },
      ],
    },
    onTimeout: {
      choices: [
        { value: 'crash', label: 'A crash-consistent copy all the same' },
        { value: 'fail', label: 'No copy' },
      ],
    },
    start: { says: 'Where the rhythm begins; without it today.' },
  };
}

/** Parameters of a schedule as they stand in a draft. */
export function draftSchedule(draft: Draft) {
  const number = (field: string) => {
    const text = draftText(draft, field);
    return text === '' || !Number.isFinite(Number(text)) ? undefined : Number(text);
  };
  return {
    every: draftText(draft, 'every') || undefined,
    start: draftText(draft, 'start') || undefined,
    keepCount: number('keepCount'),
    keepDays: number('keepDays'),
    hourly: number('hourly'),
    daily: number('daily'),
    weekly: number('weekly'),
    monthly: number('monthly'),
    yearly: number('yearly'),
    lockDays: number('lockDays'),
    quiesce: draftFlag(draft, 'quiesce'),
  };
}

export const planCreate: OperationType<Params> = {
  kind: 'plan.create',
  verb: 'Make a protection plan',
  summary:
    'When copies are made, how long they are kept and locked, whether applications are paused: to be attached to workloads.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: {
      name: 'Name',
      rpo: such('Loses at most', '30 min'),
      zone: such('Clock', 'Europe/Oslo'),
      ...scheduleFields,
      schedule: folded('Name of the schedule'),
      catchUp: folded('Missed runs'),
      grace: folded('No later than'),
      pattern: folded('Names of copies'),
      proveDays: folded('Prove every, days'),
      proveAt: folded(pick('Prove at')),
      notes: folded('Notes'),
    },
  },
  title: (p) => `Make plan ${p.name}: every ${p.every}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const name = asks.freeName('plan', p.name);
    const zone = p.zone || usualZones[0];
    const schedule = readSchedule(asks, p.schedule || p.every, p, zone, context.now);
    const promises = readPromises(asks, p, p.name);
    if (asks.refusals.length > 0 || !name || !schedule) return refused(asks.refusals);
    const plan = rowOf('plan', {
      id: context.newId('plan'),
      name,
      zone,
      grace: USUAL_GRACE,
      ...promises,
      schedules: [schedule],
      createdAt: context.now,
    });
    const gap = gapWords(plan, context.now);
    return planned({
      device: record,
      title: `Make plan ${name}: every ${everyWords(schedule.rule)}`,
      takes: SECOND,
      effects: [created('plan', plan)],
      notes: [
        ...(gap.includes('more than') ? [gap] : []),
        'Nothing is copied until it is attached to a workload or a volume.',
      ],
    });
  },
  foretell(view, draft, context) {
    const asks = inquire(view);
    const zone = draftText(draft, 'zone') || usualZones[0];
    const every = draftText(draft, 'every');
    const schedule = every ? readSchedule(asks, every, draftSchedule(draft), zone, context.now) : undefined;
    const promises = readPromises(asks, { rpo: draftText(draft, 'rpo') }, '');
    const plan = schedule && rowOf('plan', { id: 'plan', name: 'plan', zone, ...promises, schedules: [schedule] });
    const fields: Foretold['fields'] = {
      ...promiseFields(view, draft, context.now),
      ...scheduleSays(draft, plan, context.now),
    };
    fields.schedule = { says: 'Without it how often; others can be added.' };
    fields.name = { says: plan ? roomWords(view, plan, [], context.now) : `${view.table('plan').size} plans so far.` };
    return { fields };
  },
};
