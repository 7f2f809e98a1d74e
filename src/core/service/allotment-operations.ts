import { z } from 'zod';
import { changed, created, deleted } from '../estate/effects';
import { rowOf, type Allotment, type ArrayRow, type Pool, type Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { nameSeries } from '../naming/names';
import { arrayChoices, byName, draftArray, draftText } from '../operation/draft';
import { folded, pick, several, such, the } from '../operation/form';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { planned, refused, type Choice, type Draft, type OperationType } from '../operation/operation';
import { record } from '../operation/record';
import { subjectOf, type Refusal, type Subject } from '../operation/refusal';
import { allotmentOf, allotmentRefusal, poolName, takenOf } from '../pool/allotments';
import { realPools } from '../pool/direct';
import { someOf } from '../units/counted';
import { formatBytes, parseBytes, type Bytes } from '../units/bytes';
import { SECOND } from '../units/duration';
import { askVolume } from '../volume/ask';
import { volumeCreate } from '../volume/create';
import { judged, poolFacts } from './facts';

const allotmentParams = {
  contact: z.string().max(200).optional().describe('Who may give from it'),
  size: z.string().optional().describe('Provisioned in all, with its unit'),
  volumes: z
    .union([z.literal(''), z.coerce.number().int().min(1).max(100_000)])
    .optional()
    .describe('Most volumes; empty for any number'),
  pools: z.array(z.string()).optional().describe('At most of single pools, one a line: `lintel-1 quay 3 TiB`'),
  classes: z.array(z.string()).optional().describe('It takes only from pools that fit one of these classes'),
  notes: z.string().max(1000).optional(),
};
const allotmentForm = {
  contact: such('Who may give', 'R. Visser'),
  size: such('Set aside', '6 TiB'),
  volumes: 'Most volumes',
  classes: several('Of classes'),
  pools: { label: 'At most of pools', control: 'lines', placeholder: 'lintel-1 quay 3 TiB' },
  notes: folded('Notes'),
} as const;

type Figures = Omit<Allotment, 'id' | 'name'>;
const nothing: Figures = { contact: '', bytes: 0, volumes: null, pools: [], poolBytes: [], classes: [], notes: '' };

function readFigures(
  view: EstateView,
  asks: Inquiry,
  before: Figures,
  p: z.output<z.ZodObject<typeof allotmentParams>>,
  subject: Subject,
): Figures {
  const bytes = p.size === undefined ? before.bytes : (asks.value(parseBytes(p.size), 'size', subject) ?? 0);
  if (bytes <= 0 && asks.refusals.length === 0)
    asks.refuse({
      code: 'allotment-empty',
      field: 'size',
      subject,
      message: 'Nothing would be set aside.',
      mend: 'Say how much, such as 6 TiB.',
    });
  const after: Figures = {
    contact: p.contact ?? before.contact,
    bytes,
    volumes: p.volumes === undefined ? before.volumes : p.volumes === '' ? null : p.volumes,
    pools: before.pools,
    poolBytes: before.poolBytes,
    classes:
      p.classes === undefined
        ? before.classes
        : [...new Set(p.classes)].flatMap((ref) => asks.find('serviceClass', ref, 'classes')?.id ?? []),
    notes: p.notes ?? before.notes,
  };
  if (p.pools === undefined) return after;
  const rows = p.pools.map((line) => readPool(view, asks, line, subject)).filter((row) => row !== null);
  return { ...after, pools: rows.map(([pool]) => pool), poolBytes: rows.map(([, most]) => most) };
}

function readPool(view: EstateView, asks: Inquiry, line: string, subject: Subject): [string, Bytes] | null {
  if (line.trim() === '') return null;
  const match = /^(\S+)\s+(\S+)\s+(.+)$/.exec(line.trim());
  const array = match ? lookUp(view, 'array', match[1]!) : undefined;
  const pool = array && lookUp(view, 'pool', match![2]!, array.id);
  const most = match ? parseBytes(match[3]!) : null;
  if (pool && most?.ok) return [pool.id, most.value];
  asks.refuse({
    code: 'allotment-pool-unread',
    field: 'pools',
    subject,
    message: `'${line.trim()}' names no pool with a size.`,
    mend: 'Write the array, the pool and the size, such as lintel-1 quay 3 TiB.',
  });
  return null;
}

const figuresWords = (view: EstateView, one: Figures): string =>
  [
    `${formatBytes(one.bytes)} set aside`,
    ...(one.volumes === null ? [] : [`${one.volumes} volumes`]),
    ...one.pools.map((pool, k) => `at most ${formatBytes(one.poolBytes[k] ?? 0)} of ${poolName(view, pool)}`),
    ...(one.classes.length > 0
      ? [`of ${someOf(one.classes.map((id) => view.table('serviceClass').get(id)?.name ?? id))}`]
      : []),
  ].join(', ');

const classChoices = (view: EstateView): Choice[] =>
  [...view.table('serviceClass').values()].sort(byName).map(({ name }) => ({ value: name, label: name }));

const saysOf = (view: EstateView) => ({
  contact: { says: 'Whom to ask, and who may give from it.' },
  size: { says: 'Provisioned in all pools together.' },
  volumes: { says: 'Empty for any number.' },
  classes: { choices: classChoices(view), says: 'It takes only from pools that fit one of them; none for any pool.' },
  pools: { says: 'One a line: array, pool, most. Of others as much as there is left.' },
  notes: { says: 'For those who come after.' },
});

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
        allotment: { choices: allotmentChoices(view), says: row ? takenWords(view, row) : '' },
        size: { says: row ? `${formatBytes(row.bytes)} now.` : says.size.says },
        newName: { says: 'Left empty, the name stays.' },
      },
    };
  },
};

