import { z } from 'zod';
import { count, id, instant, name } from './fields';
import { kind, type RowOf } from './kind';

export const fabricKind = kind({
  words: ['fabric', 'fabrics'],
  prefix: 'fab',
  path: 'fabrics',
  row: z.object({
    id,
    name,
    /** Whether devices in no active zone may talk to each other. */
    defaultZone: z.enum(['deny', 'permit']).default('deny'),
    mergeControl: z.enum(['allow', 'restrict']).default('allow'),
    /** Name of the active zone set; null while none is active. */
    activeSet: z.string().nullable().default(null),
    activatedAt: instant.nullable().default(null),
    /** Time-outs every switch of a fabric must share, milliseconds (FC-FS R_A_TOV, E_D_TOV). */
    raTov: count.default(10_000),
    edTov: count.default(2_000),
    /** How zones made for a host and an array are called. */
    zonePattern: z.string().default('<host>_<hostport>__<array>'),
    aliasPattern: z.string().default('<host>_<hostport>'),
  }),
  named: '',
  searched: {},
});
export type Fabric = RowOf<typeof fabricKind>;
