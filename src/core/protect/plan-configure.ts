import { z } from 'zod';
import { changed, deleted } from '../estate/effects';
import type { Plan, Snapshot } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { byName, draftText } from '../operation/draft';
import { folded, pick, such } from '../operation/form';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Choice, type Foretold, type OperationType } from '../operation/operation';
import { flag } from '../operation/params';
import { subjectOf } from '../operation/refusal';
import { zoneOf } from '../schedule/zone';
import { counted, someOf } from '../units/counted';
import { formatDuration, SECOND } from '../units/duration';
import { deletionNotes, planChanged } from './plan-change';
import { record } from '../operation/record';
import { promiseFields, promiseParams, readPromises } from './plan-create';
import { gapWords, nextWords, roomWords } from './plan-foretell';
import { scheduleWords, usualZones } from './plan-schedule-fields';
import { subjectsOf } from './subject';

export const planChoices = (view: EstateView): Choice[] =>
  [...view.table('plan').values()]
    .sort(byName)
    .map((plan) => ({ value: plan.name, label: `${plan.name}, ${plan.schedules.map(scheduleWords).join('; ')}` }));

const schema = z.object({
  plan: z.string(),
  newName: z.string().optional(),
  paused: flag.optional().describe('Makes no copies until it goes on'),
  ...promiseParams,
});

function moved(view: EstateView, before: Plan, fields: Partial<Plan>): string[] {
  const said: string[] = [];
  const is = (field: keyof Plan) => field in fields && fields[field] !== before[field];
  if (is('name')) said.push(`is called ${fields.name}`);
  if (is('paused')) said.push(fields.paused ? 'makes no copies for now' : 'goes on');
  if (is('zone')) said.push(`goes by the clock of ${fields.zone}`);
  if (is('rpo')) said.push(fields.rpo === null ? 'promises nothing' : `loses at most ${formatDuration(fields.rpo!)}`);
  if (is('catchUp'))
    said.push(`makes up for ${fields.catchUp === 'skip' ? 'no' : `the ${fields.catchUp}`} missed runs`);
  if (is('grace')) said.push(`makes up for runs no older than ${formatDuration(fields.grace!)}`);
  if (is('pattern')) said.push(`names copies ${fields.pattern}`);
  if (is('proveDays'))
    said.push(fields.proveDays === 0 ? 'asks for no proof' : `is proven every ${fields.proveDays} days`);
  if (is('proveAt')) {
    const host = view.table('host').get(fields.proveAt ?? '');
    said.push(host ? `is proven at ${host.name} by itself` : 'is proven by hand');
  }
  if (is('notes')) said.push('has other notes');
  return said;
}

