import { z } from 'zod';
import { id, name } from './fields';
import { kind, to, type RowOf } from './kind';

/** A zone as the switches enforce it: a copy made at activation, with aliases resolved. */
export const activeZoneKind = kind({
  words: ['active zone', 'active zones'],
  prefix: 'act',
  path: 'active-zones',
  row: z.object({
    id,
    fabric: id,
    name,
    kind: z.enum(['ordinary', 'peer']).default('ordinary'),
    members: z.array(z.string()),
    principals: z.array(z.string()).default([]),
  }),
  refers: {
    fabric: to('fabric'),
  },
  named: 'fabric',
  indexes: {
    member: (r) => [...r.members, ...r.principals].map((member) => `${r.fabric} ${member}`),
  },
});
export type ActiveZone = RowOf<typeof activeZoneKind>;
