import { z } from 'zod';
import { changed, created, deleted, type Effect } from '../estate/effects';
import { rowOf, type ArrayRow, type LimitUse, type LoadLimit, type Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import { arrayChoices, byName, draftArray, draftList, draftText, hostChoices } from '../operation/draft';
import { folded, pick, several, the } from '../operation/form';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import {
  planned,
  refused,
  type Choice,
  type Draft,
  type FieldForetold,
  type OperationType,
  type PlanContext,
} from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { someOf } from '../units/counted';
import { SECOND } from '../units/duration';
import { formatCount } from '../units/figures';
import { askVolume } from '../volume/ask';
import { floorsLack } from './floors';
import { heldBack } from './held-back';
import { limitForetold, limitForm, limitParams, limitWords, noFigures, readLimit } from './limit-fields';
import { limitedTo, limitedVolumes } from './limits';

/** On whom a limit is put. */
const onWhom = {
  volumes: z.array(z.string()).default([]).describe('Volumes it is put on'),
  workload: z.string().optional().describe('Or all volumes of a workload'),
  host: z.string().optional().describe('Or all that a host works with'),
};

const limitChoices = (view: EstateView, array: ArrayRow | undefined): Choice[] =>
  [...view.table('loadLimit').values()]
    .filter((row) => !array || row.array === array.id)
    .sort(byName)
    .map((row) => ({ value: row.name, label: `${row.name}, ${limitWords(row)}` }));

const volumeChoices = (view: EstateView, array: ArrayRow | undefined): Choice[] =>
  array
    ? [...view.table('volume').by('array', array.id)]
        .filter((volume) => volume.deletedAt === null)
        .sort(byName)
        .map(({ name }) => ({ value: name, label: name }))
    : [];

const workloadChoices = (view: EstateView): Choice[] => [
  { value: '', label: 'None' },
  ...[...view.table('workload').values()].sort(byName).map(({ name }) => ({ value: name, label: name })),
];

type OnWhom = { volumes: string[]; workload?: string | undefined; host?: string | undefined };

/** New uses of a limit, those that are there left out. */
function askUses(
  view: EstateView,
  asks: Inquiry,
  array: ArrayRow,
  limit: string,
  p: OnWhom,
  context: PlanContext,
): LimitUse[] {
  const standing = view.table('limitUse').by('loadLimit', limit);
  const uses: LimitUse[] = [];
  const put = (field: 'volume' | 'workload' | 'host', row: { id: string; name: string } | undefined) => {
    if (!row) return;
    if (standing.some((use) => use[field] === row.id)) {
      asks.refuse({
        code: 'limit-there-already',
        field: field === 'volume' ? 'volumes' : field,
        subject: subjectOf(field, row),
        message: `${row.name} is under this limit already.`,
        mend: 'Leave it out.',
      });
      return;
    }
    uses.push(rowOf('limitUse', { id: context.newId('limitUse'), loadLimit: limit, [field]: row.id }));
  };
  for (const ref of new Set(p.volumes)) put('volume', askVolume(asks, array, ref));
  if (p.workload) put('workload', asks.find('workload', p.workload, 'workload'));
  if (p.host) put('host', asks.find('host', p.host, 'host'));
  return uses;
}

/** Refuses what would promise more than can be held with one thing lost. */
function askFloors(
  view: EstateView,
  asks: Inquiry,
  array: ArrayRow,
  limit: LoadLimit,
  effects: readonly Effect[],
): void {
  const after = new Overlay(view);
  after.apply(effects);
  const lack = floorsLack(after, array.id);
  const before = lack && floorsLack(view, array.id);
  // What was too much before is not held against this change.
  if (!lack || (before && before.share >= lack.share)) return;
  asks.refuse({
    code: 'qos-floors-too-many',
    field: 'floor',
    subject: { kind: 'loadLimit', id: limit.id, name: limit.name },
    message: `With ${lack.state === 'as it stands' ? 'things as they stand' : lack.state}, all that is promised needs ${Math.ceil(lack.share * 100)} % of what ${lack.resource} may promise.`,
    mend: `Promise ${formatCount(Math.floor((limit.floor ?? 0) / lack.share))} I/O/s or less, or move a volume elsewhere.`,
  });
}

/** What is worth saying of a limit on its volumes. */
function notesOn(view: EstateView, limit: LoadLimit, volumes: readonly Volume[]): string[] {
  return volumes.flatMap((volume) => {
    if (!volume.activity) return [];
    const to = limitedTo(limit, { size: volume.size, ioBytes: volume.activity.ioBytes });
    if (to === null || limit.shared) return [];
    const held = heldBack(volume.activity, to);
    if (to > 10 * held.peak) return [`${volume.name} never asks for a tenth of it: the limit has no effect there.`];
    return held.hoursADay > 4.8 ? [`${volume.name} will be held back ${held.hoursADay.toFixed(1)} h a day.`] : [];
  });
}

const onLimit = (view: EstateView, limit: LoadLimit, effects: readonly Effect[]): Volume[] => {
  const after = new Overlay(view);
  after.apply(effects);
  return [...limitedVolumes(after, limit)].map((id) => view.table('volume').get(id)!);
};

const createSchema = z.object({ array: z.string(), name: z.string(), ...onWhom, ...limitParams });

export const limitCreate: OperationType<z.output<typeof createSchema>> = {
  kind: 'limit.create',
  verb: 'Set a limit',
  summary: 'How much hosts may ask, how much they are promised, and how volumes share where not all can be served.',
  schema: createSchema,
  form: {
    columns: [3, 4, 7],
    fields: {
      array: the.array,
      name: 'Name',
      volumes: several('On volumes'),
      ...limitForm,
      workload: folded(pick('Or a workload')),
      host: folded(pick('Or a host')),
    },
  },
  title: (p) =>
    `Set limit ${p.name} on ${p.volumes.length > 0 ? someOf(p.volumes) : (p.workload ?? p.host ?? 'nothing yet')}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const name = array && asks.freeName('loadLimit', p.name, array);
    if (!array || name === undefined) return refused(asks.refusals);
    const id = context.newId('loadLimit');
    const figures = readLimit(asks, noFigures, p, { kind: 'loadLimit', name });
    const uses = askUses(view, asks, array, id, p, context);
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const limit = rowOf('loadLimit', { id, name, array: array.id, ...figures });
    const effects: Effect[] = [created('loadLimit', limit), ...uses.map((use) => created('limitUse', use))];
    if (limit.floor !== null) askFloors(view, asks, array, limit, effects);
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const volumes = onLimit(view, limit, effects);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Limit ${name} on ${volumes.length > 0 ? someOf(volumes.map((one) => one.name)) : 'nothing yet'}: ${limitWords(limit)}`,
      takes: SECOND,
      effects,
      notes: notesOn(view, limit, volumes),
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    return {
      fields: {
        array: { choices: arrayChoices(view) },
        name: { says: 'As people call it, such as deck-quiet.' },
        volumes: { choices: volumeChoices(view, array), says: 'Or none yet: it can be put on volumes later.' },
        workload: { choices: workloadChoices(view), says: 'Volumes that join it later are under the limit too.' },
        host: {
          choices: [{ value: '', label: 'None' }, ...hostChoices(view)],
          says: 'Whatever it works with on this array.',
        },
        ...limitForetold(view, draft, noFigures, draftVolumes(view, array, draft)),
      },
    };
  },
};

