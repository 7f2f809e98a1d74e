import { z } from 'zod';
import { ruleText } from '../classes/rule-text';
import type { RequestRule } from '../classes/rules';
import { changed, created, deleted } from '../estate/effects';
import { classCopies } from '../kinds/service-class';
import { rowOf, type Pool, type ServiceClass, type Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayChoices, byName, draftArray, draftText } from '../operation/draft';
import { folded, pick, such, the } from '../operation/form';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { planned, refused, type Choice, type OperationType } from '../operation/operation';
import { record } from '../operation/record';
import { subjectOf, type Subject } from '../operation/refusal';
import { counted, someOf } from '../units/counted';
import { SECOND } from '../units/duration';
import { askVolumes, volumeChoices } from '../volume/ask';
import { releasing, type ReleaseParams } from '../volume/one-use';
import { headroomsOf } from '../performance/pool-headroom';
import { asksHeadroom, classOf, judged, poolFacts, volumeFacts, type Facts } from './facts';
import { askRules, fitNote, rulesParam, rulesForm, saysOfRules } from './rule-ask';
import { outcomeWords } from './words';
import { saidOr } from '../operation/said';

const classParams = {
  rules: rulesParam,
  goalMs: z
    .union([z.literal(''), z.coerce.number().positive().max(1e6)])
    .optional()
    .describe('Within how many milliseconds 95 of 100 I/Os should be answered; empty for no goal'),
  copies: z.enum(classCopies).optional().describe('Copies by a plan, or such of which the newest is locked'),
  notes: z.string().max(1000).optional(),
};
const copiesChoices: Choice[] = [
  { value: 'none', label: 'Asks for none' },
  { value: 'planned', label: 'By a plan' },
  { value: 'locked', label: 'By a plan, the newest locked' },
];
const copiesWords = { none: [], planned: ['copies by a plan'], locked: ['locked copies by a plan'] } as const;

const classForm = {
  rules: rulesForm,
  goalMs: 'p95 within, ms',
  copies: folded(pick('Copies')),
  notes: folded('Notes'),
} as const;

type ClassFigures = Pick<ServiceClass, 'rules' | 'goalMs' | 'copies' | 'notes'>;

function readClass(
  asks: Inquiry,
  before: ClassFigures,
  p: z.output<z.ZodObject<typeof classParams>>,
  subject: Subject,
): ClassFigures {
  return {
    rules: p.rules === undefined ? before.rules : askRules(asks, p.rules, subject),
    goalMs: saidOr(p.goalMs, before.goalMs, ''),
    copies: p.copies ?? before.copies,
    notes: p.notes ?? before.notes,
  };
}

export const classWords = ({ rules, goalMs, copies }: Pick<ServiceClass, 'rules' | 'goalMs' | 'copies'>): string =>
  [...rules.map(ruleText), ...(goalMs === null ? [] : [`p95 within ${goalMs} ms`]), ...copiesWords[copies]].join(
    '; ',
  ) || 'anything';

/** Volumes of a class that would no longer meet it. */
function leaving(view: EstateView, own: ServiceClass, rules: readonly RequestRule[]): string[] {
  return view
    .table('classUse')
    .by('serviceClass', own.id)
    .flatMap(({ volume }) => view.table('volume').get(volume) ?? [])
    .filter((volume) => judged(view, rules, volumeFacts(view, volume)).some(({ outcome }) => outcome !== 'pass'))
    .map(({ name }) => name);
}

const createSchema = z.object({ name: z.string(), ...classParams });

