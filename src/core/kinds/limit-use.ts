import { id } from './fields';
import { goesWith, kind, type RowOf } from './kind';
import { z } from 'zod';

/** What a limit is put on: one volume, all volumes of a workload, all that a host works with, or all that a consumer took. One of them is set. */
export const limitUseKind = kind({
  words: ['use of a limit', 'uses of limits'],
  prefix: 'luse',
  path: 'limit-uses',
  row: z.object({
    id,
    loadLimit: id,
    volume: id.nullable().default(null),
    workload: id.nullable().default(null),
    host: id.nullable().default(null),
    allotment: id.nullable().default(null),
  }),
  refers: {
    loadLimit: goesWith('loadLimit'),
    volume: goesWith('volume'),
    workload: goesWith('workload'),
    host: goesWith('host'),
    allotment: goesWith('allotment'),
  },
});
export type LimitUse = RowOf<typeof limitUseKind>;
