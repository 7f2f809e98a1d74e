import { z } from 'zod';
import { id, name, upDown } from './fields';
import { kind, to, type RowOf } from './kind';

/** The third voice that decides which site of a stretched volume goes on. It holds one register for each of them. */
export const witnessKind = kind({
  words: ['witness', 'witnesses'],
  prefix: 'wit',
  path: 'witnesses',
  row: z.object({
    id,
    name,
    site: id,
    state: upDown.default('up'),
    notes: z.string().default(''),
  }),
  refers: { site: to('site') },
  named: '',
  searched: {},
});
export type Witness = RowOf<typeof witnessKind>;
