import { z } from 'zod';
import { created } from '../estate/effects';
import type { Controller, Pool } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { makeNaa, makeSerial } from '../naming/identity';
import { nameSeries } from '../naming/names';
import { arrayChoices, byName, draftArray, draftText, nextName } from '../operation/draft';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SUBSCRIPTION_NOTICE } from '../pool/choices';
import { availableExtents, poolState, poolUsage } from '../pool/usage';
import { formatBytes, KIB, parseBytes, percentUsed, type Bytes } from '../units/bytes';
import { SECOND } from '../units/duration';
import { giveExtents } from './grow';

/** Sizes are whole pages, so that space sums add up to the byte. */
export const PAGE: Bytes = 16 * KIB;
export const MOST_AT_ONCE = 1000;

const schema = z.object({
  array: z.string(),
  pool: z.string(),
  name: z.string().describe('One name, or the stem of a series; # marks where the number goes'),
  size: z.union([z.string(), z.number()]).transform(String).describe('With its unit, such as 500 GiB'),
  count: z.coerce
    .number()
    .int()
    .min(1, 'carve at least 1')
    .max(MOST_AT_ONCE, `carve at most ${MOST_AT_ONCE} at once`)
    .default(1),
  startNumber: z.coerce.number().int().min(0).max(99_999).default(1).describe('First number of the series'),
  provisioning: z.enum(['thin', 'thick']).default('thin'),
  owner: z.string().optional().describe('Controller; without it the one that owns least'),
});
type Params = z.output<typeof schema>;

const wholePages = (size: Bytes): Bytes => Math.ceil(size / PAGE) * PAGE;

/** The controller with the fewest volumes, ties by name. */
function leastLoaded(view: EstateView, array: string): Controller | undefined {
  const controllers = [...view.table('controller').by('array', array)].sort(byName);
  const owned = (controller: Controller) => view.table('volume').countBy('owner', controller.id);
  return controllers.reduce<Controller | undefined>(
    (best, next) => (!best || owned(next) < owned(best) ? next : best),
    undefined,
  );
}

/** Bytes and whole extents one volume of this size needs, where it can be read. */
function needOf(size: string, pool: Pool): { size: Bytes; extents: number } | undefined {
  const bytes = parseBytes(size);
  if (!bytes.ok || bytes.value > Number.MAX_SAFE_INTEGER - PAGE) return undefined;
  return { size: wholePages(bytes.value), extents: Math.ceil(wholePages(bytes.value) / pool.extentSize) };
}

