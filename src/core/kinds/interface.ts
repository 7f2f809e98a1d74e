import { z } from 'zod';
import { count, id, ipAddress, name, upDown, wwn } from './fields';
import { goesWith, kind, to, type RowOf } from './kind';

/** A port of a host: Ethernet, or Fibre Channel. One that has logged in but belongs to no host yet names none. */
export const interfaceKind = kind({
  words: ['host port', 'host ports'],
  prefix: 'if',
  path: 'interfaces',
  row: z.object({
    id,
    host: id.nullable(),
    name,
    kind: z.enum(['ethernet', 'fc']).default('ethernet'),
    addresses: z.array(ipAddress),
    mtu: z.number().int().min(576).max(65535),
    state: upDown,
    /** Gb/s. */
    speed: z.number().positive().default(25),
    /** The card it sits on; ports of one card fall together. */
    adapter: z.string().default(''),
    wwpn: wwn.nullable().default(null),
    wwnn: wwn.nullable().default(null),
    switch: id.nullable().default(null),
    switchPort: count.default(0),
    vlan: count.max(4094).nullable().default(null),
    gateway: z.string().nullable().default(null),
    /** Bound to iSCSI: sessions leave by it, which takes exactly one active uplink. */
    bound: z.boolean().default(false),
    /** Initiator part of its session identifiers (ISID, RFC 7143 §11.12.5), 12 digits; null where it follows from its own. */
    isid: z
      .string()
      .regex(/^[0-9a-f]{12}$/)
      .nullable()
      .default(null),
    /** Uplinks beneath it; empty where it is its own. */
    uplinks: z.array(z.object({ name, use: z.enum(['active', 'standby', 'unused']) })).default([]),
  }),
  refers: {
    host: goesWith('host'),
    switch: to('switch'),
  },
  once: ['wwpn'],
  unique: [{ fields: ['host', 'name'], by: 'host' }],
  indexes: {
    ip: (r) => r.addresses.map((a) => a.ip),
    /** Logged in somewhere, and nobody's yet. */
    unclaimed: (r) => (r.host === null ? [''] : []),
  },
  searched: { wwpn: 'WWPN', wwnn: 'node name' },
});
export type HostInterface = RowOf<typeof interfaceKind>;
