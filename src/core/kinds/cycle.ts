import { z } from 'zod';
import { id, instant } from './fields';
import { goesWith, kind, type RowOf } from './kind';

/** A cycle of a replication that has ended. */
export const cycleKind = kind({
  words: ['cycle of a replication', 'cycles of replications'],
  prefix: 'cyc',
  path: 'cycles',
  row: z.object({
    id,
    replication: id,
    pit: instant,
    startedAt: instant,
    finishedAt: instant,
    changed: z.number().min(0),
    wire: z.number().min(0),
    /** Lag before and after, milliseconds. */
    lagBefore: z.number().min(0),
    lagAfter: z.number().min(0),
    result: z.enum(['done', 'failed']),
    reason: z.string().nullable().default(null),
  }),
  refers: { replication: goesWith('replication') },
});
export type Cycle = RowOf<typeof cycleKind>;
