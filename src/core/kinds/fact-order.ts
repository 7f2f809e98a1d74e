import { z } from 'zod';
import { id, name } from './fields';
import { kind, type RowOf } from './kind';

/** Words of a key of facts from low to high, such as one-box, two-box, two-room. */
export const factOrderKind = kind({
  words: ['order of words', 'orders of words'],
  prefix: 'ord',
  path: 'fact-orders',
  row: z.object({
    id,
    /** The key whose words they are. */
    name,
    words: z.array(z.string().min(1).max(60)).min(2),
  }),
  named: '',
});
export type FactOrder = RowOf<typeof factOrderKind>;
