import { z } from 'zod';
import { count, id, upDown } from './fields';
import { kind, to, type RowOf } from './kind';

export const enclosureKind = kind({
  words: ['enclosure', 'enclosures'],
  prefix: 'enc',
  path: 'enclosures',
  row: z.object({ id, array: id, number: count, slots: count, state: upDown.default('up') }),
  refers: {
    array: to('array'),
  },
  unique: [{ fields: ['array', 'number'], by: 'array' }],
});
export type Enclosure = RowOf<typeof enclosureKind>;
