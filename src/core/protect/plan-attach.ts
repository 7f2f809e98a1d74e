import { z } from 'zod';
import { changed, type Effect } from '../estate/effects';
import type { Plan, Volume, Workload } from '../estate/entities';
import { arrayChoices, byName, draftArray, draftList, draftText } from '../operation/draft';
import { folded, pick, several } from '../operation/form';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { counted, someOf } from '../units/counted';
import { SECOND } from '../units/duration';
import { askVolume } from '../volume/ask';
import { gapWords, nextWords, roomWords } from './plan-foretell';
import { planChoices } from './plan-configure';
import { record } from '../operation/record';
import { runPlan } from './run';
import {
  askProtected,
  draftProtected,
  namedWords,
  ofVolume,
  ofWorkload,
  planOf,
  protectedFields,
  subjectsOf,
} from './subject';
import { namedFields, namedParams } from './named';

const schema = z.object({
  plan: z.string().describe('none takes the plan away'),
  workloads: z.array(z.string()).default([]),
  array: z.string().optional(),
  volumes: z.array(z.string()).default([]).describe('Volumes that have a plan of their own'),
});

const NONE = 'none';

export const planAttach: OperationType<z.output<typeof schema>> = {
  kind: 'plan.attach',
  verb: 'Protect with a plan',
  summary:
    'Lets a plan make copies of workloads, or of volumes by themselves; volumes join and leave with their workload.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: {
      plan: pick('Plan'),
      workloads: several('Workloads'),
      array: pick('Or array'),
      volumes: several('Volumes'),
    },
  },
  title: (p) => `Protect ${someOf([...p.workloads, ...p.volumes])} with ${p.plan}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const none = p.plan === '' || p.plan.toLowerCase() === NONE;
    const plan = none ? null : asks.find('plan', p.plan, 'plan');
    const workloads = p.workloads.flatMap((name) => asks.find('workload', name, 'workloads') ?? []);
    const array = p.volumes.length > 0 ? asks.find('array', p.array ?? '', 'array') : undefined;
    const volumes = array ? p.volumes.flatMap((name) => askVolume(asks, array, name) ?? []) : [];
    if (asks.refusals.length === 0 && workloads.length + volumes.length === 0)
      asks.refuse({
        code: 'nothing-named',
        field: 'workloads',
        subject: { kind: 'plan', name: p.plan },
        message: 'Neither a workload nor a volume is named.',
        mend: 'Choose at least one.',
      });
    for (const volume of volumes)
      if (plan && view.table('pool').get(volume.pool)?.direct)
        asks.refuse({
          code: 'copies-need-pool',
          field: 'volumes',
          subject: subjectOf('volume', volume),
          message: `${volume.name} lies straight in a RAID group; there is no pool that could keep what its copies show.`,
          mend: 'Carve it from a pool.',
        });
    if (plan === undefined || asks.refusals.length > 0) return refused(asks.refusals);
    const id = plan?.id ?? null;
    const moving: (Workload | Volume)[] = [
      ...workloads.filter((row) => row.plan !== id),
      ...volumes.filter((row) => row.plan !== id),
    ];
    const names = [...workloads, ...volumes].map((row) => row.name);
    if (moving.length === 0)
      return refused([
        {
          code: 'nothing-changes',
          field: 'plan',
          subject: { kind: 'plan', name: p.plan },
          message: plan ? `${plan.name} protects ${someOf(names)} already.` : `${someOf(names)} has no plan already.`,
          mend: 'Choose others.',
        },
      ]);
    const effects: Effect[] = [
      ...workloads.filter((row) => row.plan !== id).map((row) => changed('workload', row, { plan: id })),
      ...volumes.filter((row) => row.plan !== id).map((row) => changed('volume', row, { plan: id })),
    ];
    const left = [
      ...new Set(moving.flatMap((row) => (row.plan === null ? [] : [view.table('plan').get(row.plan)!.name]))),
    ];
    const gap = plan ? gapWords(plan, context.now) : '';
    const subjects = [...workloads.map((row) => ofWorkload(view, row)), ...volumes.map(ofVolume)];
    return planned({
      device: record,
      title: plan ? `Protect ${someOf(names)} with ${plan.name}` : `${someOf(names)} is protected by no plan`,
      takes: SECOND,
      effects,
      notes: [
        ...(left.length > 0 ? [`Copies that ${someOf(left)} made stay until somebody deletes them.`] : []),
        ...(plan ? [nextWords(plan, context.now), roomWords(view, plan, subjects, context.now)] : []),
        ...(gap.includes('more than') ? [gap] : []),
        ...(plan?.paused ? [`${plan.name} is paused: nothing is copied until it goes on.`] : []),
      ],
    });
  },
  foretell(view, draft, context) {
    const array = draftArray(view, draft);
    const plan = lookUp(view, 'plan', draftText(draft, 'plan'));
    const says = (row: { plan: string | null }) =>
      row.plan === null ? 'no plan' : (view.table('plan').get(row.plan)?.name ?? 'no plan');
    const subjects = [
      ...draftList(draft, 'workloads').flatMap((name) => {
        const found = lookUp(view, 'workload', name);
        return found ? [ofWorkload(view, found)] : [];
      }),
      ...draftList(draft, 'volumes').flatMap((name) => {
        const found = array && lookUp(view, 'volume', name, array.id);
        return found ? [ofVolume(found)] : [];
      }),
    ];
    const fields: Foretold['fields'] = {
      plan: {
        choices: [...planChoices(view), { value: NONE, label: 'None' }],
        says: plan ? `${nextWords(plan, context.now)} ${roomWords(view, plan, subjects, context.now)}` : '',
      },
      workloads: {
        choices: [...view.table('workload').values()]
          .sort(byName)
          .map((row) => ({ value: row.name, label: `${row.name}, ${says(row)}` })),
        says: plan ? gapWords(plan, context.now) : 'All volumes of one are copied at one instant.',
      },
      array: { choices: [{ value: '', label: 'None' }, ...arrayChoices(view)] },
      volumes: {
        choices: array
          ? [...view.table('volume').by('array', array.id)]
              .filter((row) => row.deletedAt === null)
              .sort(byName)
              .map((row) => ({ value: row.name, label: `${row.name}, ${says(row)}` }))
          : [],
        says: 'Volumes with a plan of their own leave that of their workload.',
      },
    };
    return { fields };
  },
};

const runSchema = z.object({
  ...namedParams,
  schedules: z.array(z.string()).default([]).describe('Those that ask for it; without them all'),
  by: z.string().max(120).optional(),
});

export const planRun: OperationType<z.output<typeof runSchema>> = {
  kind: 'plan.run',
  verb: 'Run a plan now',
  summary: 'Makes the copy that a plan would make, now: paused, labelled, locked and kept as its schedules say.',
  schema: runSchema,
  form: {
    columns: [3, 4, 7],
    fields: {
      ...namedFields,
      schedules: several('As'),
      by: folded('By'),
    },
  },
  title: (p) => `Run the plan of ${namedWords(p)} now`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const named = askProtected(view, asks, p);
    if (!named) return refused(asks.refusals);
    const plan: Plan | undefined = named.workload?.plan
      ? view.table('plan').get(named.workload.plan)
      : planOf(view, named.volumes[0]!);
    if (!plan) {
      asks.refuse({
        code: 'no-plan',
        field: 'workload',
        subject: {
          kind: named.workload ? 'workload' : 'volume',
          id: (named.workload ?? named.volumes[0]!).id,
          name: named.name,
        },
        message: `${named.name} is protected by no plan.`,
        mend: 'Attach one, or make a copy by hand.',
        offer: {
          label: 'Attach a plan',
          do: 'plan.attach',
          params: named.workload ? { workloads: [named.name] } : { array: p.array, volumes: [named.name] },
        },
      });
      return refused(asks.refusals);
    }
    const subject = subjectsOf(view, plan).find((one) => one.workload?.id === named.workload?.id) ?? named;
    const schedules = plan.schedules.filter((one) => p.schedules.length === 0 || p.schedules.includes(one.name));
    if (schedules.length === 0)
      return refused([
        {
          code: 'schedule-unknown',
          field: 'schedules',
          subject: subjectOf('plan', plan),
          message: `${plan.name} has no schedule ${someOf(p.schedules) || 'yet'}.`,
          mend: `Known are: ${plan.schedules.map((one) => one.name).join(', ') || 'none'}.`,
        },
      ]);
    const lock = schedules.some((one) => one.lockDays > 0);
    const done = runPlan(
      view,
      subject,
      { plan, schedules, dueAt: context.now, at: context.now, by: p.by ?? 'by hand' },
      context.newId,
    );
    if (done.run.result !== 'done')
      return refused([
        {
          code: 'run-failed',
          field: 'workload',
          subject: subjectOf('plan', plan),
          message: `${subject.name} cannot be copied: ${done.run.reason}.`,
          mend: 'Mend that first.',
        },
      ]);
    const { label, reason, deleted } = done.run;
    return planned({
      device: record,
      title: `Copy ${subject.name} as ${plan.name} does: ${counted(done.run.made, 'volume')}, ${label === 'application' ? 'application' : 'crash'}-consistent${deleted > 0 ? `; ${counted(deleted, 'copy', 'copies')} past their time go` : ''}`,
      takes: Math.max(SECOND, done.run.took),
      effects: done.effects,
      notes: reason === null ? [] : [`It is no better than its label: ${reason}.`],
      destroys:
        deleted > 0
          ? `${counted(deleted, 'copy', 'copies')} past their time`
          : lock
            ? 'the freedom to delete it before its lock ends'
            : null,
    });
  },
  foretell(view, draft) {
    const fields: Foretold['fields'] = protectedFields(view, draft);
    const subject = draftProtected(view, draft);
    const plan =
      subject &&
      (subject.workload?.plan
        ? view.table('plan').get(subject.workload.plan)
        : subject.volumes[0] && planOf(view, subject.volumes[0]));
    fields.schedules = {
      choices: (plan?.schedules ?? []).map((one) => ({ value: one.name, label: one.name })),
      says: plan
        ? `Plan ${plan.name}. Without a choice all its schedules ask for it.`
        : subject
          ? `${subject.name} has no plan.`
          : '',
    };
    fields.by = { says: 'Who asked for it.' };
    return { fields };
  },
};
