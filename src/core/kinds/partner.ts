import { z } from 'zod';
import { bytes, count, id, instant, name, sealed } from './fields';
import { kind, to, type RowOf } from './kind';

/** What one array knows of another with which it copies: each side has such a row of its own, and both must agree. */
export const partnerKind = kind({
  words: ['partner', 'partners'],
  prefix: 'ptn',
  path: 'partners',
  row: z.object({
    id,
    /** What the array calls the other one. */
    name,
    array: id,
    peer: id,
    /** Where the other one answers; one of them is enough. */
    addresses: z.array(z.string()).min(1),
    /** Whom to call there. */
    contact: z.string().default(''),
    /** What this array proves itself with, and what it expects of the other. */
    shownSecret: sealed,
    expectedSecret: sealed,
    /** Until when what it shows holds; null for ever. */
    secretUntil: instant.nullable().default(null),
    /** That moment is over. */
    ended: z.boolean().default(false),
    /** Pools that the other may use, and how many bytes of each, in the same order. */
    offered: z.array(id).default([]),
    offeredBytes: z.array(bytes).default([]),
    /** What it may use in all: bytes, volumes, until when; null for no limit. */
    quotaBytes: bytes.nullable().default(null),
    quotaVolumes: count.nullable().default(null),
    quotaUntil: instant.nullable().default(null),
    /** When it was introduced, or last changed. */
    since: instant,
  }),
  refers: {
    array: to('array'),
    peer: to('array', { by: 'peer' }),
    offered: to('pool', { by: 'offered' }),
  },
  named: 'array',
  unique: [{ fields: ['array', 'peer'], by: 'array' }],
});
export type Partner = RowOf<typeof partnerKind>;