function draftVolumes(view: EstateView, array: ArrayRow | undefined, draft: Draft): Volume[] {
  if (!array) return [];
  const named = draftList(draft, 'volumes').flatMap((ref) => lookUp(view, 'volume', ref, array.id) ?? []);
  const workload = lookUp(view, 'workload', draftText(draft, 'workload'));
  const of = workload
    ? view
        .table('volume')
        .by('workload', workload.id)
        .filter((one) => one.array === array.id)
    : [];
  return [...named, ...of];
}

const configureSchema = z.object({
  array: z.string(),
  limit: z.string(),
  newName: z.string().optional(),
  ...limitParams,
});

const draftLimit = (view: EstateView, draft: Draft): LoadLimit | undefined => {
  const array = draftArray(view, draft);
  return array && lookUp(view, 'loadLimit', draftText(draft, 'limit'), array.id);
};

const limitFields = (view: EstateView, draft: Draft): Record<string, FieldForetold> => {
  const array = draftArray(view, draft);
  const limit = draftLimit(view, draft);
  const volumes = limit ? [...limitedVolumes(view, limit)].map((id) => view.table('volume').get(id)!.name) : [];
  return {
    array: { choices: arrayChoices(view) },
    limit: {
      choices: limitChoices(view, array),
      says: limit ? `On ${volumes.length > 0 ? someOf(volumes) : 'no volume'}.` : '',
    },
  };
};

