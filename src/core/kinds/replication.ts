import { z } from 'zod';
import { byteRuns, bytes, count, id, instant, name, upDown } from './fields';
import { fileImage, namedFile } from './file-image';
import { kind, to, type RowOf } from './kind';
import { stretchCourse } from './stretch';

/** What one volume showed at a cut, on its way to the other side. */
export const carriedVolume = z.object({
  written: bytes,
  holes: byteRuns,
  image: fileImage.nullable(),
  files: z.array(namedFile),
});

/** A cycle under way: what was cut, and how much of it is over. */
export const carried = z.object({
  pit: instant,
  startedAt: instant,
  /** Bytes of extents that changed since the point in time before, and what goes over the line for them. */
  changed: z.number().min(0),
  wire: z.number().min(0),
  /** Of the wire bytes so many were sent at `asOf`, the rest goes at `rate`; nothing before `from`. */
  sent: z.number().min(0),
  asOf: instant,
  from: instant,
  rate: z.number().min(0),
  /** How far the target was behind when it began. */
  lagBefore: z.number().min(0),
  volumes: z.array(carriedVolume),
});
export type Carried = z.infer<typeof carried>;

export const hostAccess = z.enum(['yes', 'no', 'unknown']);

/** A workload, or a volume by itself, that is copied to another site again and again. Its sides are P, where it lay first, and S. */
export const replicationKind = kind({
  words: ['replication', 'replications'],
  prefix: 'rep',
  path: 'replications',
  row: z.object({
    id,
    name,
    /** Null for a volume by itself. */
    workload: id.nullable().default(null),
    /** Volumes of both sides, pair by pair. */
    primaries: z.array(id).min(1),
    secondaries: z.array(id).min(1),
    link: id,
    /** Cut again and again, or every write mirrored before it is acknowledged. */
    mode: z.enum(['async', 'sync']).default('async'),
    /** What hosts of a mirror do when the other side is lost: go on alone, or wait until it is back or somebody decides. */
    onLoss: z.enum(['continue', 'fence']).default('continue'),
    /** Whether its volumes go from one point in time to the next together, or each by itself. */
    order: z.enum(['kept', 'free']).default('kept'),
    /** Volumes that take what is written while the other side is lost, one at each side, P before S; none where only a map is kept. */
    logs: z.array(id).max(2).default([]),
    /** What the mirror may add to a write, milliseconds; null where nobody minds. */
    budget: z.number().positive().max(10_000).nullable().default(null),
    /** From cut to cut, and what may be lost at the most; milliseconds. */
    interval: z.number().min(1000),
    /** Instead: cut whenever this plan makes copies, at the very instant. */
    plan: id.nullable().default(null),
    rpo: z.number().min(1000).nullable().default(null),
    /** Its share of the line, against the others', and the most it takes, bytes a second. */
    weight: z.number().positive().max(1000).default(1),
    cap: z.number().positive().nullable().default(null),
    /** In which turn it comes back after a disaster, and within which time it is to be back; milliseconds. */
    tier: count.min(1).max(9).default(1),
    goal: z.number().positive().nullable().default(null),
    /** Points in time that the target keeps beside the newest. */
    images: count.max(64).default(1),
    /** Beside these the first of each day, for so many days. */
    imagesDaily: count.max(400).default(0),
    /** What it keeps back of the pools of its sides P and S, per cent of each; empty for nothing. */
    reservePools: z.array(id).max(2).default([]),
    reserves: z.array(z.number().min(0).max(50)).max(2).default([]),
    /** How its first copy goes: over the line, compared with what is there, or carried over on media. */
    first: z.enum(['network', 'seeded', 'shipped']).default('network'),
    /** Bytes sent for each that changed. */
    wireRatio: z.number().positive().max(2).default(0.7),
    state: z.enum(['defined', 'copying', 'protected', 'paused', 'broken', 'switching', 'failed-over']),
    source: z.enum(['P', 'S']).default('P'),
    linkState: upDown.default('up'),
    siteP: upDown.default('up'),
    siteS: upDown.default('up'),
    /** The target holds a consistent image. */
    image: z.boolean().default(false),
    drill: z.boolean().default(false),
    accessP: hostAccess.default('yes'),
    accessS: hostAccess.default('no'),
    /** What the target holds is as of then; null before the first copy is whole. */
    pit: instant.nullable().default(null),
    carrying: carried.nullable().default(null),
    /** When the next cut is due. */
    nextAt: instant,
    /**
     * What the next cut sends: what hosts changed since the point in time; what either side changed since, after a turn; or all, where nobody knows.
     */
    compare: z.enum(['changed', 'union', 'all']).default('all'),
    startedAt: instant,
    /** Since when it is in its state, and why where somebody or something brought it there. */
    since: instant,
    reason: z.string().default(''),
    /** How a source that could not be asked is kept off. */
    fence: z.string().default(''),
    /** Both sides show one identity, and a protocol decides who serves; null for any other. */
    stretch: stretchCourse.nullable().default(null),
    /** Who decides between both sides of a stretched one. */
    witness: id.nullable().default(null),
  }),
  refers: {
    workload: to('workload'),
    primaries: to('volume', { by: 'primary' }),
    secondaries: to('volume', { by: 'secondary' }),
    link: to('siteLink'),
    plan: to('plan'),
    logs: to('volume', { by: 'log' }),
    witness: to('witness'),
    reservePools: to('pool', { by: 'reservedIn' }),
  },
  named: '',
  indexes: {
    /** Mirrors whose other side is written along. */
    mirrored: (row) => (row.mode === 'sync' && row.state === 'protected' ? [''] : []),
    stretched: (row) => (row.stretch === null ? [] : ['']),
    /** Whoever moves as time goes on. */
    atWork: (row) => (['copying', 'protected', 'broken'].includes(row.state) ? [''] : []),
  },
  searched: {},
});
export type Replication = RowOf<typeof replicationKind>;
