import { z } from 'zod';
import { count, id, instant, priorities } from './fields';
import { goesWith, kind, type RowOf } from './kind';
import { workNames } from './work-words';

/** Work that takes time: `done` of `total` bytes at `asOf`, the rest at `rate`. */
export const jobKind = kind({
  words: ['job', 'jobs'],
  prefix: 'job',
  path: 'jobs',
  row: z.object({
    id,
    kind: z.enum(workNames),
    array: id,
    raidGroup: id.nullable(),
    pool: id.nullable().default(null),
    volume: id.nullable().default(null),
    drive: id.nullable(),
    /** Other drives it concerns: those that join by an expansion, the one a copy is made of. */
    partners: z.array(id).default([]),
    priority: z.enum(priorities).default('normal'),
    total: count.default(0),
    done: count.default(0),
    asOf: instant,
    rate: z.number().min(0).default(0),
    startedAt: instant,
    finishesAt: instant,
    /** Stands still while no controller of its array is up; goes on from what is done. */
    paused: z.boolean().default(false),
  }),
  refers: {
    array: goesWith('array'),
    raidGroup: goesWith('raidGroup'),
    pool: goesWith('pool'),
    volume: goesWith('volume'),
    drive: goesWith('drive'),
    partners: goesWith('drive'),
  },
});
export type Job = RowOf<typeof jobKind>;
export type JobKind = (typeof workNames)[number];
