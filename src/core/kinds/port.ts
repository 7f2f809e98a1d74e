import { z } from 'zod';
import { count, id, ipAddress, name, tcpPort, transports, upDown } from './fields';
import { kind, to, type RowOf } from './kind';

export const portKind = kind({
  words: ['array port', 'array ports'],
  prefix: 'port',
  path: 'ports',
  row: z.object({
    id,
    name,
    array: id,
    controller: id,
    kind: z.enum(['fc', 'ethernet']),
    role: z.enum(['none', ...transports]),
    /** Gb/s as the port is named. */
    speed: z.number().positive(),
    wwpn: z.string().nullable(),
    /** Where its cable ends; null where it has none. */
    switch: id.nullable().default(null),
    switchPort: count.default(0),
    vlan: count.max(4094).nullable().default(null),
    gateway: z.string().nullable().default(null),
    /** Commands it takes at a time before it answers TASK SET FULL (SAM). */
    commandLimit: count.min(1).default(2048),
    addresses: z.array(ipAddress),
    mtu: z.number().int().min(576).max(65535),
    portalGroup: count.max(65535),
    /** TCP port it listens at; null for the usual one of its role. */
    tcpPort: tcpPort.nullable().default(null),
    state: upDown,
  }),
  refers: {
    array: to('array'),
    switch: to('switch'),
    controller: to('controller'),
  },
  named: 'array',
  once: ['wwpn'],
  indexes: {
    ip: (r) => r.addresses.map((a) => a.ip),
  },
  searched: { wwpn: 'WWPN' },
});
export type Port = RowOf<typeof portKind>;