export const classCreate: OperationType<z.output<typeof createSchema>> = {
  kind: 'class.create',
  verb: 'Make a service class',
  summary: 'Rules over what pools can do and what is said of them, under one name that a request can ask for.',
  schema: createSchema,
  form: { columns: [2], fields: { name: such('Name', 'quick'), ...classForm } },
  title: (p) => `Make service class ${p.name}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const name = asks.freeName('serviceClass', p.name);
    const figures = readClass(asks, { rules: [], goalMs: null, copies: 'none', notes: '' }, p, {
      kind: 'serviceClass',
      name: p.name,
    });
    if (asks.refusals.length > 0 || name === undefined) return refused(asks.refusals);
    const row = rowOf('serviceClass', { id: context.newId('serviceClass'), name, ...figures });
    return planned({
      device: record,
      title: `Service class ${name}: ${classWords(row)}`,
      takes: SECOND,
      effects: [created('serviceClass', row)],
      notes: [fitNote(view, row.rules)],
    });
  },
  foretell: (view, draft) => ({
    fields: {
      name: { says: 'As people ask for it, such as quick or deep.' },
      rules: { says: saysOfRules(view, draft) },
      goalMs: { says: 'A finding tells when 95 of 100 took longer over an hour.' },
      copies: { choices: copiesChoices, says: 'A finding tells which of its volumes have none.' },
      notes: { says: 'For those who come after.' },
    },
  }),
};

const configureSchema = z.object({ class: z.string(), newName: z.string().optional(), ...classParams });

export const classConfigure: OperationType<z.output<typeof configureSchema>> = {
  kind: 'class.configure',
  verb: 'Change a service class',
  summary:
    'Its rules and its goal, for all volumes under it. Rules named replace those before; what is not named stays.',
  schema: configureSchema,
  form: {
    columns: [2],
    fields: {
      class: pick('Service class'),
      ...classForm,
      rules: { label: 'Rules', control: 'lines', placeholder: 'as they are' },
      newName: folded('New name'),
    },
  },
  title: (p) => `Change service class ${p.class}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const row = asks.find('serviceClass', p.class, 'class');
    if (!row) return refused(asks.refusals);
    const name = p.newName ? asks.freeName('serviceClass', p.newName, undefined, 'newName', row) : row.name;
    const figures = readClass(asks, row, p, subjectOf('serviceClass', row));
    if (asks.refusals.length > 0 || name === undefined) return refused(asks.refusals);
    const after = { ...row, ...figures, name };
    const out = leaving(view, row, after.rules);
    return planned({
      device: record,
      title: `Service class ${row.name}${name === row.name ? '' : ` is called ${name}`}: ${classWords(after)}`,
      takes: SECOND,
      effects: [changed('serviceClass', row, { ...figures, name })],
      notes: [
        fitNote(view, after.rules),
        ...(out.length > 0 ? [`${someOf(out)} no longer ${out.length === 1 ? 'meets' : 'meet'} it.`] : []),
      ],
    });
  },
  foretell(view, draft) {
    const row = lookUp(view, 'serviceClass', draftText(draft, 'class'));
    return {
      fields: {
        class: { choices: classChoices(view), says: row ? `Now ${classWords(row)}.` : '' },
        rules: { says: saysOfRules(view, draft) },
        goalMs: { says: row?.goalMs ? `${row.goalMs} ms now; empty for none.` : 'None now.' },
        copies: {
          choices: copiesChoices,
          says: 'A finding tells which of its volumes have none.',
          ...(row ? { suggested: row.copies } : {}),
        },
        newName: { says: 'Left empty, the name stays.' },
        notes: { says: 'For those who come after.' },
      },
    };
  },
};

export const classChoices = (view: EstateView): Choice[] =>
  [...view.table('serviceClass').values()]
    .sort(byName)
    .map((row) => ({ value: row.name, label: `${row.name}: ${classWords(row)}` }));

const deleteSchema = z.object({ class: z.string() });

