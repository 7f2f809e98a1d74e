import { z } from 'zod';
import { count, id, name, upDown } from './fields';
import { kind, to, type RowOf } from './kind';

export const networkKind = kind({
  words: ['network', 'networks'],
  prefix: 'net',
  path: 'networks',
  row: z.object({
    id,
    name,
    site: id,
    cidr: z.string(),
    mtu: z.number().int().min(576).max(65535),
    state: upDown,
    vlan: count.max(4094).default(0),
    /** Networks that a router joins to this one. */
    routes: z.array(id).default([]),
  }),
  refers: {
    site: to('site'),
    routes: to('network', { by: null }),
  },
  named: '',
  searched: { cidr: 'subnet' },
});
export type Network = RowOf<typeof networkKind>;
