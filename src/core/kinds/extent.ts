import { z } from 'zod';
import { count, id } from './fields';
import { goesWith, kind, to, type RowOf } from './kind';

/**
 * A run of extents: `count` extents of a RAID group, from `start`, hold the volume's extents from `at`, belong to the reduced `store`
 * of a pool, or to what the `copies` of a volume keep apart.
 */
export const extentKind = kind({
  words: ['extent run', 'extent runs'],
  prefix: 'ext',
  path: 'extents',
  row: z.object({
    id,
    volume: id.nullable(),
    store: id.nullable().default(null),
    copies: id.nullable().default(null),
    raidGroup: id,
    start: count,
    count: count.min(1),
    at: count,
  }),
  refers: {
    volume: goesWith('volume'),
    store: goesWith('pool'),
    copies: goesWith('volume'),
    raidGroup: to('raidGroup'),
  },
});
export type ExtentRun = RowOf<typeof extentKind>;