export const planConfigure: OperationType<z.output<typeof schema>> = {
  kind: 'plan.configure',
  verb: 'Change a protection plan',
  summary: 'Its name, promises and clock; pauses it and lets it go on. What is not named stays.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: {
      plan: pick('Plan'),
      paused: pick('At work'),
      rpo: such('Loses at most', '30 min'),
      zone: such('Clock', 'Europe/Oslo'),
      newName: folded('New name'),
      catchUp: folded('Missed runs'),
      grace: folded('No later than'),
      pattern: folded('Names of copies'),
      proveDays: folded('Prove every, days'),
      proveAt: folded(pick('Prove at')),
      notes: folded('Notes'),
    },
  },
  title: (p) => `Change plan ${p.plan}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const plan = asks.find('plan', p.plan, 'plan');
    if (!plan) return refused(asks.refusals);
    const fields: Partial<Plan> = readPromises(asks, p, plan.name);
    if (p.newName) {
      const name = asks.freeName('plan', p.newName, undefined, 'newName', plan);
      if (name !== undefined) fields.name = name;
    }
    if (p.zone) {
      if (zoneOf(p.zone)) fields.zone = p.zone;
      else
        asks.refuse({
          code: 'schedule-zone-unknown',
          field: 'zone',
          subject: subjectOf('plan', plan),
          message: `No time zone ${p.zone}.`,
          mend: `Write one such as ${usualZones[0]}.`,
        });
    }
    if (p.paused !== undefined && p.paused !== plan.paused) {
      fields.paused = p.paused;
      fields.pausedSince = p.paused ? context.now : null;
    }
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const after = { ...plan, ...fields };
    const gap = gapWords(after, context.now);
    return planned({
      device: record,
      title: `${plan.name} ${moved(view, plan, fields).join(', ') || 'stays as it is'}`,
      takes: SECOND,
      effects: planChanged(plan, fields),
      notes: [...(gap.includes('more than') ? [gap] : []), ...deletionNotes(view, plan, after, context.now)],
    });
  },
  foretell(view, draft, context) {
    const plan = lookUp(view, 'plan', draftText(draft, 'plan'));
    const fields: Foretold['fields'] = promiseFields(view, draft, context.now);
    delete fields.zone!.suggested;
    delete fields.pattern!.suggested;
    fields.proveAt!.choices = [{ value: '', label: 'As it is' }, ...fields.proveAt!.choices!];
    fields.plan = {
      choices: planChoices(view),
      says: plan
        ? `${plan.schedules.map(scheduleWords).join('; ') || 'No schedule yet'}. ${nextWords(plan, context.now)}`
        : '',
    };
    fields.paused = {
      choices: [
        { value: '', label: 'As it is' },
        { value: 'true', label: 'Paused' },
        { value: 'false', label: 'At work' },
      ],
      says: plan?.paused ? 'Paused now: no copies are made.' : 'At work now.',
    };
    fields.catchUp!.choices = [{ value: '', label: 'As it is' }, ...fields.catchUp!.choices!];
    fields.newName = { says: 'Left empty, the name stays.' };
    if (plan)
      fields.rpo!.says =
        `${gapWords(plan, context.now)} ${roomWords(view, plan, subjectsOf(view, plan), context.now)}`.trim();
    return { fields };
  },
};

/** All copies that a plan has made, also those that are only remembered. */
const copiesOfPlan = (view: EstateView, plan: Plan): Snapshot[] =>
  [...view.table('snapshot').values()].filter((copy) => copy.plan === plan.id);

const deleteSchema = z.object({ plan: z.string() });

export const planDelete: OperationType<z.output<typeof deleteSchema>> = {
  kind: 'plan.delete',
  verb: 'Drop a protection plan',
  summary: 'Forgets a plan that nothing is attached to. Its copies stay until somebody deletes them.',
  schema: deleteSchema,
  form: { columns: [3, 4, 7], fields: { plan: pick('Plan') } },
  title: (p) => `Drop plan ${p.plan}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const plan = asks.find('plan', p.plan, 'plan');
    if (!plan) return refused(asks.refusals);
    const users = [
      ...view.table('workload').by('plan', plan.id),
      ...view.table('volume').by('plan', plan.id),
      ...view.table('replication').by('plan', plan.id),
    ];
    if (users.length > 0)
      return refused([
        {
          code: 'plan-in-use',
          field: 'plan',
          subject: subjectOf('plan', plan),
          message: `${plan.name} protects ${someOf(users.map((row) => row.name))}.`,
          mend: 'Attach another plan to them, or none, first.',
        },
      ]);
    const copies = copiesOfPlan(view, plan);
    const runs = view.table('planRun').by('plan', plan.id);
    const kept = copies.filter((copy) => copy.kept).length;
    return planned({
      device: record,
      title: `Drop plan ${plan.name}: ${kept === 0 ? 'it has no copies' : `${counted(kept, 'copy', 'copies')} stay until somebody deletes them`}`,
      takes: SECOND,
      effects: [
        ...copies.map((copy) => changed('snapshot', copy, { plan: null, schedules: [] })),
        ...runs.map((run) => deleted('planRun', run)),
        deleted('plan', plan),
      ],
    });
  },
  foretell(view, draft) {
    const plan = lookUp(view, 'plan', draftText(draft, 'plan'));
    const copies = plan ? copiesOfPlan(view, plan).length : 0;
    return {
      fields: {
        plan: {
          choices: planChoices(view),
          says: plan ? `${counted(copies, 'copy', 'copies')} stay until somebody deletes them.` : '',
        },
      },
    };
  },
};
