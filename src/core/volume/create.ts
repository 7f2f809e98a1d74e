import { z } from 'zod';
import { folded, pick, such, the } from '../operation/form';
import { PAGE, wholePages } from '../content/page';
import { created } from '../estate/effects';
import {
  mediaClasses,
  rowOf,
  type ArrayRow,
  type Controller,
  type Kind,
  type Pool,
  type RaidGroup,
} from '../estate/entities';
import type { Effect } from '../estate/effects';
import { longestRun } from '../pool/allocate';
import { askPool, directPool, realPools } from '../pool/direct';
import { groupHealth } from '../raid/health';
import { arrayAnswers } from './health';
import { carriedWords } from '../raid/room';
import { hash32 } from '../estate/random';
import { Overlay, type EstateView } from '../estate/estate';
import { poolOf } from '../estate/relations';
import { makeNaa, makeSerial } from '../naming/identity';
import { nameSeries } from '../naming/names';
import { arrayChoices, byName, draftArray, draftText, nextName } from '../operation/draft';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf, type Refusal } from '../operation/refusal';
import { SUBSCRIPTION_NOTICE } from '../pool/choices';
import { availableExtents, extentsOf, poolState, poolUsage, reduces, tiersOf } from '../pool/usage';
import { someOf } from '../units/counted';
import { exactBytes, formatBytes, MAX_BYTES, parseBytes, percentUsed, type Bytes } from '../units/bytes';
import { SECOND } from '../units/duration';
import { flag } from '../operation/params';
import { mediaFigures } from '../raid/media';
import { giveAll } from './grow';

export const MOST_AT_ONCE = 1000;

const schema = z.object({
  array: z.string(),
  pool: z.string().optional(),
  raidGroup: z.string().optional().describe('Instead of a pool: thick volumes straight from it, in whole runs'),
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
  blockSize: z
    .union([z.literal(512), z.literal(4096), z.enum(['512', '4096'])])
    .transform((value) => Number(value) as 512 | 4096)
    .default(512),
  reduction: flag.default(true).describe("Takes part in its pool's reduction"),
  workload: z.string().optional(),
  tier: z.enum(mediaClasses).optional().describe('Where its extents are placed first; without it the fastest tier'),
  notes: z.string().max(1000).optional(),
});
type Params = z.output<typeof schema>;

/** What hosts write to a new volume in the lab, until somebody says otherwise: databases and text, a few zeros. */
const usualContent = (id: string) => ({
  family: null,
  zero: 3 + (hash32(`zero ${id}`) % 8),
  common: 0,
  span: 0,
  squeeze: (['database', 'text', 'image'] as const)[hash32(`squeeze ${id}`) % 3]!,
  driftDays: 0,
});

/** A size counted out in bytes must be whole blocks; one in larger units is rounded up to pages instead. */
export const splitsBlock = (text: string, bytes: Bytes, block: number): boolean =>
  /^[\d\s_]+B$/.test(text.trim()) && bytes % block !== 0;

/** A size that is no whole number of the blocks hosts address. */
export const blockRefusal = (name: string, bytes: Bytes, block: number): Refusal => ({
  code: 'size-not-in-blocks',
  field: 'size',
  subject: { kind: 'volume', name },
  message: `${bytes} bytes are no whole number of blocks of ${block}.`,
  mend: `Write ${exactBytes(Math.ceil(bytes / block) * block)}, or a size in MiB or GiB.`,
});

/** Refuses a thin size that would promise more than the pool's limit allows. */
export function subscriptionRefusal(view: EstateView, pool: Pool, more: Bytes): Refusal | null {
  if (pool.subscriptionLimit === null) return null;
  const usage = poolUsage(view, pool);
  const most = Math.floor((usage.size * pool.subscriptionLimit) / 100);
  if (usage.promised + more <= most) return null;
  const left = Math.max(0, most - usage.promised);
  return {
    code: 'subscription-limit',
    field: 'size',
    subject: subjectOf('pool', pool),
    message: `${pool.name} promises ${percentUsed(usage.promised, usage.size)} % of its size; with ${formatBytes(more, 'used')} more it would pass its limit of ${pool.subscriptionLimit} %.`,
    mend:
      left > 0
        ? `Ask for ${formatBytes(left)} in all at most, extend the pool, or raise the limit.`
        : 'Extend the pool or raise the limit.',
  };
}

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

