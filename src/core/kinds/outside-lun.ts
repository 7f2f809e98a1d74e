import { z } from 'zod';
import { bytes, count, id, instant, name } from './fields';
import { goesWith, kind, to, type RowOf } from './kind';

/** Where a LUN of an outside array stands (move.md D); whether it is copied or moved in follows from the move of its front. */
export const outsideLunStates = ['found', 'inspected', 'fenced', 'fronted', 'member', 'done'] as const;
export type OutsideLunState = (typeof outsideLunStates)[number];

/** A LUN that an array found behind itself, on the fabric. */
export const outsideLunKind = kind({
  words: ['outside LUN', 'outside LUNs'],
  prefix: 'olun',
  path: 'outside-luns',
  row: z.object({
    id,
    /** The outside array and the number, `corbel-9:3`. */
    name,
    /** The array behind which it was found. */
    array: id,
    /** What the outside array shows there. */
    volume: id,
    lun: count.max(16_383),
    state: z.enum(outsideLunStates).default('found'),
    /** What inspecting it read: its serial, size and sectors, what lies on it, who last wrote when, who holds a reservation. */
    serial: z.string().default(''),
    size: bytes.default(0),
    sector: count.default(0),
    holds: z.string().nullable().default(null),
    writtenAt: instant.nullable().default(null),
    reservedBy: z.string().nullable().default(null),
    inspectedAt: instant.nullable().default(null),
    foundAt: instant,
    /** While it stands behind the array like a drive. */
    drive: id.nullable().default(null),
    /** The volume that hosts get instead. */
    front: id.nullable().default(null),
    /** Who was shown it before it was taken behind the array, so that it can be given back. */
    formerly: z
      .array(z.object({ host: id, lun: count, access: z.enum(['read-write', 'read-only']) }))
      .max(256)
      .default([]),
    log: z
      .array(z.object({ at: instant, says: z.string() }))
      .max(40)
      .default([]),
  }),
  refers: {
    array: to('array'),
    volume: goesWith('volume'),
    drive: to('drive', { by: 'drive' }),
    front: to('volume', { by: 'front' }),
  },
  named: 'array',
  unique: [{ fields: ['array', 'volume'], by: 'volume' }],
  searched: { serial: 'serial' },
});
export type OutsideLun = RowOf<typeof outsideLunKind>;
