import { z } from 'zod';
import { MAX_BYTES } from '../units/bytes';

const id = z.string().min(1).max(64);
const name = z.string().min(1).max(128);
const bytes = z.number().int().min(0).max(MAX_BYTES);
const count = z.number().int().min(0).max(MAX_BYTES);
const instant = z.number().min(0);
const upDown = z.enum(['up', 'down']);
const tcpPort = z.number().int().min(1).max(65535);

export const raidLevels = [
  'raid0',
  'raid1',
  'raid10',
  'raid5',
  'raid50',
  'raid6',
  'raid60',
  'triple-parity',
  'distributed',
] as const;
/** From the fastest to the slowest. */
export const mediaClasses = ['ssd-nvme', 'ssd-sas', 'ssd-sata', 'hdd-15k', 'hdd-10k', 'hdd-7k'] as const;
export const priorities = ['low', 'normal', 'high'] as const;
export const squeezes = ['text', 'database', 'image', 'media'] as const;
export const jobKinds = [
  'raid-initialise',
  'raid-rebuild',
  'raid-copy-back',
  'raid-expand',
  'raid-scrub',
  'drive-copy',
  'drive-erase',
  'pool-drain',
  'pool-rebalance',
  'pool-dedupe',
  'volume-convert',
] as const;
export const osFamilies = ['linux', 'bsd', 'unix', 'hypervisor'] as const;
export const transports = ['fc', 'iscsi', 'nvme-tcp'] as const;
/** How a host spreads I/O over the paths of a device. */
export const pathSelectors = ['failover', 'round-robin', 'queue-depth', 'service-time'] as const;
/** Which checksums an end offers, in order: none, CRC32C, or CRC32C and else none (RFC 7143 §13.1). */
export const digestOffers = ['none', 'crc32c', 'either'] as const;
export const accessLevels = ['read-write', 'read-only', 'none'] as const;
/** What a target may demand of initiators at login: nothing, CHAP, or CHAP of both sides. */
export const proofs = ['none', 'one-way', 'mutual'] as const;

/** Runs of bytes `[start, end)`, ascending, whole pages, with room between them. */
/** The two ends of a path: an interface of a host, a port of an array. */
const pathEnds = z.object({ interface: id, port: id });
export const byteRuns = z.array(z.tuple([bytes, bytes]));

/**
 * What hosts write to a volume, as the stand-ins make it up: of every weave of 120 pages `zero` are zeros and `common` come from the
 * template `family`, which repeats after `span` bytes; the rest is the volume's own.
 */
export const contentProfile = z.object({
  family: z.string().nullable().default(null),
  zero: count.max(120).default(0),
  common: count.max(120).default(0),
  span: bytes.default(0),
  squeeze: z.enum(squeezes).default('database'),
  /** Hosts rewrite one common page of every weave in so many days, which makes it the volume's own; 0 for never. */
  driftDays: count.default(0),
});

/** 64-bit name of a Fibre Channel port or node (FC-FS Name_Identifier), 16 digits. */
const wwn = z.string().regex(/^[0-9a-f]{16}$/);
/** A secret as the estate knows it: a keyed fingerprint. The secret itself lies sealed outside the estate. */
const sealed = z.string().nullable().default(null);

/** An address with its prefix length, such as 10.40.1.21/24 or 2001:db8:40:1::21/64. */
export const ipAddress = z.object({ ip: z.string(), prefix: z.number().int().min(0).max(128) });

/**
 * One schema a kind of row. Rows are flat, names are the trade's, a reference holds an id. Bytes are integers; `…At` is the lab's
 * simulated time in milliseconds. A schema is the single source of the row's type, of the checks at import and of the API's texts.
 */