/** Where volumes come to lie: a pool, or the room of a RAID group, which comes to be with the first of them. */
interface Room {
  pool: Pool;
  effects: Effect[];
  /** Of a RAID group: extents of its longest free run. */
  longest: number | null;
}

const freeRun = (view: EstateView, group: RaidGroup, pool: Pool): number =>
  longestRun(view, group.id, extentsOf(group.usable, pool.extentSize));

function askRoom(
  view: EstateView,
  asks: Inquiry,
  array: ArrayRow,
  p: Params,
  newId: (kind: Kind) => string,
): Room | undefined {
  if (p.raidGroup && p.pool) {
    asks.refuse({
      code: 'pool-and-group',
      field: 'raidGroup',
      subject: subjectOf('array', array),
      message: 'A volume is carved from a pool or straight from a RAID group, and both are named.',
      mend: 'Leave one of them out.',
    });
    return undefined;
  }
  if (!p.raidGroup) {
    const pool = askPool(asks, p.pool ?? '', 'pool', array);
    return pool && { pool, effects: [], longest: null };
  }
  const group = asks.find('raidGroup', p.raidGroup, 'raidGroup', array);
  if (!group) return undefined;
  const refuse = (code: string, message: string, mend: string): undefined => {
    asks.refuse({ code, field: 'raidGroup', subject: subjectOf('raidGroup', group), message, mend });
    return undefined;
  };
  if (group.pool && !poolOf(view, group)?.direct)
    return refuse(
      'in-pool',
      `${group.name} ${carriedWords(view, group)}.`,
      'Carve from the pool, or choose a free RAID group.',
    );
  if (groupHealth(view, group).state === 'lost')
    return refuse(
      'raid-group-offline',
      `${group.name} has lost more drives than it survives.`,
      'Choose another RAID group.',
    );
  const room = directPool(view, group, newId);
  return { ...room, longest: freeRun(view, group, room.pool) };
}

/** What would bring a lost pool back: enclosures that are silent, else drives. */
function lostMend(view: EstateView, pool: Pool): string {
  const silent = view
    .table('enclosure')
    .by('array', pool.array)
    .filter((enclosure) => enclosure.state === 'down');
  return silent.length > 0
    ? `Bring ${silent.length === 1 ? 'enclosure' : 'enclosures'} ${someOf(silent.map((enclosure) => String(enclosure.number)))} up again`
    : 'Put the drives back that it lost';
}

/** What fits where a thick volume does not: a size that can be typed, where there is one. */
const tooBig = (pool: Pool, available: number): string =>
  available > 0
    ? `Make it at most ${exactBytes(available * pool.extentSize)}, make it thin, or choose another pool.`
    : 'Make it thin, extend the pool, or choose another one.';