const draftAllotment = (view: EstateView, draft: Draft): Allotment | undefined =>
  lookUp(view, 'allotment', draftText(draft, 'allotment'));

/** What is taken of an allotment, in words. */
export const takenWords = (view: EstateView, row: Allotment): string => {
  const { bytes, volumes } = takenOf(view, row.id);
  return `${formatBytes(bytes, 'used')} of ${formatBytes(row.bytes)} taken by ${volumes}${row.volumes === null ? '' : ` of ${row.volumes}`} volumes.`;
};

const allotmentChoices = (view: EstateView): Choice[] =>
  [...view.table('allotment').values()].sort(byName).map((row) => ({ value: row.name, label: row.name }));

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
    return { fields: { allotment: { choices: allotmentChoices(view), says: row ? takenWords(view, row) : '' } } };
  },
};

/** Why a pool fits no class of an allotment, or null. */
function classRefusal(view: EstateView, row: Allotment, pool: Pool, field: string): Refusal | null {
  if (row.classes.length === 0) return null;
  const facts = poolFacts(view, pool);
  const classes = row.classes.flatMap((id) => view.table('serviceClass').get(id) ?? []);
  if (classes.some(({ rules }) => judged(view, rules, facts).every(({ outcome }) => outcome === 'pass'))) return null;
  return {
    code: 'allotment-class',
    field,
    subject: subjectOf('allotment', row),
    message: `${poolName(view, pool.id)} fits none of the classes of ${row.name}: ${someOf(classes.map(({ name }) => name))}.`,
    mend: 'Choose a pool that fits, or have the allotment widened.',
  };
}

const carveSchema = z.object({
  allotment: z.string().describe('From whose allotment'),
  array: z.string(),
  pool: z.string(),
  name: z.string().describe('One name, or the stem of a series; # marks where the number goes'),
  size: z.union([z.string(), z.number()]).transform(String).describe('With its unit, such as 500 GiB'),
  count: z.coerce.number().int().min(1, 'carve at least 1').max(256, 'carve at most 256 at once').default(1),
  workload: z.string().optional(),
});

