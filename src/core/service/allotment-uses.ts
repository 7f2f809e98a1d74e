import { z } from 'zod';
import { created } from '../estate/effects';
import type { Allotment, ArrayRow, Pool, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { nameSeries } from '../naming/names';
import { arrayChoices, draftArray, namedChoices, orNone } from '../operation/draft';
import { pick, such, the } from '../operation/form';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Choice, type Foretold, type OperationType } from '../operation/operation';
import { record } from '../operation/record';
import { subjectOf, type Refusal } from '../operation/refusal';
import { allotmentOf, allotmentRefusal, poolName } from '../pool/allotments';
import { realPools } from '../pool/direct';
import { someOf } from '../units/counted';
import { parseBytes, type Bytes } from '../units/bytes';
import { SECOND } from '../units/duration';
import { askVolumes, volumeChoices } from '../volume/ask';
import { volumeCreate } from '../volume/create';
import { releasing, type ReleaseParams } from '../volume/one-use';
import { draftAllotment, takenWords } from './allotment-fields';
import { judged, poolFacts } from './facts';

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

/** The fields that say whose allotment it is, and on which array. */
const whoseAndWhere = (view: EstateView, row: Allotment | undefined): Foretold['fields'] => ({
  allotment: { choices: namedChoices(view, 'allotment'), says: row ? takenWords(view, row) : '' },
  array: { choices: arrayChoices(view) },
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
        ...whoseAndWhere(view, row),
        pool: { choices: poolChoices(view, array, row) },
        name: { says: 'One name, or the stem of a series.' },
        size: { says: 'Counted on what is provisioned, thin as it is.' },
        count: { says: 'Each counts as one volume.' },
        workload: {
          choices: orNone(namedChoices(view, 'workload')),
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
    const volumes = askVolumes(asks, array, p.volumes);
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
        ...whoseAndWhere(view, row),
        volumes: {
          choices: volumeChoices(view, array, ({ id }) => {
            const had = allotmentOf(view, id);
            return had && `counts for ${had.name}`;
          }),
        },
      },
    };
  },
};

export const allotmentRelease: OperationType<ReleaseParams> = releasing('allotmentUse', {
  kind: 'allotment.release',
  verb: 'Take volumes out of their allotment',
  summary: 'They stay as they are and count for nobody.',
  of: 'their allotment',
  device: () => record,
  done: (volumes) => `${someOf(volumes.map(({ name }) => name))} in no allotment`,
  free: 'is in no allotment',
});
