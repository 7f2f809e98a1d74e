import { z } from 'zod';
import { count, id, upDown } from './fields';
import { kind, to, type RowOf } from './kind';

export const enclosureKind = kind({
  words: ['enclosure', 'enclosures'],
  prefix: 'enc',
  path: 'enclosures',
  row: z.object({
    id,
    array: id,
    number: count,
    slots: count,
    state: upDown.default('up'),
    /** The outside array whose LUNs stand in it like drives; null for one of metal. */
    outside: id.nullable().default(null),
  }),
  refers: {
    array: to('array'),
    outside: to('array'),
  },
  unique: [{ fields: ['array', 'number'], by: 'array' }],
});
export type Enclosure = RowOf<typeof enclosureKind>;
