import { z } from 'zod';
import { changed, created, deleted } from '../estate/effects';
import { rowOf } from '../estate/entities';
import { namedChoices } from '../operation/draft';
import { folded, pick, such } from '../operation/form';
import { inquire } from '../operation/inquiry';
import { planned, refused, type OperationType } from '../operation/operation';
import { record } from '../operation/record';
import { subjectOf } from '../operation/refusal';
import { poolName, takenOf } from '../pool/allotments';
import { formatBytes } from '../units/bytes';
import { SECOND } from '../units/duration';
import {
  allotmentForm,
  allotmentParams,
  draftAllotment,
  figuresWords,
  nothing,
  readFigures,
  saysOf,
  takenWords,
} from './allotment-fields';

const createSchema = z.object({ name: z.string(), ...allotmentParams });

export const allotmentCreate: OperationType<z.output<typeof createSchema>> = {
  kind: 'allotment.create',
  verb: 'Set capacity aside',
  summary: 'For one consumer, over several pools and classes, counted on provisioned size.',
  schema: createSchema,
  form: { columns: [2], fields: { name: such('Consumer', 'Ticketing desk'), ...allotmentForm } },
  title: (p) => `Set capacity aside for ${p.name}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const name = asks.freeName('allotment', p.name);
    const figures = readFigures(view, asks, nothing, p, { kind: 'allotment', name: p.name });
    if (asks.refusals.length > 0 || name === undefined) return refused(asks.refusals);
    return planned({
      device: record,
      title: `${name}: ${figuresWords(view, figures)}`,
      takes: SECOND,
      effects: [created('allotment', rowOf('allotment', { id: context.newId('allotment'), name, ...figures }))],
    });
  },
  foretell: (view) => ({ fields: { name: { says: 'A team or an application.' }, ...saysOf(view) } }),
};

const configureSchema = z.object({ allotment: z.string(), newName: z.string().optional(), ...allotmentParams });

export const allotmentConfigure: OperationType<z.output<typeof configureSchema>> = {
  kind: 'allotment.configure',
  verb: 'Change an allotment',
  summary: 'What is set aside for a consumer; never below what it has taken. What is not named stays.',
  schema: configureSchema,
  form: {
    columns: [2],
    fields: { allotment: pick('Allotment'), ...allotmentForm, newName: folded('New name') },
  },
  title: (p) => `Change the allotment of ${p.allotment}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const row = asks.find('allotment', p.allotment, 'allotment');
    if (!row) return refused(asks.refusals);
    const subject = subjectOf('allotment', row);
    const name = p.newName ? asks.freeName('allotment', p.newName, undefined, 'newName', row) : row.name;
    const figures = readFigures(view, asks, row, p, subject);
    if (asks.refusals.length > 0 || name === undefined) return refused(asks.refusals);
    const taken = takenOf(view, row.id);
    const below = (field: string, message: string) =>
      asks.refuse({
        code: 'allotment-below-use',
        field,
        subject,
        message,
        mend: 'Set aside as much as is taken, or have volumes given back first.',
      });
    if (figures.bytes < taken.bytes)
      below(
        'size',
        `${row.name} has taken ${formatBytes(taken.bytes, 'used')}; ${formatBytes(figures.bytes)} are less.`,
      );
    if (figures.volumes !== null && figures.volumes < taken.volumes)
      below('volumes', `${row.name} has ${taken.volumes} volumes; ${figures.volumes} are fewer.`);
    figures.pools.forEach((pool, k) => {
      const used = taken.pools[pool] ?? 0;
      if (figures.poolBytes[k]! < used)
        below(
          'pools',
          `${row.name} has taken ${formatBytes(used, 'used')} of ${poolName(view, pool)}; ${formatBytes(figures.poolBytes[k]!)} are less.`,
        );
    });
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: record,
      title: `${row.name}${name === row.name ? '' : ` is called ${name}`}: ${figuresWords(view, figures)}`,
      takes: SECOND,
      effects: [changed('allotment', row, { ...figures, name })],
    });
  },
  foretell(view, draft) {
    const row = draftAllotment(view, draft);
    const says = saysOf(view);
    return {
      fields: {
        ...says,
        allotment: { choices: namedChoices(view, 'allotment'), says: row ? takenWords(view, row) : '' },
        size: { says: row ? `${formatBytes(row.bytes)} now.` : says.size.says },
        newName: { says: 'Left empty, the name stays.' },
      },
    };
  },
};

const deleteSchema = z.object({ allotment: z.string() });

export const allotmentDelete: OperationType<z.output<typeof deleteSchema>> = {
  kind: 'allotment.delete',
  verb: 'Dissolve an allotment',
  summary: 'Nothing is set aside for the consumer any more. Refused while it has taken volumes.',
  schema: deleteSchema,
  form: { columns: [2], fields: { allotment: pick('Allotment') } },
  title: (p) => `Dissolve the allotment of ${p.allotment}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const row = asks.find('allotment', p.allotment, 'allotment');
    if (!row) return refused(asks.refusals);
    const { volumes } = takenOf(view, row.id);
    if (volumes > 0)
      asks.refuse({
        code: 'allotment-taken',
        field: 'allotment',
        subject: subjectOf('allotment', row),
        message: `${row.name} has taken ${volumes} ${volumes === 1 ? 'volume' : 'volumes'}.`,
        mend: 'Take them out of the allotment, or retire them first.',
      });
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: record,
      title: `Dissolve the allotment of ${row.name}`,
      takes: SECOND,
      effects: [
        ...view
          .table('limitUse')
          .by('allotment', row.id)
          .map((use) => deleted('limitUse', use)),
        deleted('allotment', row),
      ],
    });
  },
  foretell: (view, draft) => {
    const row = draftAllotment(view, draft);
    return {
      fields: { allotment: { choices: namedChoices(view, 'allotment'), says: row ? takenWords(view, row) : '' } },
    };
  },
};
