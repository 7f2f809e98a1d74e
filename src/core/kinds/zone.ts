import { z } from 'zod';
import { id, name } from './fields';
import { kind, to, type RowOf } from './kind';

export const zoneKind = kind({
  words: ['zone', 'zones'],
  prefix: 'zone',
  path: 'zones',
  row: z.object({
    id,
    fabric: id,
    name,
    kind: z.enum(['ordinary', 'peer']).default('ordinary'),
    /** All members of an ordinary zone; the peers of a peer zone. */
    members: z.array(z.string()),
    principals: z.array(z.string()).default([]),
  }),
  refers: {
    fabric: to('fabric'),
  },
  named: 'fabric',
  searched: {},
});
export type Zone = RowOf<typeof zoneKind>;