export const volumeCreate: OperationType<Params> = {
  kind: 'volume.create',
  verb: 'Carve volumes',
  summary: 'Carves one volume or a series from a pool, thin or thick.',
  schema,
  title: (p) =>
    `Carve ${p.count === 1 ? `volume ${p.name}` : `${p.count} volumes ${p.name}`} of ${p.size} in ${p.pool} on ${p.array}`,
  units: (p) => nameSeries(p.name, p.count, p.startNumber).map((name) => ({ ...p, name, count: 1 })),

  check(view, p) {
    const array = lookUp(view, 'array', p.array);
    const pool = array && lookUp(view, 'pool', p.pool, array.id);
    const need = pool && needOf(p.size, pool);
    if (!pool || !need || p.provisioning === 'thin') return [];
    const available = availableExtents(view, pool);
    if (need.extents * p.count <= available) return [];
    const each = `${p.count === 1 ? '' : `${p.count} × `}${formatBytes(need.extents * pool.extentSize, 'used')}`;
    const fit = Math.floor(available / need.extents);
    return [
      {
        code: 'pool-too-small',
        field: 'size',
        subject: subjectOf('pool', pool),
        message: `${pool.name} has ${formatBytes(available * pool.extentSize)} left; ${each} thick are asked for.`,
        mend:
          fit > 0 && p.count > 1
            ? `Carve ${fit}, make them smaller, or make them thin.`
            : 'Make it smaller or thin, or choose another pool.',
      },
    ];
  },

  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const pool = array && asks.find('pool', p.pool, 'pool', array);
    const name = array && asks.freeName('volume', p.name, array);
    const bytes = asks.value(parseBytes(p.size), 'size', { kind: 'volume', name: p.name });
    const owner = array && (p.owner ? asks.find('controller', p.owner, 'owner', array) : leastLoaded(view, array.id));
    if (pool && poolState(view, pool.id) === 'lost')
      asks.refuse({
        code: 'pool-offline',
        field: 'pool',
        subject: subjectOf('pool', pool),
        message: `${pool.name} is offline: a RAID group under it has lost more drives than it survives.`,
        mend: 'Choose another pool.',
      });
    const need = pool && bytes !== undefined ? needOf(p.size, pool) : undefined;
    if (pool && bytes !== undefined && !need)
      asks.refuse({
        code: 'too-large',
        field: 'size',
        subject: subjectOf('pool', pool),
        message: `${p.size} is beyond the largest size.`,
        mend: 'Write a smaller one.',
      });
    const available = pool ? availableExtents(view, pool) : 0;
    if (pool && need && p.provisioning === 'thin' && available < 1)
      asks.refuse({
        code: 'pool-full',
        field: 'pool',
        subject: subjectOf('pool', pool),
        message: `${pool.name} has no extent left to give.`,
        mend: 'Retire volumes or choose another pool.',
      });
    if (pool && need && p.provisioning === 'thick' && need.extents > available)
      asks.refuse({
        code: 'pool-too-small',
        field: 'size',
        subject: subjectOf('pool', pool),
        message: `${pool.name} has ${formatBytes(available * pool.extentSize)} left; ${formatBytes(need.size, 'used')} are asked for.`,
        mend: 'Make it smaller or thin, or choose another pool.',
      });
    if (asks.refusals.length > 0 || !array || !pool || !name || !need || !owner) return refused(asks.refusals);

    const id = context.newId('volume');
    const volume = {
      id,
      name,
      array: array.id,
      pool: pool.id,
      size: need.size,
      provisioning: p.provisioning,
      naa: makeNaa(array.companyId, id),
      serial: makeSerial(id),
      owner: owner.id,
      written: 0,
    };
    const notes =
      bytes === need.size
        ? []
        : [`${p.size} is rounded up to ${formatBytes(need.size, 'used')}: sizes are whole pages of 16 KiB.`];
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Carve ${name}: ${formatBytes(need.size, 'used')} ${p.provisioning} in ${pool.name}, owned by controller ${owner.name}`,
      takes: (p.provisioning === 'thin' ? 2 : 3) * SECOND,
      effects: [
        created('volume', volume),
        ...(p.provisioning === 'thick' ? giveExtents(view, volume, pool, need.extents, context.newId) : []),
      ],
      notes,
    });
  },

  foretell(view, draft) {
    const array = draftArray(view, draft);
    const fields: Foretold['fields'] = {
      array: { choices: arrayChoices(view) },
      pool: {},
      name: {},
      size: {},
      count: { suggested: '1' },
      startNumber: { suggested: '1' },
      provisioning: { suggested: 'thin' },
      owner: {},
    };
    fields.provisioning!.choices = [
      { value: 'thin', label: 'Thin' },
      { value: 'thick', label: 'Thick' },
    ];
    fields.provisioning!.says =
      draftText(draft, 'provisioning') === 'thick'
        ? 'All extents are taken at once.'
        : 'Extents are taken as hosts write.';
    if (!array) return { fields };
    const pools = [...view.table('pool').by('array', array.id)].sort(byName);
    fields.array!.says = `${pools.length} ${pools.length === 1 ? 'pool' : 'pools'}, ${view.table('volume').countBy('array', array.id)} volumes.`;
    fields.pool!.says = 'Where its extents come from.';
    fields.size!.says = 'A number and its unit. Rounded up to whole pages of 16 KiB.';
    fields.count!.says = 'More than one makes a series.';
    fields.startNumber!.says = 'Where the numbers of a series begin.';
    fields.pool!.choices = pools.map((row) => ({
      value: row.name,
      label: `${row.name}, ${formatBytes(availableExtents(view, row) * row.extentSize)} left`,
    }));
    if (pools.length === 0) fields.pool!.says = `${array.name} has no pool yet. Make one first.`;
    if (pools.length === 1) fields.pool!.suggested = pools[0]!.name;
    const controllers = [...view.table('controller').by('array', array.id)].sort(byName);
    fields.owner!.choices = [
      { value: '', label: 'The one that owns least' },
      ...controllers.map((row) => ({
        value: row.name,
        label: `Controller ${row.name}, owns ${view.table('volume').countBy('owner', row.id)}`,
      })),
    ];
    const least = leastLoaded(view, array.id);
    const count = Math.min(MOST_AT_ONCE, Math.max(1, Math.floor(Number(draftText(draft, 'count') || 1)) || 1));
    fields.owner!.says = draftText(draft, 'owner')
      ? 'Its paths are the optimized ones.'
      : count > 1
        ? 'Balanced over the controllers.'
        : `Controller ${least?.name ?? '–'} owns least.`;
    const stem = draftText(draft, 'name');
    fields.name!.suggested = nextName('vol', view.table('volume').by('array', array.id));
    const first = Number(draftText(draft, 'startNumber') || 1);
    const series = stem ? nameSeries(stem, count, Number.isInteger(first) && first >= 0 ? first : 1) : [];
    fields.name!.says =
      series.length > 1 ? `${series[0]} … ${series.at(-1)}` : 'With # where a number goes, for a series.';
    const pool = lookUp(view, 'pool', draftText(draft, 'pool'), array.id);
    if (!pool) return { fields };
    const usage = poolUsage(view, pool);
    const rate = percentUsed(usage.promised, usage.size);
    fields.pool!.says = `${formatBytes(usage.availableBytes)} left of ${formatBytes(usage.size)}; ${percentUsed(usage.used, usage.capacity)} % filled, ${rate} % promised.`;
    const need = needOf(draftText(draft, 'size'), pool);
    if (need) {
      const thin = draftText(draft, 'provisioning') !== 'thick';
      const after = percentUsed(usage.used + (thin ? 0 : need.extents * count), usage.capacity);
      const promised = percentUsed(usage.promised + need.size * count, usage.size);
      fields.size!.says = thin
        ? `Promised ${rate} → ${promised} %${promised > SUBSCRIPTION_NOTICE * 100 ? ': more than twice what is there' : ''}; nothing is taken yet.`
        : `Filled ${percentUsed(usage.used, usage.capacity)} → ${after} %, ${formatBytes(Math.max(0, usage.available - need.extents * count) * pool.extentSize)} left.`;
      fields.count!.says =
        count > 1 ? `${formatBytes(need.size * count, 'used')} in all.` : 'More than one makes a series.';
    }
    return { fields };
  },
};
