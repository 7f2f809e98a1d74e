import { z } from 'zod';
import { activityProfile } from './activity';
import { byteRuns, bytes, count, id, instant, mediaClasses, name } from './fields';
import { fileImage, namedFile } from './file-image';
import { kind, to, type RowOf } from './kind';

export const squeezes = ['text', 'database', 'image', 'media'] as const;

/**
 * What hosts write to a volume, as the stand-ins make it up: of every weave of 120 pages `zero` are zeros and `common` come from the
 * template `family`, which repeats after `span` bytes; the rest is the volume's own.
 */
export const contentProfile = z.object({
  family: z.string().nullable().default(null),
  zero: count.max(120).default(0),
  common: count.max(120).default(0),
  span: bytes.default(0),
  squeeze: z.enum(squeezes).default('database'),
  /** Hosts rewrite one common page of every weave in so many days, which makes it the volume's own; 0 for never. */
  driftDays: count.default(0),
  /** What hosts have rewritten by their activity; without it nothing yet. */
  worn: z
    .object({
      /** Zeros and common pages of a weave as they were first written. */
      zero: count.max(120),
      common: count.max(120),
      /** Of the often, the now and then, and the never rewritten part of the bytes, the share that is as it was first written. */
      fresh: z.array(z.number().min(0).max(1)).length(3),
      /** Bytes that it was the share of. */
      of: bytes,
    })
    .optional(),
});

export const volumeKind = kind({
  words: ['volume', 'volumes'],
  prefix: 'vol',
  path: 'volumes',
  row: z.object({
    id,
    name,
    array: id,
    pool: id,
    size: bytes.min(1),
    provisioning: z.enum(['thin', 'thick']),
    naa: z.string().regex(/^6[0-9a-f]{31}$/),
    serial: name,
    owner: id,
    /** How far hosts have written, from the start of the device. */
    written: bytes,
    /** Runs within it that were given back by the host. */
    holes: byteRuns.default([]),
    /** Up to here its data lies in the pool's reduced store, beyond in extents of its own. */
    reducedTo: bytes.default(0),
    blockSize: z.union([z.literal(512), z.literal(4096)]).default(512),
    /** Takes part in its pool's reduction. */
    reduction: z.boolean().default(true),
    workload: id.nullable().default(null),
    notes: z.string().default(''),
    /** Where its new extents are placed first; null for the fastest tier of the pool. */
    tier: z.enum(mediaClasses).nullable().default(null),
    content: contentProfile.default({ family: null, zero: 0, common: 0, span: 0, squeeze: 'database', driftDays: 0 }),
    createdAt: instant.default(0),
    /** Last write by a host. */
    writtenAt: instant.nullable().default(null),
    /** Several hosts that are no cluster may write to it: they have agreed on it among themselves. */
    shared: z.boolean().default(false),
    /** Losing it hurts: what threatens it counts double. */
    important: z.boolean().default(false),
    /** Hosts start from it: it should be the lowest LUN they see. */
    boot: z.boolean().default(false),
    /** Retired and kept until then. */
    deletedAt: instant.nullable().default(null),
    keepUntil: instant.nullable().default(null),
    /** Days between reclaims by schedule; 0 for none. */
    reclaimDays: count.default(0),
    reclaimedAt: instant.nullable().default(null),
    activity: activityProfile.nullable().default(null),
    /** Its own protection plan; without one that of its workload. */
    plan: id.nullable().default(null),
    /** When its pool runs out of room, its oldest copies may go before their time. */
    givesUp: z.boolean().default(false),
    /** Named files of its file system, and the file system where no host knows it yet. */
    files: z.array(namedFile).default([]),
    image: fileImage.nullable().default(null),
    /** The host that holds a persistent reservation on it: no other may write (SPC, write exclusive). */
    reservedBy: id.nullable().default(null),
    // What it shares with its copies; see core/copies.
    /** Of a clone: the volume from whose copies it was made. Its data lies with what those copies keep, not in extents of its own. */
    origin: id.nullable().default(null),
    /** A copy that is only shown to a host, and goes when it is hidden. */
    view: z.boolean().default(false),
    /** The copy it was last cut to or went back to. */
    base: id.nullable().default(null),
    /** Of each part of the bytes of that copy, the share that still stands here. */
    stands: z.array(z.number().min(0).max(1)).length(3).default([1, 1, 1]),
    /** Ends of the first two parts (rewritten often, rewritten at all), as shares of its bytes. */
    parts: z.array(z.number().min(0).max(1)).length(2).default([0, 0]),
    /** Bytes that its copies take together, were it not there. */
    copiesBytes: z.number().min(0).default(0),
  }),
  refers: {
    array: to('array'),
    pool: to('pool'),
    owner: to('controller'),
    workload: to('workload'),
    plan: to('plan'),
    base: to('snapshot'),
    origin: to('volume'),
    reservedBy: to('host'),
  },
  named: 'array',
  once: ['naa'],
  indexes: {
    /** Retired and kept. */
    kept: (r) => (r.deletedAt === null ? [] : [r.pool]),
    /** Hosts rewrite it, and copies keep what was there. */
    rewritten: (r) => (r.activity !== null && r.base !== null && r.deletedAt === null ? [''] : []),
    /** Hosts may ask something of it. */
    asks: (r) => (r.activity !== null && r.deletedAt === null ? [''] : []),
    /** May give up old copies when its pool runs out of room. */
    givingUp: (r) => (r.givesUp && r.copiesBytes > 0 ? [r.pool] : []),
  },
  searched: { naa: 'NAA', serial: 'serial' },
});
export type Volume = RowOf<typeof volumeKind>;
export type Squeeze = (typeof squeezes)[number];
export type ContentProfile = z.infer<typeof contentProfile>;
