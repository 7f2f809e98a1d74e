import { z } from 'zod';
import { count, id } from './fields';
import { kind, to, type RowOf } from './kind';

export const mappingKind = kind({
  words: ['mapping', 'mappings'],
  prefix: 'map',
  path: 'mappings',
  row: z.object({
    id,
    host: id,
    volume: id,
    lun: count.max(16_777_215),
    access: z.enum(['read-write', 'read-only']),
    /** Array ports that show the volume; null stands for every port the host can reach. */
    ports: z.array(id).nullable(),
    /** The cluster it was made for: its members come and go with it. */
    cluster: id.nullable().default(null),
    /** Shown by this iSCSI target; null for the array's main one, and for Fibre Channel. */
    target: id.nullable().default(null),
    /** Shown as a namespace of this subsystem; `lun` is the namespace ID. */
    subsystem: id.nullable().default(null),
  }),
  refers: {
    target: to('target'),
    host: to('host'),
    volume: to('volume'),
    ports: to('port', { by: 'port' }),
    cluster: to('cluster'),
    subsystem: to('subsystem'),
  },
  unique: [{ fields: ['host', 'volume'], by: 'volume' }],
});
export type Mapping = RowOf<typeof mappingKind>;
