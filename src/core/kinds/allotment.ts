import { z } from 'zod';
import { bytes, count, id, name } from './fields';
import { kind, to, type RowOf } from './kind';

/** Capacity and service classes set aside for one consumer, over several pools; counted on provisioned size. */
export const allotmentKind = kind({
  words: ['allotment', 'allotments'],
  prefix: 'alt',
  path: 'allotments',
  row: z.object({
    id,
    /** The consumer: a team or an application. */
    name,
    /** Who may give from it. */
    contact: z.string().default(''),
    bytes: bytes.min(1),
    /** Most volumes; null for any number. */
    volumes: count.nullable().default(null),
    /** Pools of which it may take so much at the most, in the same order; of others as much as there is left. */
    pools: z.array(id).default([]),
    poolBytes: z.array(bytes).default([]),
    /** It takes only from pools that fit one of these; none for any pool. */
    classes: z.array(id).default([]),
    notes: z.string().default(''),
  }),
  refers: { pools: to('pool', { by: 'pools' }), classes: to('serviceClass', { by: 'classes' }) },
  named: '',
  searched: {},
});
export type Allotment = RowOf<typeof allotmentKind>;
