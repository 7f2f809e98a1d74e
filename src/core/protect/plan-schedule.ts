import { z } from 'zod';
import { draftText } from '../operation/draft';
import { pick, such } from '../operation/form';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';
import { askSchedule, deletionNotes, planChanged } from './plan-change';
import { planChoices } from './plan-configure';
import { record } from '../operation/record';
import { draftSchedule, scheduleSays } from './plan-create';
import { gapWords, roomWords, withSchedule } from './plan-foretell';
import { readSchedule, scheduleFields, scheduleParams, scheduleWords } from './plan-schedule-fields';
import { subjectsOf } from './subject';

const schema = z.object({
  plan: z.string(),
  schedule: z.string().max(60).describe('Its name; a new name adds a schedule'),
  ...scheduleParams,
  every: scheduleParams.every.optional(),
});

/** Schedules that one plan may have. */
const MOST_SCHEDULES = 16;

export const planSchedule: OperationType<z.output<typeof schema>> = {
  kind: 'plan.schedule',
  verb: 'Add or change a schedule',
  summary:
    'A schedule of a plan: when copies are made, how long they are kept and locked. What is not named of one that is there stays.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: { plan: pick('Plan'), schedule: such('Schedule', 'weekly'), ...scheduleFields },
  },
  title: (p) => `Schedule ${p.schedule} of plan ${p.plan}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const plan = asks.find('plan', p.plan, 'plan');
    if (!plan) return refused(asks.refusals);
    const name = p.schedule.trim();
    const before = plan.schedules.find((one) => one.name.toLowerCase() === name.toLowerCase());
    if (name === '')
      asks.refuse({
        code: 'name-missing',
        field: 'schedule',
        subject: subjectOf('plan', plan),
        message: 'The schedule has no name.',
        mend: 'Write one.',
      });
    if (!before && plan.schedules.length >= MOST_SCHEDULES)
      asks.refuse({
        code: 'too-many-schedules',
        field: 'schedule',
        subject: subjectOf('plan', plan),
        message: `${plan.name} has ${MOST_SCHEDULES} schedules; that is the most.`,
        mend: 'Drop one first.',
      });
    const schedule = readSchedule(asks, before?.name ?? name, p, plan.zone, context.now, before);
    if (asks.refusals.length > 0 || !schedule) return refused(asks.refusals);
    const after = {
      ...plan,
      schedules: before
        ? plan.schedules.map((one) => (one === before ? schedule : one))
        : [...plan.schedules, schedule],
    };
    if (before && JSON.stringify(before) === JSON.stringify(schedule))
      asks.refuse({
        code: 'nothing-changes',
        field: 'schedule',
        subject: subjectOf('plan', plan),
        message: `${before.name} of ${plan.name} is so already.`,
        mend: 'Say what is to be otherwise.',
      });
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const gap = gapWords(after, context.now);
    return planned({
      device: record,
      title: `${plan.name}, ${schedule.name}: ${scheduleWords(schedule)}`,
      takes: SECOND,
      effects: planChanged(plan, { schedules: after.schedules }),
      notes: [...(gap.includes('more than') ? [gap] : []), ...deletionNotes(view, plan, after, context.now)],
    });
  },
  foretell(view, draft, context) {
    const plan = lookUp(view, 'plan', draftText(draft, 'plan'));
    const name = draftText(draft, 'schedule');
    const before = plan?.schedules.find((one) => one.name.toLowerCase() === name.toLowerCase());
    const schedule =
      plan && name && (before || draftText(draft, 'every'))
        ? readSchedule(inquire(view), name, draftSchedule(draft), plan.zone, context.now, before)
        : undefined;
    const after = plan && schedule ? withSchedule(plan, schedule) : undefined;
    const fields: Foretold['fields'] = scheduleSays(draft, after, context.now);
    fields.plan = {
      choices: planChoices(view),
      says: after && plan ? roomWords(view, after, subjectsOf(view, plan), context.now) : '',
    };
    fields.schedule = {
      says: before
        ? `Now: ${scheduleWords(before)}.`
        : plan
          ? `A new one. There are: ${plan.schedules.map((one) => one.name).join(', ') || 'none'}.`
          : '',
    };
    return { fields };
  },
};

const dropSchema = z.object({ plan: z.string(), schedule: z.string() });

export const planDropSchedule: OperationType<z.output<typeof dropSchema>> = {
  kind: 'plan.drop-schedule',
  verb: 'Drop a schedule',
  summary: 'Takes a schedule out of a plan. What only it kept goes at the next run.',
  schema: dropSchema,
  form: { columns: [3, 4, 7], fields: { plan: pick('Plan'), schedule: pick('Schedule') } },
  title: (p) => `Drop schedule ${p.schedule} of plan ${p.plan}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const plan = asks.find('plan', p.plan, 'plan');
    const schedule = plan && askSchedule(asks, plan, p.schedule);
    if (!plan || !schedule) return refused(asks.refusals);
    const after = { ...plan, schedules: plan.schedules.filter((one) => one !== schedule) };
    return planned({
      device: record,
      title: `${plan.name} loses schedule ${schedule.name} (${scheduleWords(schedule)})`,
      takes: SECOND,
      effects: planChanged(plan, { schedules: after.schedules }),
      notes: deletionNotes(view, plan, after, context.now),
    });
  },
  foretell(view, draft, context) {
    const plan = lookUp(view, 'plan', draftText(draft, 'plan'));
    const schedule = plan?.schedules.find((one) => one.name === draftText(draft, 'schedule'));
    return {
      fields: {
        plan: { choices: planChoices(view) },
        schedule: {
          choices: (plan?.schedules ?? []).map((one) => ({
            value: one.name,
            label: `${one.name}, ${scheduleWords(one)}`,
          })),
          says:
            plan && schedule
              ? (deletionNotes(
                  view,
                  plan,
                  { ...plan, schedules: plan.schedules.filter((one) => one !== schedule) },
                  context.now,
                )[0] ?? 'No copy would go for it.')
              : '',
        },
      },
    };
  },
};
