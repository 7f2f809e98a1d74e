import { z } from 'zod';
import { changed, created, deleted, type Effect } from '../estate/effects';
import { rowOf, type ArrayRow, type Volume } from '../estate/entities';
import { type EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import { arrayChoices, draftArray, draftList, draftText } from '../operation/draft';
import { folded, pick, several, the } from '../operation/form';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Draft, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { someOf } from '../units/counted';
import { SECOND } from '../units/duration';
import { volumeChoices } from '../volume/ask';
import { limitForetold, limitForm, limitParams, limitWords, noFigures, readLimit } from './limit-fields';
import { limitedVolumes } from './limits';
import {
  askFloors,
  askUses,
  draftLimit,
  limitFields,
  notesOn,
  onLimit,
  onWhom,
  onWhomForetold,
  whomWords,
} from './limit-asks';

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
      consumer: folded(pick('Or a consumer')),
    },
  },
  title: (p) => `Set limit ${p.name} on ${whomWords(p, 'nothing yet')}`,
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
        ...onWhomForetold(view),
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
