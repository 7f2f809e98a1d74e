import { z } from 'zod';
import { accessLevels, count, digestOffers, id, name, sealed, tcpPort } from './fields';
import { kind, to, type RowOf } from './kind';

/** What a target may demand of initiators at login: nothing, CHAP, or CHAP of both sides. */
export const proofs = ['none', 'one-way', 'mutual'] as const;

/** An iSCSI target of an array. */
export const targetKind = kind({
  words: ['target', 'targets'],
  prefix: 'tgt',
  path: 'iscsi-targets',
  row: z.object({
    id,
    /** Its alias. */
    name,
    array: id,
    iqn: z.string(),
    /** Shows what mappings show that name no target; an array has one such at most. */
    main: z.boolean().default(false),
    /** Off: it answers no login. */
    enabled: z.boolean().default(true),
    /** Where it answers, with the TCP port and the portal group tag where they are not the port's own; null for every iSCSI port. */
    portals: z
      .array(
        z.object({ port: id, tcp: tcpPort.nullable().default(null), group: count.max(65535).nullable().default(null) }),
      )
      .nullable()
      .default(null),
    /** Lets initiators in whose name nobody has on record. */
    anyone: z.boolean().default(false),
    /** What an initiator may that no rule names. */
    usual: z.enum(accessLevels).default('read-write'),
    /** Exceptions: by initiator name, host name, address or prefix; `auth` null leaves what the target demands. */
    rules: z
      .array(z.object({ who: z.string(), level: z.enum(accessLevels), auth: z.enum(proofs).nullable().default(null) }))
      .default([]),
    /** What initiators must prove at login. */
    auth: z.enum(proofs).default('none'),
    /** Who judges the proof: the array by its own records, or an authentication server. */
    authServer: id.nullable().default(null),
    /** CHAP names with their secrets, which hold at this target before those of initiators on record. */
    accounts: z.array(z.object({ name: z.string(), secret: z.string() })).default([]),
    /** By which it proves itself. */
    chapName: z.string().default(''),
    chapSecret: sealed,
    headerDigest: z.enum(digestOffers).default('either'),
    dataDigest: z.enum(digestOffers).default('either'),
    /** Most sessions at a time, null for no limit, and connections of one session (RFC 7143 MaxConnections). */
    sessionLimit: count.min(1).nullable().default(null),
    maxConnections: count.min(1).max(65535).default(1),
    /** Registers with the name servers (RFC 4171). */
    isns: z.boolean().default(true),
  }),
  refers: {
    array: to('array'),
    authServer: to('authServer'),
  },
  named: 'array',
  once: ['iqn'],
  searched: { iqn: 'IQN' },
});
export type Target = RowOf<typeof targetKind>;
export type Proof = (typeof proofs)[number];
