import { z } from 'zod';
import { id, name } from './fields';
import { kind, to, type RowOf } from './kind';

export const zoneSetKind = kind({
  words: ['zone set', 'zone sets'],
  prefix: 'zset',
  path: 'zone-sets',
  row: z.object({ id, fabric: id, name, zones: z.array(id) }),
  refers: {
    fabric: to('fabric'),
    zones: to('zone', { by: 'zone' }),
  },
  named: 'fabric',
  searched: {},
});
export type ZoneSet = RowOf<typeof zoneSetKind>;
