import { z } from 'zod';
import { count, id, name, upDown } from './fields';
import { kind, to, type RowOf } from './kind';

export const switchKind = kind({
  words: ['switch', 'switchs'],
  prefix: 'sw',
  path: 'switches',
  row: z.object({
    id,
    name,
    fabric: id,
    site: id,
    /** FCIDs of its ports begin with it. */
    domain: z.number().int().min(1).max(239),
    ports: count.min(1),
    /** Gb/s of its ports. */
    speed: z.number().positive(),
    state: upDown,
  }),
  refers: {
    fabric: to('fabric'),
    site: to('site'),
  },
  named: '',
});
export type Switch = RowOf<typeof switchKind>;