export const limitConfigure: OperationType<z.output<typeof configureSchema>> = {
  kind: 'limit.configure',
  verb: 'Change a limit',
  summary: 'Its figures, for all volumes it is put on. What is not named stays; an empty figure is taken away.',
  schema: configureSchema,
  form: {
    columns: [3, 4, 7],
    fields: { array: the.array, limit: pick('Limit'), ...limitForm, newName: folded('New name') },
  },
  title: (p) => `Change limit ${p.limit} on ${p.array}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const limit = array && asks.find('loadLimit', p.limit, 'limit', array);
    if (!array || !limit) return refused(asks.refusals);
    const name = p.newName ? asks.freeName('loadLimit', p.newName, array, 'newName', limit) : limit.name;
    const figures = readLimit(asks, limit, p, subjectOf('loadLimit', limit));
    if (asks.refusals.length > 0 || name === undefined) return refused(asks.refusals);
    const after = { ...limit, ...figures, name };
    const effects = [changed('loadLimit', limit, after)];
    if (after.floor !== null) askFloors(view, asks, array, after, effects);
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Limit ${limit.name}${name === limit.name ? '' : ` is called ${name}`}: ${limitWords(after)}`,
      takes: SECOND,
      effects,
      notes: notesOn(view, after, onLimit(view, after, effects)),
    });
  },
  foretell(view, draft) {
    const limit = draftLimit(view, draft);
    const volumes = limit ? [...limitedVolumes(view, limit)].map((id) => view.table('volume').get(id)!) : [];
    return {
      fields: {
        ...limitFields(view, draft),
        newName: { says: 'Left empty, the name stays.' },
        ...limitForetold(view, draft, limit ?? noFigures, volumes),
      },
    };
  },
};

const applySchema = z.object({ array: z.string(), limit: z.string(), ...onWhom });

export const limitApply: OperationType<z.output<typeof applySchema>> = {
  kind: 'limit.apply',
  verb: 'Put a limit on volumes',
  summary: 'Puts a limit that there is on more volumes, on a workload or on a host. The tightest of several applies.',
  schema: applySchema,
  form: {
    columns: [3, 4, 7],
    fields: {
      array: the.array,
      limit: pick('Limit'),
      volumes: several('On volumes'),
      workload: pick('Or a workload'),
      host: folded(pick('Or a host')),
    },
  },
  title: (p) =>
    `Put limit ${p.limit} on ${p.volumes.length > 0 ? someOf(p.volumes) : (p.workload ?? p.host ?? 'nothing')}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const limit = array && asks.find('loadLimit', p.limit, 'limit', array);
    if (!array || !limit) return refused(asks.refusals);
    const uses = askUses(view, asks, array, limit.id, p, context);
    if (uses.length === 0 && asks.refusals.length === 0)
      asks.refuse({
        code: 'limit-on-nothing',
        field: 'volumes',
        subject: subjectOf('loadLimit', limit),
        message: 'No volume, workload or host is named.',
        mend: 'Name at least one.',
      });
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const effects = uses.map((use) => created('limitUse', use));
    if (limit.floor !== null) askFloors(view, asks, array, limit, effects);
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const volumes = onLimit(view, limit, effects);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Limit ${limit.name} holds for ${someOf(volumes.map((one) => one.name)) || 'no volume yet'}`,
      takes: SECOND,
      effects,
      notes: notesOn(view, limit, volumes),
    });
  },
  foretell(view, draft) {
    const limit = draftLimit(view, draft);
    const fields = limitFields(view, draft);
    const under = limit ? limitedVolumes(view, limit) : new Set<string>();
    return {
      fields: {
        ...fields,
        volumes: {
          choices: volumeChoices(view, draftArray(view, draft)),
          says: limit ? `${under.size} under it so far.` : '',
        },
        workload: { choices: workloadChoices(view), says: 'Volumes that join it later are under the limit too.' },
        host: {
          choices: [{ value: '', label: 'None' }, ...hostChoices(view)],
          says: 'Whatever it works with on this array.',
        },
      },
    };
  },
};

const liftSchema = applySchema;

