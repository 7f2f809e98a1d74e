import { z } from 'zod';
import { id, instant } from './fields';
import { goesWith, kind, type RowOf } from './kind';

/** What a person says of a pool, or of one volume against what its pool says. One of the two is set. */
export const declaredFactKind = kind({
  words: ['declared fact', 'declared facts'],
  prefix: 'fact',
  path: 'declared-facts',
  row: z.object({
    id,
    pool: id.nullable().default(null),
    volume: id.nullable().default(null),
    key: z.string().min(1).max(40),
    /** As it is written: `52`, `Nordkai`, `yes`, or a set `compression, dedupe`. */
    value: z.string().min(1).max(200),
    /** Why, of a volume that differs from its pool. */
    reason: z.string().default(''),
    declaredAt: instant,
  }),
  refers: { pool: goesWith('pool'), volume: goesWith('volume') },
});
export type DeclaredFact = RowOf<typeof declaredFactKind>;
