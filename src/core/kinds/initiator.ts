import { z } from 'zod';
import { id, sealed } from './fields';
import { goesWith, kind, type RowOf } from './kind';

/** A name by which arrays let the host in: an IQN, a host NQN, or a WWPN of 16 digits. */
export const initiatorKind = kind({
  words: ['initiator', 'initiators'],
  prefix: 'ini',
  path: 'initiators',
  row: z.object({
    id,
    host: id,
    name: z.string(),
    /** What arrays expect it to prove itself with. */
    chapName: z.string().default(''),
    chapSecret: sealed,
  }),
  refers: {
    host: goesWith('host'),
  },
  unique: [{ fields: ['name'], by: 'iqn' }],
  indexes: {
    iqn: (r) => [r.name],
  },
  searched: {},
});
export type Initiator = RowOf<typeof initiatorKind>;
