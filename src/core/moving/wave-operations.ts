import { z } from 'zod';
import { changed, created, deleted, type Effect } from '../estate/effects';
import { rowOf, type WavePlan } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { byName, draftNumber, draftText } from '../operation/draft';
import { folded, pick, several } from '../operation/form';
import { inquire, lookUp } from '../operation/inquiry';
import { movedWords } from '../operation/moved';
import { planned, refused, type Draft, type Foretold, type OperationType } from '../operation/operation';
import { record } from '../operation/record';
import { subjectOf } from '../operation/refusal';
import { dayWords, hoursWords, openAt } from '../schedule/hours';
import { weekdays } from '../schedule/rule';
import { counted, someOf } from '../units/counted';
import { momentText } from '../units/date';
import { formatDuration, SECOND, type Milliseconds } from '../units/duration';
import { movesOf, toCopy, wavesOf } from './waves';
import { wavePlanChoices } from './move-fields';
import { saidOr } from '../operation/said';

const hour = z.union([z.literal(''), z.coerce.number().int().min(0).max(23)]).optional();
const params = {
  from: hour.describe('Hour of the day (UTC) from which its moves copy; empty for always'),
  until: hour.describe('Hour until which they copy; the same hour for all day'),
  days: z.array(z.enum(weekdays)).optional().describe('Days on which a window begins; none for every day'),
  slots: z.coerce.number().int().min(1).max(64).optional().describe('Moves at once on each array'),
  notes: z.string().max(1000).optional(),
};
type Figures = z.output<z.ZodObject<typeof params>>;

const planForm = {
  from: 'From hour',
  until: 'Until hour',
  days: several('Days'),
  slots: 'At once on an array',
  notes: folded('Notes'),
} as const;

const hoursOf = (plan: Pick<WavePlan, 'fromHour' | 'untilHour' | 'days'>) => ({
  from: plan.fromHour,
  until: plan.untilHour,
  days: plan.days,
});

export const windowWords = (plan: Pick<WavePlan, 'fromHour' | 'untilHour' | 'days'>): string =>
  hoursWords(hoursOf(plan)) ?? 'at any hour';

/** The figures of a plan as they are given; what is not named stays as it was. */
function readPlan(asks: ReturnType<typeof inquire>, p: Figures, before: WavePlan): WavePlan {
  const of = (given: number | '' | undefined, was: number | null) => saidOr(given, was, '');
  const next: WavePlan = {
    ...before,
    fromHour: of(p.from, before.fromHour),
    untilHour: of(p.until, before.untilHour),
    ...(p.days === undefined ? {} : { days: weekdays.filter((day) => p.days!.includes(day)) }),
    ...(p.slots === undefined ? {} : { slots: p.slots }),
    ...(p.notes === undefined ? {} : { notes: p.notes }),
  };
  if ((next.fromHour === null) !== (next.untilHour === null))
    asks.refuse({
      code: 'wave-window-half',
      field: next.fromHour === null ? 'from' : 'until',
      subject: { kind: 'wavePlan', name: next.name },
      message: 'A window has a beginning and an end.',
      mend: 'Name both hours, or neither to copy at any hour.',
    });
  return next;
}

/** When all of a plan is whole as it then stands, in words. */
function endWords(view: EstateView, plan: WavePlan, now: Milliseconds): string[] {
  const moves = movesOf(view, plan);
  if (toCopy(moves).length === 0) return [];
  const waves = wavesOf(view, plan, now);
  if (!waves.ok) return [waves.message];
  const { makespanS, lowerBoundS, ratio } = waves.value;
  return [
    `All whole ${momentText(now + makespanS * SECOND)}; no plan could end before ${momentText(now + lowerBoundS * SECOND)}${ratio === null ? '' : `, ${ratio.toFixed(2)} of it`}.`,
  ];
}

