import { z } from 'zod';
import { besideMoves, extentsBesideMoves } from './promised';
import { folded, pick, such, the } from '../operation/form';
import { usualActivity } from '../copies/activity';
import { created } from '../estate/effects';
import { mediaClasses, rowOf, type ContentProfile, type Pool } from '../estate/entities';
import { arrayAnswers } from './health';
import { hash32 } from '../estate/random';
import { Overlay, type EstateView } from '../estate/estate';
import { activityKinds } from '../kinds/activity';
import { makeNaa, makeSerial } from '../naming/identity';
import { nameSeries } from '../naming/names';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type OperationType } from '../operation/operation';
import { subjectOf, type Refusal } from '../operation/refusal';
import { poolState, poolUsage } from '../pool/usage';
import { exactBytes, formatBytes, MAX_BYTES, parseBytes, percentUsed, type Bytes } from '../units/bytes';
import { SECOND } from '../units/duration';
import { flag } from '../operation/params';
import { foretellVolumes, MOST_AT_ONCE } from './create-foretell';
import { askRoom, leastLoaded, lostMend, needOf, tooBig } from './create-room';
import { giveAll } from './grow';

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
  activity: z.enum(activityKinds).optional().describe('What runs on it: what hosts rewrite is worked out from it'),
  plan: z.string().optional().describe('A protection plan of its own; without it that of its workload'),
});
type Params = z.output<typeof schema>;

/** What hosts write to a new volume in the lab, until somebody says otherwise: databases and text, a few zeros. */
const usualContent = (id: string): ContentProfile => ({
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
      activity: folded('What runs on it'),
      plan: folded(pick('Protection plan')),
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
    const available = extentsBesideMoves(view, pool);
    if (need.extents * p.count <= available) return [];
    const each = `${p.count === 1 ? '' : `${p.count} × `}${formatBytes(need.extents * pool.extentSize, 'used')}`;
    const fit = Math.floor(available / need.extents);
    return [
      {
        code: 'pool-too-small',
        field: 'size',
        subject: subjectOf('pool', pool),
        message: `${pool.name} has ${formatBytes(available * pool.extentSize)} left${besideMoves(view, pool)}; ${each} thick are asked for.`,
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
    const available = room && pool ? (room.longest ?? extentsBesideMoves(view, pool)) : 0;
    if (pool && need && !thick && available < 1)
      asks.refuse({
        code: 'pool-full',
        field: 'pool',
        subject: subjectOf('pool', pool),
        message: `${pool.name} has no extent left to give${besideMoves(view, pool)}.`,
        mend: 'Retire volumes or choose another pool.',
      });
    if (pool && need && thick && need.extents > available)
      asks.refuse({
        code: 'pool-too-small',
        field: 'size',
        subject: subjectOf('pool', pool),
        message: `${pool.name} has ${pool.direct ? 'no free run longer than ' : ''}${formatBytes(available * pool.extentSize)}${pool.direct ? '' : ` left${besideMoves(view, pool)}`}; ${formatBytes(need.size, 'used')} are asked for.`,
        mend: pool.direct
          ? `Make it at most ${exactBytes(available * pool.extentSize)}, or choose another RAID group.`
          : tooBig(pool, available),
      });
    const workload = p.workload ? asks.find('workload', p.workload, 'workload') : undefined;
    const plan = p.plan ? asks.find('plan', p.plan, 'plan') : undefined;
    if (plan && pool?.direct)
      asks.refuse({
        code: 'copies-need-pool',
        field: 'plan',
        subject: subjectOf('plan', plan),
        message: `A volume straight from a RAID group has no pool that could keep what its copies show.`,
        mend: 'Carve it from a pool, or leave the plan out.',
      });
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
      activity: p.activity ? usualActivity[p.activity] : null,
      plan: plan?.id ?? null,
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

  foretell: foretellVolumes,
};