export const rowSchemas = {
  site: z.object({ id, name, purpose: z.string() }),
  array: z.object({
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
    /** Other NVMe discovery services that its own refers hosts to (NVM Express, discovery log, subtype 1). */
    referrals: z.array(z.object({ ip: z.string(), service: tcpPort })).default([]),
  }),
  controller: z.object({ id, name, array: id, state: upDown }),
  enclosure: z.object({ id, array: id, number: count, slots: count, state: upDown.default('up') }),
  drive: z.object({
    id,
    array: id,
    enclosure: id,
    slot: count,
    serial: name,
    media: z.enum(mediaClasses),
    capacity: bytes,
    sector: z.union([z.literal(512), z.literal(4096)]),
    state: z.enum(['ok', 'predicted', 'failed', 'missing', 'rebuilding']),
    raidGroup: id.nullable(),
    /** Kept for rebuilds: of any group, or of `spareGroup` alone. */
    spare: z.enum(['no', 'shared', 'dedicated']).default('no'),
    spareGroup: id.nullable().default(null),
    /** The drive this spare stands in for, until that one is replaced. */
    standsInFor: id.nullable().default(null),
    /** Rated writes used, per cent. */
    wear: z.number().min(0).default(0),
    /** Unrecoverable read errors: ever, and within the last seven days. */
    mediaErrors: count.default(0),
    recentErrors: count.default(0),
    /** Ways from the controllers to the drive. */
    links: z.number().int().min(0).max(2).default(2),
    /** Carries the label of another array. */
    foreign: z.boolean().default(false),
    /** Carries data of a group that was taken apart. */
    holdsData: z.boolean().default(false),
    /** Its lamp blinks. */
    located: z.boolean().default(false),
    /** When it last failed while being rebuilt. */
    rebuildFailedAt: instant.nullable().default(null),
  }),
  raidGroup: z.object({
    id,
    name,
    array: id,
    level: z.enum(raidLevels),
    chunk: bytes,
    /** Members in stripe order. */
    drives: z.array(id).min(1),
    /** What each member contributes. */
    memberSize: bytes,
    usable: bytes,
    pool: id.nullable(),
    copies: count.min(1).default(1),
    legs: count.min(1).default(1),
    /** Data and parity strips of one stripe (of one leg). */
    data: count.min(1),
    parity: count,
    spareColumns: count.default(0),
    /** Of the permutations of a distributed group. */
    seed: count.default(0),
    /** Failed members whose data has moved into distributed spare space, in the order of their failures. */
    moved: z.array(id).default([]),
    /** Of its background jobs. */
    priority: z.enum(priorities).default('normal'),
    /** Being emptied: nothing new is placed here. */
    draining: z.boolean().default(false),
    scrubbedAt: instant.default(0),
  }),
  pool: z.object({
    id,
    name,
    array: id,
    extentSize: bytes.min(4096),
    /** Fill marks, per cent. */
    notice: z.number().int().min(1).max(100).default(70),
    urgent: z.number().int().min(1).max(100).default(90),
    /** Most that may be promised, per cent of the size; null sets no limit. */
    subscriptionLimit: z.number().int().min(1).max(100_000).nullable().default(null),
    /** Kept back for metadata, snapshots and emptying groups, per cent. */
    reserve: z.number().min(0).max(50).default(1),
    /** When nothing is left: only writes that need new extents fail, or all thin volumes take no more writes. */
    whenFull: z.enum(['fail-new-writes', 'stop-thin-writes']).default('fail-new-writes'),
    /** Who is told when a mark is crossed; empty when nobody. */
    alertTo: z.string().default(''),
    /** The highest fill mark it was told to be past. */
    mark: z.enum(['none', 'notice', 'warning', 'urgent']).default('none'),
    compression: z.boolean().default(false),
    dedupe: z.enum(['off', 'inline', 'scheduled']).default('off'),
    encryption: z.boolean().default(false),
    /** Reduction counted on when the pool was bought, such as 1.8; null when none. */
    plannedReduction: z.number().min(1).nullable().default(null),
    dedupedAt: instant.nullable().default(null),
    /** No pool, but the room of one RAID group from which thick volumes are carved straight. */
    direct: z.boolean().default(false),
  }),
  workload: z.object({ id, name, notes: z.string().default('') }),
  volume: z.object({
    id,
    name,
    array: id,
    pool: id,
    size: bytes.min(1),
    provisioning: z.enum(['thin', 'thick']),
    naa: z.string().regex(/^6[0-9a-f]{31}$/),
    serial: name,
    owner: id,
    /** How far hosts have written, from the start of the device. */
    written: bytes,
    /** Runs within it that were given back by the host. */
    holes: byteRuns.default([]),
    /** Up to here its data lies in the pool's reduced store, beyond in extents of its own. */
    reducedTo: bytes.default(0),
    blockSize: z.union([z.literal(512), z.literal(4096)]).default(512),
    /** Takes part in its pool's reduction. */
    reduction: z.boolean().default(true),
    workload: id.nullable().default(null),
    notes: z.string().default(''),
    /** Where its new extents are placed first; null for the fastest tier of the pool. */
    tier: z.enum(mediaClasses).nullable().default(null),
    content: contentProfile.default({ family: null, zero: 0, common: 0, span: 0, squeeze: 'database', driftDays: 0 }),
    createdAt: instant.default(0),
    /** Last write by a host. */
    writtenAt: instant.nullable().default(null),
    /** Several hosts that are no cluster may write to it: they have agreed on it among themselves. */
    shared: z.boolean().default(false),
    /** Losing it hurts: what threatens it counts double. */
    important: z.boolean().default(false),
    /** Hosts start from it: it should be the lowest LUN they see. */
    boot: z.boolean().default(false),
    /** Retired and kept until then. */
    deletedAt: instant.nullable().default(null),
    keepUntil: instant.nullable().default(null),
    /** Days between reclaims by schedule; 0 for none. */
    reclaimDays: count.default(0),
    reclaimedAt: instant.nullable().default(null),
  }),
  /**
   * A run of extents: `count` extents of a RAID group, from `start`, hold the volume's extents from `at`, or belong to the reduced `store`
   * of a pool.
   */
  extent: z.object({
    id,
    volume: id.nullable(),
    store: id.nullable().default(null),
    raidGroup: id,
    start: count,
    count: count.min(1),
    at: count,
  }),
  network: z.object({
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
  fabric: z.object({
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
  switch: z.object({
    id,
    name,
    fabric: id,
    site: id,
    /** FCIDs of its ports begin with it. */
    domain: z.number().int().min(1).max(239),
    ports: count.min(1),
    /** Gb/s of its ports. */
    speed: z.number().positive(),
    state: upDown,
  }),
  /** An inter-switch link. */
  isl: z.object({
    id,
    name,
    a: id,
    aPort: count,
    b: id,
    bPort: count,
    /** Gb/s at which it runs. */
    speed: z.number().positive(),
    /** Length of the fibre. */
    km: z.number().min(0).default(0),
    /** Buffer-to-buffer credits assigned to it. */
    credits: count.default(8),
    state: upDown,
  }),
  /** Members are written `wwpn:…`, `wwnn:…`, `port:domain,port` or `alias:name`. */
  alias: z.object({ id, fabric: id, name, members: z.array(z.string()) }),
  zone: z.object({
    id,
    fabric: id,
    name,
    kind: z.enum(['ordinary', 'peer']).default('ordinary'),
    /** All members of an ordinary zone; the peers of a peer zone. */
    members: z.array(z.string()),
    principals: z.array(z.string()).default([]),
  }),
  zoneSet: z.object({ id, fabric: id, name, zones: z.array(id) }),
  /** A zone as the switches enforce it: a copy made at activation, with aliases resolved. */
  activeZone: z.object({
    id,
    fabric: id,
    name,
    kind: z.enum(['ordinary', 'peer']).default('ordinary'),
    members: z.array(z.string()),
    principals: z.array(z.string()).default([]),
  }),
  port: z.object({
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
  cluster: z.object({ id, name }),
  host: z.object({
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
  }),
  /** A name by which arrays let the host in: an IQN, a host NQN, or a WWPN of 16 digits. */
  initiator: z.object({
    id,
    host: id,
    name: z.string(),
    /** What arrays expect it to prove itself with. */
    chapName: z.string().default(''),
    chapSecret: sealed,
  }),
  /** A port of a host: Ethernet, or Fibre Channel. One that has logged in but belongs to no host yet names none. */
  interface: z.object({
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
    /** Uplinks beneath it; empty where it is its own. */
    /** Initiator part of its session identifiers (ISID, RFC 7143 §11.12.5), 12 digits; null where it follows from its own. */
    isid: z
      .string()
      .regex(/^[0-9a-f]{12}$/)
      .nullable()
      .default(null),
    uplinks: z.array(z.object({ name, use: z.enum(['active', 'standby', 'unused']) })).default([]),
  }),
  /** A host was told to log in here: at the target named, else at all that it is offered. */
  login: z.object({ id, host: id, array: id, target: id.nullable().default(null) }),
  /** What an array grants an initiator beyond the usual read-write. */
  access: z.object({ id, array: id, initiator: id, level: z.enum(accessLevels) }),
  /** Judges logins for arrays that ask it. */
  authServer: z.object({
    id,
    name,
    ip: z.string(),
    state: upDown,
    /** Shared with the arrays that ask. */
    secret: sealed,
    accounts: z.array(z.object({ name: z.string(), secret: z.string() })).default([]),
  }),
  /** An iSNS server (RFC 4171). */
  nameServer: z.object({
    id,
    name,
    ip: z.string(),
    state: upDown,
    /** Nodes that are in no domain see each other. */
    defaultDomain: z.boolean().default(false),
    /** iSCSI names of control nodes, which see all that is registered. */
    controlNodes: z.array(z.string()).default([]),
  }),
  discoveryDomain: z.object({
    id,
    name,
    /** iSCSI names. */
    members: z.array(z.string()),
    /** `ip:port`; where a domain names portals of a target, only those are offered. */
    portals: z.array(z.string()).default([]),
  }),
  domainSet: z.object({ id, name, domains: z.array(id), enabled: z.boolean().default(true) }),
  /** An iSCSI target of an array. */
  target: z.object({
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
  /** An NVMe subsystem of an array. */
  subsystem: z.object({
    id,
    name,
    array: id,
    nqn: z.string(),
    allowAny: z.boolean().default(false),
    /** Host NQNs, compared byte by byte. */
    allowed: z.array(z.string()).default([]),
    /** Array ports it is offered at; null for all NVMe/TCP ports. */
    ports: z.array(id).nullable().default(null),
    /** Most controllers at a time, and most I/O queues of each. */
    controllerLimit: count.min(1).default(256),
    queueLimit: count.min(1).max(65_535).default(64),
  }),
  mapping: z.object({
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
  hostDevice: z.object({
    id,
    name,
    host: id,
    volume: id,
    /** LUN, identity and size as the host last read them. */
    lun: count,
    naa: z.string(),
    size: bytes,
    fileSystem: z.string().nullable(),
    mountPoint: z.string().nullable(),
    /** How far the file system reaches, and the bytes used in it. */
    fileSystemSize: bytes.default(0),
    used: bytes,
    /** Runs that files once held and the file system has free again. */
    free: byteRuns.default([]),
    /** What the lab's write generator adds, bytes a second. */
    writeRate: bytes,
    /** A write was refused, since the host may only read: the file system stands read-only until it is mounted anew. */
    readOnly: z.boolean().default(false),
    /** Its own way to spread I/O; null as the host does. */
    selector: z.enum(pathSelectors).nullable().default(null),
    /** Which paths failover prefers: the heavier first, those not named weigh 0. */
    weights: z.array(pathEnds.extend({ weight: count })).default([]),
    /** The path that failover uses. */
    current: pathEnds.nullable().default(null),
    /** Since when what it writes waits for a path. */
    noPathSince: instant.nullable().default(null),
    state: z.enum(['online', 'offline']).default('online'),
    /** Carries a partition table. */
    initialised: z.boolean().default(false),
    /** Is mounted again after a restart. */
    persistent: z.boolean().default(true),
  }),
  /** Work that takes time: `done` of `total` bytes at `asOf`, the rest at `rate`. */
  job: z.object({
    id,
    kind: z.enum(jobKinds),
    array: id,
    raidGroup: id.nullable(),
    pool: id.nullable().default(null),
    volume: id.nullable().default(null),
    drive: id.nullable(),
    /** Other drives it concerns: those that join by an expansion, the one a copy is made of. */
    partners: z.array(id).default([]),
    priority: z.enum(priorities).default('normal'),
    total: count.default(0),
    done: count.default(0),
    asOf: instant,
    rate: z.number().min(0).default(0),
    startedAt: instant,
    finishesAt: instant,
    /** Stands still while no controller of its array is up; goes on from what is done. */
    paused: z.boolean().default(false),
  }),
  /** A finding that somebody has looked at and does not want to see for a while. */
  mute: z.object({ id, check: z.string(), subject: z.string(), reason: z.string(), until: instant }),
} as const;

export type Kind = keyof typeof rowSchemas;
export type Rows = { [K in Kind]: z.infer<(typeof rowSchemas)[K]> };
export type Row<K extends Kind = Kind> = Rows[K];

export const kinds = Object.keys(rowSchemas) as Kind[];

export type Site = Rows['site'];
export type ArrayRow = Rows['array'];
export type Controller = Rows['controller'];
export type Enclosure = Rows['enclosure'];
export type Drive = Rows['drive'];
export type RaidGroup = Rows['raidGroup'];
export type Pool = Rows['pool'];
export type Workload = Rows['workload'];
export type Volume = Rows['volume'];
export type ExtentRun = Rows['extent'];
export type Network = Rows['network'];
export type Port = Rows['port'];
export type Cluster = Rows['cluster'];
export type Host = Rows['host'];
export type Initiator = Rows['initiator'];
export type HostInterface = Rows['interface'];
export type Mapping = Rows['mapping'];
export type HostDevice = Rows['hostDevice'];
export type Fabric = Rows['fabric'];
export type Switch = Rows['switch'];
export type Isl = Rows['isl'];
export type Alias = Rows['alias'];
export type Zone = Rows['zone'];
export type ZoneSet = Rows['zoneSet'];
export type ActiveZone = Rows['activeZone'];
export type Target = Rows['target'];
export type Subsystem = Rows['subsystem'];
export type AuthServer = Rows['authServer'];
export type NameServer = Rows['nameServer'];
export type DiscoveryDomain = Rows['discoveryDomain'];
export type DomainSet = Rows['domainSet'];
export type Transport = (typeof transports)[number];
export type PathSelector = (typeof pathSelectors)[number];
export type DigestOffer = (typeof digestOffers)[number];
export type AccessLevel = (typeof accessLevels)[number];
export type Proof = (typeof proofs)[number];
export type Job = Rows['job'];
export type JobKind = Job['kind'];
export type Mute = Rows['mute'];
export type ByteRun = z.infer<typeof byteRuns>[number];
export type ContentProfile = z.infer<typeof contentProfile>;
export type Priority = (typeof priorities)[number];
export type Squeeze = (typeof squeezes)[number];
export type IpAddress = z.infer<typeof ipAddress>;
export type RaidLevel = (typeof raidLevels)[number];
export type MediaClass = (typeof mediaClasses)[number];
export type OsFamily = (typeof osFamilies)[number];

/** How a kind is called in a sentence. */
export const kindWords: Record<Kind, string> = {
  site: 'site',
  array: 'array',
  controller: 'controller',
  enclosure: 'enclosure',
  drive: 'drive',
  raidGroup: 'RAID group',
  pool: 'pool',
  workload: 'workload',
  volume: 'volume',
  extent: 'extent run',
  network: 'network',
  fabric: 'fabric',
  switch: 'switch',
  isl: 'inter-switch link',
  alias: 'alias',
  zone: 'zone',
  zoneSet: 'zone set',
  activeZone: 'active zone',
  port: 'array port',
  cluster: 'host cluster',
  host: 'host',
  initiator: 'initiator',
  interface: 'host port',
  login: 'login',
  access: 'access',
  authServer: 'authentication server',
  nameServer: 'name server',
  discoveryDomain: 'discovery domain',
  domainSet: 'domain set',
  target: 'target',
  subsystem: 'subsystem',
  mapping: 'mapping',
  hostDevice: 'host device',
  job: 'job',
  mute: 'muted finding',
};

const idPrefixes: Record<Kind, string> = {
  site: 'site',
  array: 'arr',
  controller: 'ctl',
  enclosure: 'enc',
  drive: 'drv',
  raidGroup: 'rg',
  pool: 'pool',
  workload: 'work',
  volume: 'vol',
  extent: 'ext',
  network: 'net',
  fabric: 'fab',
  switch: 'sw',
  isl: 'isl',
  alias: 'ali',
  zone: 'zone',
  zoneSet: 'zset',
  activeZone: 'act',
  port: 'port',
  cluster: 'clu',
  host: 'host',
  initiator: 'ini',
  interface: 'if',
  login: 'log',
  access: 'acc',
  authServer: 'auth',
  nameServer: 'isns',
  discoveryDomain: 'dd',
  domainSet: 'dds',
  target: 'tgt',
  subsystem: 'sub',
  mapping: 'map',
  hostDevice: 'dev',
  job: 'job',
  mute: 'mute',
};

export const idFor = (kind: Kind, unique: string): string => `${idPrefixes[kind]}_${unique}`;

type Defaults = { [K in Kind]: Partial<Rows[K]> };

/** Values of the fields that a row need not name. */
const defaults = Object.fromEntries(
  kinds.map((kind) => [
    kind,
    Object.fromEntries(
      Object.entries(rowSchemas[kind].shape).flatMap(([field, schema]) =>
        schema instanceof z.ZodDefault ? [[field, schema.parse(undefined)]] : [],
      ),
    ),
  ]),
) as unknown as Defaults;

/** A row with the usual values where none are given. */
export const rowOf = <K extends Kind>(kind: K, given: z.input<(typeof rowSchemas)[K]>): Rows[K] =>
  ({ ...defaults[kind], ...given }) as unknown as Rows[K];
