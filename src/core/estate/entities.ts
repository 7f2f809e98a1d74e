import { z } from 'zod';
import { MAX_BYTES } from '../units/bytes';

const id = z.string().min(1).max(64);
const name = z.string().min(1).max(128);
const bytes = z.number().int().min(0).max(MAX_BYTES);
const count = z.number().int().min(0).max(MAX_BYTES);
const instant = z.number().min(0);
const upDown = z.enum(['up', 'down']);

export const raidLevels = ['raid0', 'raid1', 'raid10', 'raid5', 'raid6'] as const;
export const mediaClasses = ['ssd-nvme', 'hdd-10k', 'hdd-7k'] as const;
export const osFamilies = ['linux', 'bsd', 'unix', 'hypervisor'] as const;

/** An address with its prefix length, such as 10.40.1.21/24. */
export const ipAddress = z.object({ ip: z.string(), prefix: z.number().int().min(0).max(32) });

/**
 * One schema a kind of row. Rows are flat, names are the trade's, a reference holds an id. Bytes are integers; `…At` is the lab's
 * simulated time in milliseconds. A schema is the single source of the row's type, of the checks at import and of the API's texts.
 */
export const rowSchemas = {
  site: z.object({ id, name, purpose: z.string() }),
  array: z.object({ id, name, site: id, model: name, iqn: z.string(), companyId: z.string().regex(/^[0-9a-f]{6}$/) }),
  controller: z.object({ id, name, array: id, state: upDown }),
  enclosure: z.object({ id, array: id, number: count, slots: count }),
  drive: z.object({
    id,
    array: id,
    enclosure: id,
    slot: count,
    serial: name,
    media: z.enum(mediaClasses),
    capacity: bytes,
    sector: z.union([z.literal(512), z.literal(4096)]),
    state: z.enum(['ok', 'failed', 'rebuilding']),
    raidGroup: id.nullable(),
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
  }),
  pool: z.object({ id, name, array: id, extentSize: bytes.min(4096) }),
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
  }),
  /** A run of extents: `count` extents of a RAID group, from `start`, hold the volume's extents from `at`. */
  extent: z.object({ id, volume: id, raidGroup: id, start: count, count: count.min(1), at: count }),
  network: z.object({ id, name, site: id, cidr: z.string(), mtu: z.number().int().min(576).max(65535), state: upDown }),
  port: z.object({
    id,
    name,
    array: id,
    controller: id,
    kind: z.enum(['fc', 'ethernet']),
    role: z.enum(['none', 'fc', 'iscsi']),
    /** Gb/s as the port is named. */
    speed: z.number().positive(),
    wwpn: z.string().nullable(),
    addresses: z.array(ipAddress),
    mtu: z.number().int().min(576).max(65535),
    portalGroup: count.max(65535),
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
  }),
  initiator: z.object({ id, host: id, name: z.string() }),
  interface: z.object({
    id,
    host: id,
    name,
    addresses: z.array(ipAddress),
    mtu: z.number().int().min(576).max(65535),
    state: upDown,
  }),
  mapping: z.object({
    id,
    host: id,
    volume: id,
    lun: count.max(16_777_215),
    access: z.enum(['read-write', 'read-only']),
    /** Array ports that show the volume; null stands for every port the host can reach. */
    ports: z.array(id).nullable(),
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
    /** Bytes used in the file system. */
    used: bytes,
    /** What the lab's write generator adds, bytes a second. */
    writeRate: bytes,
  }),
  job: z.object({
    id,
    kind: z.enum(['raid-initialise', 'raid-rebuild']),
    array: id,
    raidGroup: id,
    drive: id.nullable(),
    startedAt: instant,
    finishesAt: instant,
  }),
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
export type Volume = Rows['volume'];
export type ExtentRun = Rows['extent'];
export type Network = Rows['network'];
export type Port = Rows['port'];
export type Host = Rows['host'];
export type Initiator = Rows['initiator'];
export type HostInterface = Rows['interface'];
export type Mapping = Rows['mapping'];
export type HostDevice = Rows['hostDevice'];
export type Job = Rows['job'];
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
  volume: 'volume',
  extent: 'extent run',
  network: 'network',
  port: 'array port',
  cluster: 'host cluster',
  host: 'host',
  initiator: 'initiator',
  interface: 'host interface',
  mapping: 'mapping',
  hostDevice: 'host device',
  job: 'job',
};

const idPrefixes: Record<Kind, string> = {
  site: 'site',
  array: 'arr',
  controller: 'ctl',
  enclosure: 'enc',
  drive: 'drv',
  raidGroup: 'rg',
  pool: 'pool',
  volume: 'vol',
  extent: 'ext',
  network: 'net',
  port: 'port',
  cluster: 'clu',
  host: 'host',
  initiator: 'ini',
  interface: 'if',
  mapping: 'map',
  hostDevice: 'dev',
  job: 'job',
};

export const idFor = (kind: Kind, unique: string): string => `${idPrefixes[kind]}_${unique}`;
