import { z } from 'zod';
import { id, name, upDown } from './fields';
import { kind, type RowOf } from './kind';

/** An iSNS server (RFC 4171). */
export const nameServerKind = kind({
  words: ['name server', 'name servers'],
  prefix: 'isns',
  path: 'name-servers',
  row: z.object({
    id,
    name,
    ip: z.string(),
    state: upDown,
    /** Nodes that are in no domain see each other. */
    defaultDomain: z.boolean().default(false),
    /** iSCSI names of control nodes, which see all that is registered. */
    controlNodes: z.array(z.string()).default([]),
  }),
  named: '',
});
export type NameServer = RowOf<typeof nameServerKind>;
