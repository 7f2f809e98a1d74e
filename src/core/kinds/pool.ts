import { z } from 'zod';
import { bytes, id, instant, name } from './fields';
import { kind, to, type RowOf } from './kind';

export const poolKind = kind({
  words: ['pool', 'pools'],
  prefix: 'pool',
  path: 'pools',
  row: z.object({
    id,
    name,
    array: id,
    extentSize: bytes.min(4096),
    /** Fill marks, per cent. */
    notice: z.number().int().min(1).max(100).default(70),
    urgent: z.number().int().min(1).max(100).default(90),
    /** Most that may be promised, per cent of the size; null sets no limit. */
    subscriptionLimit: z.number().int().min(1).max(100_000).nullable().default(null),
    /** Kept back for metadata, snapshots and emptying groups, per cent. */
    reserve: z.number().min(0).max(50).default(1),
    /** When nothing is left: only writes that need new extents fail, or all thin volumes take no more writes. */
    whenFull: z.enum(['fail-new-writes', 'stop-thin-writes']).default('fail-new-writes'),
    /** Who is told when a mark is crossed; empty when nobody. */
    alertTo: z.string().default(''),
    /** The highest fill mark it was told to be past. */
    mark: z.enum(['none', 'notice', 'warning', 'urgent']).default('none'),
    compression: z.boolean().default(false),
    dedupe: z.enum(['off', 'inline', 'scheduled']).default('off'),
    encryption: z.boolean().default(false),
    /** Reduction counted on when the pool was bought, such as 1.8; null when none. */
    plannedReduction: z.number().min(1).nullable().default(null),
    dedupedAt: instant.nullable().default(null),
    /** Hours of the day between which extents move by heat, every day; null for when somebody asks. */
    heatFrom: z.number().int().min(0).max(23).nullable().default(null),
    heatUntil: z.number().int().min(0).max(23).nullable().default(null),
    /** Most bytes a second that such moves take; null for what its groups can spare. */
    heatRate: z.number().positive().max(1e13).nullable().default(null),
    /** No pool, but the room of one RAID group from which thick volumes are carved straight. */
    direct: z.boolean().default(false),
  }),
  refers: {
    array: to('array'),
  },
  named: 'array',
  searched: {},
});
export type Pool = RowOf<typeof poolKind>;