function planForetold(draft: Draft, now: Milliseconds, before?: WavePlan): Foretold['fields'] {
  const given = (field: 'from' | 'until', was: number | null) =>
    draft[field] === undefined ? was : draftText(draft, field) === '' ? null : draftNumber(draft, field, 0);
  const days = Array.isArray(draft.days)
    ? weekdays.filter((day) => (draft.days as unknown[]).includes(day))
    : (before?.days ?? []);
  const hours = {
    from: given('from', before?.fromHour ?? null),
    until: given('until', before?.untilHour ?? null),
    days,
  };
  const whole =
    hours.from !== null &&
    hours.until !== null &&
    hours.from >= 0 &&
    hours.from < 24 &&
    hours.until >= 0 &&
    hours.until < 24;
  const open = whole ? openAt(hours, now) : null;
  return {
    from: {
      ...(before?.fromHour === null || before === undefined ? {} : { suggested: String(before.fromHour) }),
      says: open ? `The next window: ${momentText(open.from)} to ${momentText(open.to!)}.` : 'Empty: at any hour.',
    },
    until: {
      ...(before?.untilHour === null || before === undefined ? {} : { suggested: String(before.untilHour) }),
      says: open ? `${formatDuration(open.to! - open.from)} long.` : 'The same hour as from: all day.',
    },
    days: {
      choices: weekdays.map((day) => ({ value: day, label: dayWords[day] })),
      ...(before ? { suggested: [...before.days] } : {}),
      says: 'Days on which a window begins; none for every day.',
    },
    slots: { suggested: String(before?.slots ?? 2), says: 'Others of it wait for one of these to be whole.' },
    notes: { says: before?.notes ? `So far: ${before.notes}` : 'What it is for.' },
  };
}

const createSchema = z.object({ name: z.string(), ...params });

export const wavePlanCreate: OperationType<z.output<typeof createSchema>> = {
  kind: 'wave-plan.create',
  verb: 'Plan waves of moves',
  summary:
    'Windows and slots that many moves share; which go when follows from their sizes, and is worked out anew when something slips.',
  schema: createSchema,
  form: { columns: [2, 3, 4], fields: { name: 'Name', ...planForm } },
  title: (p) => `Plan waves ${p.name}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const name = asks.freeName('wavePlan', p.name);
    if (name === undefined) return refused(asks.refusals);
    const plan = readPlan(asks, p, rowOf('wavePlan', { id: context.newId('wavePlan'), name, createdAt: context.now }));
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: record,
      title: `Wave plan ${name}: ${windowWords(plan)}, ${counted(plan.slots, 'move')} at once on an array`,
      takes: SECOND,
      effects: [created('wavePlan', plan)],
    });
  },
  foretell: (_view, draft, context) => ({
    fields: { name: { says: 'As people call it, such as Empty ballast.' }, ...planForetold(draft, context.now) },
  }),
};

const configureSchema = z.object({ plan: z.string(), newName: z.string().optional(), ...params });

export const wavePlanConfigure: OperationType<z.output<typeof configureSchema>> = {
  kind: 'wave-plan.configure',
  verb: 'Change a wave plan',
  summary: 'Its windows and slots; when its moves are whole is worked out anew. What is not named stays.',
  schema: configureSchema,
  form: { columns: [2, 3, 4], fields: { plan: pick('Wave plan'), newName: folded('New name'), ...planForm } },
  title: (p) => `Change wave plan ${p.plan}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const row = asks.find('wavePlan', p.plan, 'plan');
    if (!row) return refused(asks.refusals);
    const name = p.newName?.trim() ? asks.freeName('wavePlan', p.newName, undefined, 'newName', row) : row.name;
    const next = { ...readPlan(asks, p, row), name: name ?? row.name };
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const effect = changed('wavePlan', row, next);
    const overlay = new Overlay(view);
    overlay.apply([effect]);
    const waves = wavesOf(overlay, next, context.now);
    if (!waves.ok && waves.reason === 'waves-windows-too-short')
      return refused([
        {
          code: waves.reason,
          field: 'until',
          subject: subjectOf('wavePlan', row),
          message: `${row.name}: ${waves.message}`,
          mend: 'Open its windows longer or on more days.',
        },
      ]);
    const moved = movedWords(row, next, {
      name: (given) => `is called ${given}`,
      fromHour: () => windowWords(next),
      untilHour: () => windowWords(next),
      days: () => windowWords(next),
      slots: (slots) => `${counted(slots, 'move')} at once on an array`,
      notes: () => 'other notes',
    });
    return planned({
      device: record,
      title: `Change wave plan ${row.name}: ${[...new Set(moved.split(', '))].join(', ')}`,
      takes: SECOND,
      effects: [effect],
      notes: endWords(overlay, next, context.now),
    });
  },
  foretell(view, draft, context) {
    const row = lookUp(view, 'wavePlan', draftText(draft, 'plan'));
    return {
      fields: {
        plan: {
          choices: wavePlanChoices(view),
          says: row ? (endWords(view, row, context.now)[0] ?? 'Nothing goes by it now.') : 'Which.',
        },
        newName: { says: row ? `Now ${row.name}.` : '' },
        ...planForetold(draft, context.now, row),
      },
    };
  },
};