export const classDelete: OperationType<z.output<typeof deleteSchema>> = {
  kind: 'class.delete',
  verb: 'Drop a service class',
  summary: 'Volumes under it stay where they are; nothing is asked of them any more.',
  schema: deleteSchema,
  form: { columns: [2], fields: { class: pick('Service class') } },
  title: (p) => `Drop service class ${p.class}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const row = asks.find('serviceClass', p.class, 'class');
    if (!row) return refused(asks.refusals);
    const uses = view.table('classUse').by('serviceClass', row.id);
    const asking = view.table('keptRequest').by('serviceClass', row.id);
    return planned({
      device: record,
      title: `Drop service class ${row.name}`,
      takes: SECOND,
      effects: [
        ...uses.map((use) => deleted('classUse', use)),
        ...view
          .table('allotment')
          .by('classes', row.id)
          .map((one) => changed('allotment', one, { classes: one.classes.filter((id) => id !== row.id) })),
        ...asking.map((one) =>
          changed('keptRequest', one, { serviceClass: null, rules: [...row.rules, ...one.rules] }),
        ),
        deleted('serviceClass', row),
      ],
      notes: [
        ...(uses.length > 0 ? [`${counted(uses.length, 'volume')} under no class then.`] : []),
        ...(asking.length > 0
          ? [
              `${someOf(asking.map(({ name }) => name))} ${asking.length === 1 ? 'keeps' : 'keep'} its rules as its own.`,
            ]
          : []),
      ],
    });
  },
  foretell: (view) => ({ fields: { class: { choices: classChoices(view) } } }),
};

const applySchema = z.object({
  array: z.string(),
  class: z.string(),
  volumes: z.array(z.string()).min(1, 'name at least one volume'),
});

/** What of its rules facts do not meet, in words. */
const against = (view: EstateView, rules: readonly RequestRule[], facts: Facts): string[] =>
  judged(view, rules, facts).flatMap((one) => (one.outcome === 'pass' ? [] : [outcomeWords(one)]));

/** What speaks against pools for a class, null for one that fits; headroom is worked out once for all of them. */
export function againstClass(view: EstateView, own: ServiceClass): (pool: Pool) => string | null {
  const headroom = asksHeadroom(own.rules) ? headroomsOf(view) : undefined;
  return (pool) => {
    const [first] = against(view, own.rules, poolFacts(view, pool, headroom));
    return first ? `does not fit ${own.name}: ${first}` : null;
  };
}

export const classApply: OperationType<z.output<typeof applySchema>> = {
  kind: 'class.apply',
  verb: 'Put volumes under a service class',
  summary: 'What its rules ask is watched from then on. Volumes that do not meet it are refused with what is missing.',
  schema: applySchema,
  form: { columns: [3, 4], fields: { array: the.array, class: pick('Service class'), volumes: the.volumes } },
  title: (p) => `Put ${someOf(p.volumes)} under service class ${p.class}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const row = asks.find('serviceClass', p.class, 'class');
    if (!array || !row) return refused(asks.refusals);
    const volumes = askVolumes(asks, array, p.volumes);
    const headroom = asksHeadroom(row.rules) ? headroomsOf(view) : undefined;
    for (const volume of volumes) {
      const pool = view.table('pool').get(volume.pool)!;
      const lacks = against(view, row.rules, volumeFacts(view, volume, poolFacts(view, pool, headroom)));
      if (lacks.length > 0)
        asks.refuse({
          code: 'rule-no-longer-met',
          field: 'volumes',
          subject: subjectOf('volume', volume),
          message: `${volume.name} does not meet ${row.name}: ${lacks.join('; ')}.`,
          mend: `${fitNote(view, row.rules)} Choose another class, or say why it differs where the fact is declared.`,
        });
    }
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: record,
      title: `${someOf(volumes.map(({ name }) => name))} under service class ${row.name}: ${classWords(row)}`,
      takes: SECOND,
      effects: volumes.flatMap((volume) => {
        const [use] = view.table('classUse').by('volume', volume.id);
        if (use?.serviceClass === row.id) return [];
        const fields = { serviceClass: row.id, since: context.now };
        return use
          ? [changed('classUse', use, fields)]
          : [created('classUse', { id: context.newId('classUse'), volume: volume.id, ...fields })];
      }),
      notes: volumes.flatMap((volume) => {
        const had = classOf(view, volume.id);
        return had && had.id !== row.id ? [`${volume.name} leaves ${had.name}.`] : [];
      }),
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const row = lookUp(view, 'serviceClass', draftText(draft, 'class'));
    return {
      fields: {
        array: { choices: arrayChoices(view) },
        class: { choices: classChoices(view), says: row ? fitNote(view, row.rules) : '' },
        volumes: { choices: volumeChoices(view, array, misfitOf(view, row)) },
      },
    };
  },
};

/** What keeps a volume from a class, of those that need no model of the load. */
function misfitOf(view: EstateView, row: ServiceClass | undefined): (volume: Volume) => string | undefined {
  if (!row || asksHeadroom(row.rules)) return () => undefined;
  const pools = new Map<string, Facts>();
  return (volume) => {
    let facts = pools.get(volume.pool);
    if (!facts) pools.set(volume.pool, (facts = poolFacts(view, view.table('pool').get(volume.pool)!)));
    return against(view, row.rules, volumeFacts(view, volume, facts))[0];
  };
}

export const classLift: OperationType<ReleaseParams> = releasing('classUse', {
  kind: 'class.lift',
  verb: 'Take volumes out of their service class',
  summary: 'Nothing is asked of where they lie any more.',
  of: 'their service class',
  device: () => record,
  done: (volumes) => `${someOf(volumes.map(({ name }) => name))} under no service class`,
  free: 'is under no class',
});