export const limitLift: OperationType<z.output<typeof liftSchema>> = {
  kind: 'limit.lift',
  verb: 'Take a limit off',
  summary: 'Takes a limit off volumes, a workload or a host; for others it goes on holding.',
  schema: liftSchema,
  form: {
    columns: [3, 4, 7],
    fields: {
      array: the.array,
      limit: pick('Limit'),
      volumes: several('Off volumes'),
      workload: pick('Or a workload'),
      host: folded(pick('Or a host')),
    },
  },
  title: (p) =>
    `Take limit ${p.limit} off ${p.volumes.length > 0 ? someOf(p.volumes) : (p.workload ?? p.host ?? 'nothing')}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const limit = array && asks.find('loadLimit', p.limit, 'limit', array);
    if (!array || !limit) return refused(asks.refusals);
    const standing = view.table('limitUse').by('loadLimit', limit.id);
    const going: LimitUse[] = [];
    const take = (field: 'volume' | 'workload' | 'host', row: { id: string; name: string } | undefined) => {
      if (!row) return;
      const use = standing.find((one) => one[field] === row.id);
      if (use) {
        if (!going.includes(use)) going.push(use);
        return;
      }
      const covered = field === 'volume' && limitedVolumes(view, limit).has(row.id);
      asks.refuse({
        code: 'limit-not-there',
        field: field === 'volume' ? 'volumes' : field,
        subject: subjectOf(field, row),
        message: covered
          ? `${row.name} is under ${limit.name} by its workload or host, not by itself.`
          : `${limit.name} is not on ${row.name}.`,
        mend: covered ? 'Take it off the workload or the host.' : 'Leave it out.',
      });
    };
    for (const ref of new Set(p.volumes)) take('volume', askVolume(asks, array, ref));
    if (p.workload) take('workload', asks.find('workload', p.workload, 'workload'));
    if (p.host) take('host', asks.find('host', p.host, 'host'));
    if (going.length === 0 && asks.refusals.length === 0)
      asks.refuse({
        code: 'limit-on-nothing',
        field: 'volumes',
        subject: subjectOf('loadLimit', limit),
        message: 'No volume, workload or host is named.',
        mend: 'Name at least one.',
      });
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Take limit ${limit.name} off ${p.volumes.length > 0 ? someOf(p.volumes) : (p.workload ?? p.host ?? '')}`,
      takes: SECOND,
      effects: going.map((use) => deleted('limitUse', use)),
    });
  },
  foretell(view, draft) {
    const limit = draftLimit(view, draft);
    const uses = limit ? view.table('limitUse').by('loadLimit', limit.id) : [];
    const named = <K extends 'volume' | 'workload' | 'host'>(kind: K): Choice[] =>
      uses.flatMap((use) => {
        const id = use[kind];
        const row = id === null ? undefined : view.table(kind).get(id);
        return row ? [{ value: row.name, label: row.name }] : [];
      });
    return {
      fields: {
        ...limitFields(view, draft),
        volumes: { choices: named('volume'), says: 'For others it goes on holding.' },
        workload: { choices: [{ value: '', label: 'None' }, ...named('workload')] },
        host: { choices: [{ value: '', label: 'None' }, ...named('host')] },
      },
    };
  },
};

const deleteSchema = z.object({ array: z.string(), limit: z.string() });

export const limitDelete: OperationType<z.output<typeof deleteSchema>> = {
  kind: 'limit.delete',
  verb: 'Drop a limit',
  summary: 'Drops a limit: whatever was under it is held back, and promised, no more.',
  schema: deleteSchema,
  form: { columns: [3, 4, 7], fields: { array: the.array, limit: pick('Limit') } },
  title: (p) => `Drop limit ${p.limit} of ${p.array}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const limit = array && asks.find('loadLimit', p.limit, 'limit', array);
    if (!limit) return refused(asks.refusals);
    const volumes = [...limitedVolumes(view, limit)].map((id) => view.table('volume').get(id)!.name);
    return planned({
      device: { kind: 'array', id: limit.array, name: arrayOf(view, limit).name },
      title: `Drop limit ${limit.name}${volumes.length > 0 ? `: ${someOf(volumes)} go free` : ''}`,
      takes: SECOND,
      effects: [
        ...view
          .table('limitUse')
          .by('loadLimit', limit.id)
          .map((use) => deleted('limitUse', use)),
        deleted('loadLimit', limit),
      ],
    });
  },
  foretell: (view, draft) => ({ fields: limitFields(view, draft) }),
};