const nameSchema = z.object({ plan: z.string() });
type NameParams = z.output<typeof nameSchema>;

const holding = (held: boolean, words: { kind: string; verb: string; summary: string }): OperationType<NameParams> => ({
  ...words,
  schema: nameSchema,
  form: { columns: [2, 3, 4], fields: { plan: pick('Wave plan') } },
  title: (p) => (held ? `Hold ${p.plan}` : `Let ${p.plan} go on`),
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const row = asks.find('wavePlan', p.plan, 'plan');
    if (row && row.held === held)
      asks.refuse({
        code: held ? 'wave-held' : 'wave-not-held',
        field: 'plan',
        subject: subjectOf('wavePlan', row),
        message: held ? `${row.name} is held already.` : `Nobody holds ${row.name}.`,
        mend: 'Leave it as it is.',
      });
    if (!row || asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: record,
      title: held ? `Hold ${row.name}: nothing of it copies` : `Let ${row.name} go on`,
      takes: SECOND,
      effects: [changed('wavePlan', row, { held })],
      notes: [`${counted(movesOf(view, row).length, 'move')} go by it.`],
    });
  },
  foretell: (view) => ({
    fields: {
      plan: {
        choices: [...view.table('wavePlan').values()].sort(byName).map((row) => ({
          value: row.name,
          label: `${row.name}, ${windowWords(row)}`,
          ...(row.held === held ? { unfit: held ? 'is held' : 'is not held' } : {}),
        })),
        says: held ? 'What is copied stays; hosts notice nothing.' : 'Its moves go on from where they were.',
      },
    },
  }),
});

export const wavePlanHold: OperationType<NameParams> = holding(true, {
  kind: 'wave-plan.hold',
  verb: 'Hold a wave plan',
  summary: 'Nothing of it is copied and nothing begins, until somebody lets it go on.',
});

export const wavePlanGoOn: OperationType<NameParams> = holding(false, {
  kind: 'wave-plan.go-on',
  verb: 'Let a wave plan go on',
  summary: 'Its moves are copied on from where they were.',
});

export const wavePlanDelete: OperationType<NameParams> = {
  kind: 'wave-plan.delete',
  verb: 'Put a wave plan away',
  summary: 'Its record goes; moves that are over keep theirs.',
  schema: nameSchema,
  form: { columns: [2, 3, 4], fields: { plan: pick('Wave plan') } },
  title: (p) => `Put wave plan ${p.plan} away`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const row = asks.find('wavePlan', p.plan, 'plan');
    if (!row) return refused(asks.refusals);
    const open = movesOf(view, row);
    if (open.length > 0)
      return refused([
        {
          code: 'wave-plan-in-use',
          field: 'plan',
          subject: subjectOf('wavePlan', row),
          message: `${someOf(open.map(({ name }) => name))} ${open.length === 1 ? 'goes' : 'go'} by ${row.name}.`,
          mend: 'Wait until they are over, or abort them.',
        },
      ]);
    const effects: Effect[] = [
      ...view
        .table('move')
        .by('wavePlan', row.id)
        .map((move) => changed('move', move, { wavePlan: null })),
      deleted('wavePlan', row),
    ];
    return planned({ device: record, title: `Put wave plan ${row.name} away`, takes: SECOND, effects });
  },
  foretell: (view) => ({
    fields: {
      plan: {
        choices: [...view.table('wavePlan').values()].sort(byName).map((row) => {
          const open = movesOf(view, row).length;
          return {
            value: row.name,
            label: row.name,
            ...(open > 0 ? { unfit: `${counted(open, 'move')} go by it` } : {}),
          };
        }),
        says: 'One by which nothing goes any more.',
      },
    },
  }),
};
