import { z } from 'zod';
import { count, id, name } from './fields';
import { kind, to, type RowOf } from './kind';

const rate = z.number().positive().max(1e9);

/**
 * How much hosts may ask of an array, how much they are promised, and how they share: for every volume it is put on by itself, or for all of
 * them together. The tightest of those on a volume applies.
 */
export const loadLimitKind = kind({
  words: ['limit', 'limits'],
  prefix: 'lim',
  path: 'limits',
  row: z.object({
    id,
    name,
    array: id,
    /** Most I/O a second, counted in operations of 64 KiB; null for no limit. */
    iops: rate.nullable().default(null),
    /** Most bytes a second. */
    bytesPerS: z.number().positive().max(1e13).nullable().default(null),
    /** I/O a second by size, kept between the two ends; null where it does not go by size. */
    iopsPerGiB: rate.nullable().default(null),
    leastIops: z.number().min(0).max(1e9).default(0),
    mostIops: rate.nullable().default(null),
    /** Operations that may be saved up and spent at once. */
    burst: count.default(0),
    /** I/O a second that each volume is promised. */
    floor: rate.nullable().default(null),
    /** How much its volumes get beside others, where not all can be served. */
    weight: z.number().positive().max(1000).default(1),
    /** The figures are for all its volumes together. */
    shared: z.boolean().default(false),
    /** Hours of the day from which and until which it holds; null for all day. */
    fromHour: z.number().int().min(0).max(23).nullable().default(null),
    untilHour: z.number().int().min(0).max(23).nullable().default(null),
    notes: z.string().default(''),
  }),
  refers: { array: to('array') },
  named: 'array',
  searched: {},
});
export type LoadLimit = RowOf<typeof loadLimitKind>;
