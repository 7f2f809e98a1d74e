import { z } from 'zod';
import { bytes, count, id, instant, mediaClasses, name } from './fields';
import { kind, to, type RowOf } from './kind';

export const driveKind = kind({
  words: ['drive', 'drives'],
  prefix: 'drv',
  path: 'drives',
  row: z.object({
    id,
    array: id,
    enclosure: id,
    slot: count,
    serial: name,
    media: z.enum(mediaClasses),
    capacity: bytes,
    sector: z.union([z.literal(512), z.literal(4096)]),
    state: z.enum(['ok', 'predicted', 'failed', 'missing', 'rebuilding']),
    raidGroup: id.nullable(),
    /** Kept for rebuilds: of any group, or of `spareGroup` alone. */
    spare: z.enum(['no', 'shared', 'dedicated']).default('no'),
    spareGroup: id.nullable().default(null),
    /** The drive this spare stands in for, until that one is replaced. */
    standsInFor: id.nullable().default(null),
    /** Rated writes used, per cent. */
    wear: z.number().min(0).default(0),
    /** Unrecoverable read errors: ever, and within the last seven days. */
    mediaErrors: count.default(0),
    recentErrors: count.default(0),
    /** Ways from the controllers to the drive. */
    links: z.number().int().min(0).max(2).default(2),
    /** Carries the label of another array. */
    foreign: z.boolean().default(false),
    /** Carries data of a group that was taken apart. */
    holdsData: z.boolean().default(false),
    /** Its lamp blinks. */
    located: z.boolean().default(false),
    /** When it last failed while being rebuilt. */
    rebuildFailedAt: instant.nullable().default(null),
    /** The volume of an outside array that stands here like a drive; null for one of metal. */
    lun: id.nullable().default(null),
  }),
  refers: {
    array: to('array'),
    enclosure: to('enclosure'),
    raidGroup: to('raidGroup'),
    spareGroup: to('raidGroup'),
    standsInFor: to('drive'),
    lun: to('volume', { by: 'lun' }),
  },
  unique: [{ fields: ['enclosure', 'slot'], by: 'enclosure' }],
  searched: { serial: 'serial' },
});
export type Drive = RowOf<typeof driveKind>;
