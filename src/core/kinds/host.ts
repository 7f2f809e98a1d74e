import { z } from 'zod';
import { count, digestOffers, id, name, pathSelectors, sealed } from './fields';
import { kind, to, type RowOf } from './kind';

export const osFamilies = ['linux', 'bsd', 'unix', 'hypervisor'] as const;

export const applications = ['none', 'database', 'files', 'machines', 'mail', 'other'] as const;
/** `none` is installed nowhere; the others answer, do not answer, take too long to pause, or never tell that they go on. */
export const agentStates = ['none', 'ready', 'absent', 'slow', 'silent'] as const;

export const hostKind = kind({
  words: ['host', 'hosts'],
  prefix: 'host',
  path: 'hosts',
  row: z.object({
    id,
    name,
    site: id,
    cluster: id.nullable(),
    os: z.enum(osFamilies),
    /** The IQN the host really sends at login; access is decided by comparing it with the initiators on record. */
    presents: z.string().nullable(),
    /** The host NQN it really sends, and its host identifier of 128 bits (NVM Express). */
    nqn: z.string().nullable().default(null),
    hostNqnId: z.string().nullable().default(null),
    /** Finds iSCSI targets by asking portals, or a name server. */
    discovery: z.enum(['addresses', 'isns']).default('addresses'),
    /** Logs in by itself at every target it may use; else only where it was told to. */
    autoLogin: z.boolean().default(true),
    /** Looks again by itself when an array says that LUNs have changed. */
    autoRescan: z.boolean().default(false),
    /** Makes one device of all paths to one identity. */
    multipath: z.boolean().default(true),
    selector: z.enum(pathSelectors).default('round-robin'),
    /** What it proves itself with, and what it expects arrays to prove themselves with. */
    chapName: z.string().default(''),
    chapSecret: sealed,
    targetSecret: sealed,
    headerDigest: z.enum(digestOffers).default('either'),
    dataDigest: z.enum(digestOffers).default('either'),
    /** Connections of one iSCSI session that it asks for (RFC 7143 MaxConnections). */
    connections: count.min(1).max(65535).default(1),
    /** I/O queues it asks of an NVMe controller: as many as it has processors. */
    ioQueues: count.min(1).max(65_535).default(8),
    /** Commands outstanding: a LUN, and an adapter at most. */
    queueDepth: count.min(1).default(32),
    commandLimit: count.min(1).default(1024),
    /** Keep-alive time-out, wait between reconnects, loss of a path (0 for never), wait of I/O without any path (0 for none at all); milliseconds. */
    keepAlive: count.default(5_000),
    reconnectDelay: count.default(10_000),
    lossTime: count.default(600_000),
    noPathWait: count.default(60_000),
    /** Failover goes back to a path of greater weight once that one is there again; else it stays where it is. */
    failback: z.boolean().default(true),
    /** How often it was restarted: each time all its sessions end and begin anew. */
    restarts: count.default(0),
    /** What runs on it and uses its volumes, and how the small program there answers that can pause it. */
    application: z.enum(applications).default('none'),
    agent: z.enum(agentStates).default('none'),
  }),
  refers: {
    site: to('site'),
    cluster: to('cluster'),
  },
  named: '',
  searched: {},
});
export type Host = RowOf<typeof hostKind>;
export type AgentState = (typeof agentStates)[number];
export type Application = (typeof applications)[number];
export type OsFamily = (typeof osFamilies)[number];
