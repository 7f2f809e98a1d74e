import { z } from 'zod';
import { bytes, count, id, name } from './fields';
import { kind, to, type RowOf } from './kind';
import { requestRule } from './request-rule';

/** Several volumes of one request: over the pools as they stay freest, into as few as they fill, into one, or a pool for each. */
export const keepings = ['spread', 'fill', 'together', 'apart'] as const;
export type Keeping = (typeof keepings)[number];

/** What somebody asks a place for, kept under a name to be asked again. */
export const keptRequestKind = kind({
  words: ['request', 'requests'],
  prefix: 'req',
  path: 'requests',
  row: z.object({
    id,
    name,
    /** Of each volume. */
    bytes: bytes.min(1),
    volumes: count.min(1).max(1000).default(1),
    /** I/O a second of each volume (see `COUNTED_IO`). */
    iops: z.number().min(0).max(1e9).default(0),
    keeping: z.enum(keepings).default('spread'),
    /** Whose rules count beside its own. */
    serviceClass: id.nullable().default(null),
    rules: z.array(requestRule).default([]),
    /** With a copy at an array that its own is introduced to. */
    replica: z.boolean().default(false),
    notes: z.string().default(''),
  }),
  refers: { serviceClass: to('serviceClass') },
  named: '',
  searched: {},
});
export type KeptRequest = RowOf<typeof keptRequestKind>;