export const volumeCreate: OperationType<Params> = {
  kind: 'volume.create',
  verb: 'Carve volumes',
  summary: 'Carves one volume or a series from a pool, thin or thick, or thick ones straight from a RAID group.',
  schema,
  form: {
    columns: [2, 3, 4],
    fields: {
      array: the.array,
      pool: the.pool,
      name: 'Name',
      count: 'How many',
      size: such('Size of each', '500 GiB'),
      provisioning: 'Kind',
      workload: pick('Workload'),
      owner: pick('Owner'),
      startNumber: folded('First number'),
      tier: folded('Starts on'),
      reduction: folded({ label: 'Reduction', control: 'switch' }),
      blockSize: folded(pick('Block')),
      notes: folded('Notes'),
      raidGroup: folded(pick('Or RAID group')),
    },
  },
  title: (p) =>
    `Carve ${p.count === 1 ? `volume ${p.name}` : `${p.count} volumes ${p.name}`} of ${p.size} in ${p.pool ?? p.raidGroup ?? 'nothing'} on ${p.array}`,
  units: (p) => nameSeries(p.name, p.count, p.startNumber).map((name) => ({ ...p, name, count: 1 })),

  check(view, p) {
    const array = lookUp(view, 'array', p.array);
    const pool = array && !p.raidGroup ? lookUp(view, 'pool', p.pool ?? '', array.id) : undefined;
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
        mend: fit > 0 && p.count > 1 ? `Carve ${fit}, make them smaller, or make them thin.` : tooBig(pool, available),
      },
    ];
  },

  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const room = array && askRoom(view, asks, array, p, context.newId);
    const pool = room?.pool;
    const thick = p.provisioning === 'thick' || pool?.direct === true;
    const name = array && asks.freeName('volume', p.name, array);
    const bytes = asks.value(parseBytes(p.size), 'size', { kind: 'volume', name: p.name });
    const owner = array && (p.owner ? asks.find('controller', p.owner, 'owner', array) : leastLoaded(view, array.id));
    // Where the array itself is silent, that is said instead.
    if (pool && poolState(view, pool.id) === 'lost' && arrayAnswers(view, pool.array))
      asks.refuse({
        code: 'pool-offline',
        field: 'pool',
        subject: subjectOf('pool', pool),
        message: `${pool.name} is offline: a RAID group under it has lost more drives than it survives.`,
        mend: `${lostMend(view, pool)}, or choose another pool.`,
      });
    const need = pool && bytes !== undefined ? needOf(p.size, pool) : undefined;
    if (pool && bytes !== undefined && !need)
      asks.refuse({
        code: 'too-large',
        field: 'size',
        subject: subjectOf('pool', pool),
        message: `${p.size} is beyond the largest size.`,
        mend: `Write ${formatBytes(MAX_BYTES)} at most.`,
      });
    if (bytes !== undefined && splitsBlock(p.size, bytes, p.blockSize))
      asks.refuse(blockRefusal(p.name, bytes, p.blockSize));
    const available = room && pool ? (room.longest ?? availableExtents(view, pool)) : 0;
    if (pool && need && !thick && available < 1)
      asks.refuse({
        code: 'pool-full',
        field: 'pool',
        subject: subjectOf('pool', pool),
        message: `${pool.name} has no extent left to give.`,
        mend: 'Retire volumes or choose another pool.',
      });
    if (pool && need && thick && need.extents > available)
      asks.refuse({
        code: 'pool-too-small',
        field: 'size',
        subject: subjectOf('pool', pool),
        message: `${pool.name} has ${pool.direct ? 'no free run longer than ' : ''}${formatBytes(available * pool.extentSize)}${pool.direct ? '' : ' left'}; ${formatBytes(need.size, 'used')} are asked for.`,
        mend: pool.direct
          ? `Make it at most ${exactBytes(available * pool.extentSize)}, or choose another RAID group.`
          : tooBig(pool, available),
      });
    const workload = p.workload ? asks.find('workload', p.workload, 'workload') : undefined;
    if (pool && need && !thick) {
      const limit = subscriptionRefusal(view, pool, need.size);
      if (limit) asks.refuse(limit);
    }
    if (asks.refusals.length > 0 || !array || !room || !pool || !name || !need || !owner) return refused(asks.refusals);

    const id = context.newId('volume');
    const volume = rowOf('volume', {
      id,
      name,
      array: array.id,
      pool: pool.id,
      size: need.size,
      provisioning: thick ? 'thick' : 'thin',
      naa: makeNaa(array.companyId, id),
      serial: makeSerial(id),
      owner: owner.id,
      written: 0,
      blockSize: p.blockSize,
      reduction: p.reduction,
      workload: workload?.id ?? null,
      tier: p.tier ?? null,
      notes: p.notes ?? '',
      content: usualContent(id),
      createdAt: context.now,
    });
    const within = new Overlay(view);
    within.apply(room.effects);
    const notes =
      bytes === need.size
        ? []
        : [`${p.size} is rounded up to ${formatBytes(need.size, 'used')}: sizes are whole pages of 16 KiB.`];
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Carve ${name}: ${formatBytes(need.size, 'used')} ${volume.provisioning} ${pool.direct ? `straight from ${p.raidGroup}` : `in ${pool.name}`}, owned by controller ${owner.name}`,
      takes: (thick ? 3 : 2) * SECOND,
      effects: [
        ...room.effects,
        created('volume', volume),
        ...(thick ? giveAll(within, volume, pool, context.newId).effects : []),
      ],
      notes,
    });
  },

  foretell(view, draft, context) {
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
    const straight = draftText(draft, 'raidGroup');
    const pools = realPools(view, array.id);
    const groups = [...view.table('raidGroup').by('array', array.id)].sort(byName);
    fields.raidGroup = {
      choices: [
        { value: '', label: 'None: from the pool' },
        ...groups.map((row) => {
          const carries = poolOf(view, row);
          const room = directPool(view, row, context.newId).pool;
          return {
            value: row.name,
            label: `${row.name}, longest free run ${formatBytes(carries && !carries.direct ? 0 : freeRun(view, row, room) * room.extentSize)}`,
            ...(carries && !carries.direct ? { unfit: carriedWords(view, row) } : {}),
          };
        }),
      ],
      says: 'Thick volumes straight from a group, each in one run: no thin ones, no reduction, nothing shared with other groups.',
    };
    fields.array!.says = `${pools.length} ${pools.length === 1 ? 'pool' : 'pools'}, ${view.table('volume').countBy('array', array.id)} volumes.`;
    fields.pool!.says = 'Where its extents come from.';
    fields.size!.says = 'A number and its unit. Rounded up to whole pages of 16 KiB.';
    fields.count!.says = 'More than one makes a series.';
    fields.startNumber!.says = 'Where the numbers of a series begin.';
    fields.pool!.choices = [
      ...pools.map((row) => ({
        value: row.name,
        label: `${row.name}, ${formatBytes(availableExtents(view, row) * row.extentSize)} left`,
      })),
      ...(straight ? [{ value: '', label: 'None: straight from the RAID group' }] : []),
    ];
    if (pools.length === 0) fields.pool!.says = `${array.name} has no pool yet. Make one first.`;
    if (pools.length === 1 && !straight) fields.pool!.suggested = pools[0]!.name;
    if (straight) fields.pool!.says = 'Left empty: they come straight from the RAID group.';
    if (straight) {
      fields.provisioning = {
        choices: [{ value: 'thick', label: 'Thick' }],
        suggested: 'thick',
        says: 'Always thick: all extents are taken at once.',
      };
    }
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
    fields.blockSize = {
      choices: [
        { value: '512', label: '512 bytes' },
        { value: '4096', label: '4096 bytes' },
      ],
      suggested: '512',
      says: 'What hosts address. 4096 fits drives of 4096 best; old hosts know 512 alone.',
    };
    fields.workload = {
      choices: [
        { value: '', label: 'None' },
        ...[...view.table('workload').values()].sort(byName).map((row) => ({ value: row.name, label: row.name })),
      ],
      says: 'Volumes of one workload are counted together.',
    };
    fields.notes = { says: 'For those who come after.' };
    const stem = draftText(draft, 'name');
    fields.name!.suggested = nextName('vol', view.table('volume').by('array', array.id));
    const first = Number(draftText(draft, 'startNumber') || 1);
    const series = stem ? nameSeries(stem, count, Number.isInteger(first) && first >= 0 ? first : 1) : [];
    fields.name!.says =
      series.length > 1 ? `${series[0]} … ${series.at(-1)}` : 'With # where a number goes, for a series.';
    const pool = lookUp(view, 'pool', draftText(draft, 'pool'), array.id);
    if (!pool) return { fields };
    const usage = poolUsage(view, pool);
    fields.reduction = {
      suggested: 'true',
      says: reduces(pool)
        ? 'Off for what does not reduce: encrypted or compressed by the host.'
        : `${pool.name} reduces nothing now.`,
    };
    const tiers = tiersOf(usage);
    fields.tier = {
      choices: [
        { value: '', label: 'The fastest' },
        ...tiers.map((tier) => ({
          value: tier.media,
          label: `${mediaFigures[tier.media].label}, ${formatBytes((tier.capacity - tier.used) * pool.extentSize)} free`,
        })),
      ],
      says:
        tiers.length > 1
          ? 'Where its extents are placed first; a full tier spills to the next slower.'
          : 'The pool has one tier.',
    };
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
