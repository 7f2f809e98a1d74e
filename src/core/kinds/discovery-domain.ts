import { z } from 'zod';
import { id, name } from './fields';
import { kind, type RowOf } from './kind';

export const discoveryDomainKind = kind({
  words: ['discovery domain', 'discovery domains'],
  prefix: 'dd',
  path: 'discovery-domains',
  row: z.object({
    id,
    name,
    /** iSCSI names. */
    members: z.array(z.string()),
    /** `ip:port`; where a domain names portals of a target, only those are offered. */
    portals: z.array(z.string()).default([]),
  }),
  named: '',
  indexes: {
    member: (r) => r.members,
  },
});
export type DiscoveryDomain = RowOf<typeof discoveryDomainKind>;
