import { z } from 'zod';
import { changed, created, deleted } from '../estate/effects';
import { rowOf } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { byName, draftText } from '../operation/draft';
import { folded, pick, such } from '../operation/form';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Choice, type OperationType } from '../operation/operation';
import { record } from '../operation/record';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';
import {
  nothingAsked,
  readRequest,
  requestForm,
  requestNote,
  requestParams,
  requestSays,
  requestWords,
} from './request-fields';

const createSchema = z.object({ name: z.string(), ...requestParams, size: z.string() });

export const requestCreate: OperationType<z.output<typeof createSchema>> = {
  kind: 'request.create',
  verb: 'Keep a request',
  summary: 'What somebody asks a place for, under a name: asked again at any time, and carved from.',
  schema: createSchema,
  form: { columns: [2], fields: { name: such('Name', 'next quarter'), ...requestForm } },
  title: (p) => `Keep request ${p.name}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const name = asks.freeName('keptRequest', p.name);
    const figures = readRequest(asks, nothingAsked, p, { kind: 'keptRequest', name: p.name });
    if (asks.refusals.length > 0 || name === undefined) return refused(asks.refusals);
    return planned({
      device: record,
      title: `Request ${name}: ${requestWords(view, figures)}`,
      takes: SECOND,
      effects: [created('keptRequest', rowOf('keptRequest', { id: context.newId('keptRequest'), name, ...figures }))],
      notes: [requestNote(view, figures)],
    });
  },
  foretell: (view, draft) => ({
    fields: { name: { says: 'By which it is asked again.' }, ...requestSays(view, draft) },
  }),
};

const configureSchema = z.object({ request: z.string(), newName: z.string().optional(), ...requestParams });

export const requestConfigure: OperationType<z.output<typeof configureSchema>> = {
  kind: 'request.configure',
  verb: 'Change a request',
  summary: 'What is asked for under a name. Rules named replace those before; what is not named stays.',
  schema: configureSchema,
  form: {
    columns: [2],
    fields: {
      request: pick('Request'),
      ...requestForm,
      rules: { label: 'Rules', control: 'lines', placeholder: 'as they are' },
      newName: folded('New name'),
    },
  },
  title: (p) => `Change request ${p.request}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const row = asks.find('keptRequest', p.request, 'request');
    if (!row) return refused(asks.refusals);
    const name = p.newName ? asks.freeName('keptRequest', p.newName, undefined, 'newName', row) : row.name;
    const figures = readRequest(asks, row, p, subjectOf('keptRequest', row));
    if (asks.refusals.length > 0 || name === undefined) return refused(asks.refusals);
    return planned({
      device: record,
      title: `Request ${row.name}${name === row.name ? '' : ` is called ${name}`}: ${requestWords(view, figures)}`,
      takes: SECOND,
      effects: [changed('keptRequest', row, { ...figures, name })],
      notes: [requestNote(view, figures)],
    });
  },
  foretell(view, draft) {
    const row = lookUp(view, 'keptRequest', draftText(draft, 'request'));
    return {
      fields: {
        ...requestSays(view, draft, row),
        request: { choices: requestChoices(view), says: row ? `Now ${requestWords(view, row)}.` : '' },
        newName: { says: 'Left empty, the name stays.' },
      },
    };
  },
};

/** Requests that are kept, with what they ask. */
export const requestChoices = (view: EstateView): Choice[] =>
  [...view.table('keptRequest').values()]
    .sort(byName)
    .map((row) => ({ value: row.name, label: `${row.name}: ${requestWords(view, row)}` }));

const deleteSchema = z.object({ request: z.string() });

export const requestDelete: OperationType<z.output<typeof deleteSchema>> = {
  kind: 'request.delete',
  verb: 'Drop a request',
  summary: 'It is no longer kept. What was carved from it stays.',
  schema: deleteSchema,
  form: { columns: [2], fields: { request: pick('Request') } },
  title: (p) => `Drop request ${p.request}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const row = asks.find('keptRequest', p.request, 'request');
    if (!row) return refused(asks.refusals);
    return planned({
      device: record,
      title: `Drop request ${row.name}`,
      takes: SECOND,
      effects: [deleted('keptRequest', row)],
    });
  },
  foretell: (view) => ({ fields: { request: { choices: requestChoices(view) } } }),
};