export const allotmentCarve: OperationType<z.output<typeof carveSchema>> = {
  kind: 'allotment.carve',
  verb: 'Carve within an allotment',
  summary:
    'Thin volumes for a consumer, out of what is set aside for it; beyond that they are refused with the figures.',
  schema: carveSchema,
  form: {
    columns: [2, 3, 4],
    fields: {
      allotment: pick('For'),
      array: the.array,
      pool: the.pool,
      name: 'Name',
      count: 'How many',
      size: such('Size of each', '500 GiB'),
      workload: pick('Workload'),
    },
  },
  title: (p) => `Carve ${p.count === 1 ? p.name : `${p.count} volumes ${p.name}`} of ${p.size} for ${p.allotment}`,
  units: (p) => nameSeries(p.name, p.count, 1).map((name) => ({ ...p, name, count: 1 })),
  check(view, p) {
    const row = lookUp(view, 'allotment', p.allotment);
    const array = lookUp(view, 'array', p.array);
    const pool = array && lookUp(view, 'pool', p.pool, array.id);
    const size = parseBytes(p.size);
    if (!row || !pool || !size.ok) return [];
    const refusal =
      classRefusal(view, row, pool, 'pool') ??
      allotmentRefusal(
        view,
        row,
        new Array<{ pool: string; bytes: Bytes }>(p.count).fill({ pool: pool.id, bytes: size.value }),
        'size',
      );
    return refusal ? [refusal] : [];
  },
  plan(view, p, context) {
    const asks = inquire(view);
    const row = asks.find('allotment', p.allotment, 'allotment');
    const made = volumeCreate.plan(
      view,
      {
        ...volumeCreate.schema.parse({ array: p.array, pool: p.pool, name: p.name, size: p.size }),
        ...(p.workload ? { workload: p.workload } : {}),
      },
      context,
    );
    if (!row || !made.ok) return refused([...asks.refusals, ...(made.ok ? [] : made.refusals)]);
    const volume = made.step.effects.find(({ kind, before }) => kind === 'volume' && before === null)!.after as Volume;
    const pool = view.table('pool').get(volume.pool)!;
    const refusal =
      classRefusal(view, row, pool, 'pool') ??
      allotmentRefusal(view, row, [{ pool: pool.id, bytes: volume.size }], 'size');
    if (refusal) return refused([refusal]);
    return planned({
      ...made.step,
      title: `${made.step.title}, for ${row.name}`,
      effects: [
        ...made.step.effects,
        created('allotmentUse', { id: context.newId('allotmentUse'), allotment: row.id, volume: volume.id }),
      ],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const row = draftAllotment(view, draft);
    return {
      fields: {
        allotment: { choices: allotmentChoices(view), says: row ? takenWords(view, row) : '' },
        array: { choices: arrayChoices(view) },
        pool: { choices: poolChoices(view, array, row) },
        name: { says: 'One name, or the stem of a series.' },
        size: { says: 'Counted on what is provisioned, thin as it is.' },
        count: { says: 'Each counts as one volume.' },
        workload: {
          choices: [
            { value: '', label: 'None' },
            ...[...view.table('workload').values()].sort(byName).map(({ name }) => ({ value: name, label: name })),
          ],
        },
      },
    };
  },
};

const poolChoices = (view: EstateView, array: ArrayRow | undefined, row: Allotment | undefined): Choice[] =>
  array
    ? realPools(view, array.id).map((pool) => ({
        value: pool.name,
        label: pool.name,
        ...(row && classRefusal(view, row, pool, 'pool') ? { unfit: 'fits none of its classes' } : {}),
      }))
    : [];

const takeSchema = z.object({
  allotment: z.string(),
  array: z.string(),
  volumes: z.array(z.string()).min(1, 'name at least one volume'),
});

export const allotmentTake: OperationType<z.output<typeof takeSchema>> = {
  kind: 'allotment.take',
  verb: 'Count volumes in an allotment',
  summary: 'Volumes that there are count as taken by a consumer from then on.',
  schema: takeSchema,
  form: { columns: [3, 4], fields: { allotment: pick('Allotment'), array: the.array, volumes: the.volumes } },
  title: (p) => `Count ${someOf(p.volumes)} in the allotment of ${p.allotment}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const row = asks.find('allotment', p.allotment, 'allotment');
    const array = asks.find('array', p.array, 'array');
    if (!row || !array) return refused(asks.refusals);
    const volumes = [...new Set(p.volumes)].flatMap((ref) => askVolume(asks, array, ref) ?? []);
    for (const volume of volumes) {
      const had = allotmentOf(view, volume.id);
      if (had)
        asks.refuse({
          code: 'allotment-counted',
          field: 'volumes',
          subject: subjectOf('volume', volume),
          message: `${volume.name} counts in the allotment of ${had.name} already.`,
          mend: had.id === row.id ? 'Leave it out.' : 'Take it out of that first.',
        });
      const wrong = classRefusal(view, row, view.table('pool').get(volume.pool)!, 'volumes');
      if (wrong) asks.refuse(wrong);
    }
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const beyond = allotmentRefusal(
      view,
      row,
      volumes.map(({ pool, size }) => ({ pool, bytes: size })),
      'volumes',
    );
    if (beyond) return refused([beyond]);
    return planned({
      device: record,
      title: `${someOf(volumes.map(({ name }) => name))} ${volumes.length === 1 ? 'counts' : 'count'} in the allotment of ${row.name}`,
      takes: SECOND,
      effects: volumes.map((volume) =>
        created('allotmentUse', { id: context.newId('allotmentUse'), allotment: row.id, volume: volume.id }),
      ),
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const row = draftAllotment(view, draft);
    return {
      fields: {
        allotment: { choices: allotmentChoices(view), says: row ? takenWords(view, row) : '' },
        array: { choices: arrayChoices(view) },
        volumes: {
          choices: array
            ? [...view.table('volume').by('array', array.id)]
                .filter(({ deletedAt }) => deletedAt === null)
                .sort(byName)
                .map(({ id, name }) => {
                  const had = allotmentOf(view, id);
                  return { value: name, label: name, ...(had ? { unfit: `counts for ${had.name}` } : {}) };
                })
            : [],
        },
      },
    };
  },
};

const releaseSchema = z.object({ array: z.string(), volumes: z.array(z.string()).min(1, 'name at least one volume') });

export const allotmentRelease: OperationType<z.output<typeof releaseSchema>> = {
  kind: 'allotment.release',
  verb: 'Take volumes out of their allotment',
  summary: 'They stay as they are and count for nobody.',
  schema: releaseSchema,
  form: { columns: [3, 4], fields: { array: the.array, volumes: the.volumes } },
  title: (p) => `Take ${someOf(p.volumes)} out of their allotment`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    if (!array) return refused(asks.refusals);
    const volumes = [...new Set(p.volumes)].flatMap((ref) => askVolume(asks, array, ref) ?? []);
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: record,
      title: `${someOf(volumes.map(({ name }) => name))} in no allotment`,
      takes: SECOND,
      effects: volumes.flatMap(({ id }) =>
        view
          .table('allotmentUse')
          .by('volume', id)
          .map((use) => deleted('allotmentUse', use)),
      ),
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    return {
      fields: {
        array: { choices: arrayChoices(view) },
        volumes: {
          choices: array
            ? view
                .table('volume')
                .by('array', array.id)
                .filter(({ id }) => allotmentOf(view, id) !== undefined)
                .map(({ name }) => ({ value: name, label: name }))
            : [],
        },
      },
    };
  },
};
