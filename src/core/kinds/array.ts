import { z } from 'zod';
import { bytes, id, instant, name, tcpPort, wwn } from './fields';
import { kind, to, type RowOf } from './kind';

export const arrayKind = kind({
  words: ['array', 'arrays'],
  prefix: 'arr',
  path: 'arrays',
  row: z.object({
    id,
    name,
    site: id,
    model: name,
    companyId: z.string().regex(/^[0-9a-f]{6}$/),
    /** Node name, one for the whole array (FC-FS). */
    wwnn: wwn.nullable().default(null),
    /** Whether a controller that does not own a volume serves it second best, or as well. */
    pathAccess: z.enum(['asymmetric', 'symmetric']).default('asymmetric'),
    /** Bytes a second that its controllers give to one rebuild; null for as much as the drives take. */
    rebuildBudget: bytes.min(1).nullable().default(null),
    /** How far its clock is from the time that has passed, milliseconds; locks do not go by it where it is ahead. */
    clockOff: z.number().default(0),
    /** Other NVMe discovery services that its own refers hosts to (NVM Express, discovery log, subtype 1). */
    referrals: z.array(z.object({ ip: z.string(), service: tcpPort })).default([]),
    /** Since when none of its controllers is up; null while it answers. */
    silentSince: instant.nullable().default(null),
    /** Known only by what it shows over the fabric: nothing is carved on it here. */
    outside: z.boolean().default(false),
  }),
  refers: {
    site: to('site'),
  },
  named: '',
  searched: {},
});
export type ArrayRow = RowOf<typeof arrayKind>;
