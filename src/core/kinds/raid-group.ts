import { z } from 'zod';
import { bytes, count, id, instant, name, priorities } from './fields';
import { kind, to, type RowOf } from './kind';

export const raidLevels = [
  'raid0',
  'raid1',
  'raid10',
  'raid5',
  'raid50',
  'raid6',
  'raid60',
  'triple-parity',
  'distributed',
] as const;

export const raidGroupKind = kind({
  words: ['RAID group', 'RAID groups'],
  prefix: 'rg',
  path: 'raid-groups',
  row: z.object({
    id,
    name,
    array: id,
    level: z.enum(raidLevels),
    chunk: bytes,
    /** Members in stripe order. */
    drives: z.array(id).min(1),
    /** What each member contributes. */
    memberSize: bytes,
    usable: bytes,
    pool: id.nullable(),
    copies: count.min(1).default(1),
    legs: count.min(1).default(1),
    /** Data and parity strips of one stripe (of one leg). */
    data: count.min(1),
    parity: count,
    spareColumns: count.default(0),
    /** Of the permutations of a distributed group. */
    seed: count.default(0),
    /** Failed members whose data has moved into distributed spare space, in the order of their failures. */
    moved: z.array(id).default([]),
    /** Of its background jobs. */
    priority: z.enum(priorities).default('normal'),
    /** Being emptied: nothing new is placed here. */
    draining: z.boolean().default(false),
    scrubbedAt: instant.default(0),
    /** Failures that what lies under it survives, as somebody declares of an outside array; null where its drives are seen. */
    declared: count.max(3).nullable().default(null),
  }),
  refers: {
    array: to('array'),
    drives: to('drive', { by: null }),
    pool: to('pool'),
  },
  named: 'array',
  searched: {},
});
export type RaidGroup = RowOf<typeof raidGroupKind>;
export type RaidLevel = (typeof raidLevels)[number];
