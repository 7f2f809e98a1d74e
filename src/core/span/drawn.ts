import type { JobKind, RaidLevel } from '../estate/entities';
import type { Fault } from '../lab/broken';
import type { Bytes } from '../units/bytes';

/** How a thing stands, in the drawing's words. */
export type Post = 'stands' | 'leans' | 'broken' | 'in work' | 'absent';

export interface SpanDrive {
  id: string;
  slot: number;
  post: Post;
  /** The RAID group it belongs to. */
  group: string | null;
  spare: boolean;
  /** Its lamp blinks. */
  located: boolean;
}
export interface SpanEnclosure {
  id: string;
  number: number;
  label: string;
  flash: boolean;
  slots: number;
  drives: SpanDrive[];
  brackets: { group: string; name: string; from: number; to: number }[];
  free: number;
}
export interface SpanGroup {
  id: string;
  name: string;
  level: RaidLevel;
  label: string;
  data: number;
  redundancy: number;
  mirror: boolean;
  usable: Bytes;
  post: Post;
  pool: string | null;
  enclosures: string[];
  job: { kind: JobKind; startedAt: number; finishesAt: number } | null;
}
export interface SpanPool {
  id: string;
  name: string;
  /** No pool, but the room of a RAID group from which volumes are carved straight. */
  direct: boolean;
  post: Post;
  size: Bytes;
  used: Bytes;
  promised: Bytes;
  available: Bytes;
  /** Shares of the size, 0 to 1; promised may be more. */
  filled: number;
  subscribed: number;
}
export interface SpanVolume {
  id: string;
  name: string;
  pool: string;
  size: Bytes;
  /** Bytes of extents it holds, and bytes hosts have written. */
  held: Bytes;
  written: Bytes;
  thin: boolean;
  post: Post;
  hosts: number;
  paths: { usable: number; expected: number };
}
/** FC, iSCSI, NVMe/TCP. */
export type ProtocolTag = 'FC' | 'IS' | 'NV' | '';
export interface SpanPort {
  id: string;
  name: string;
  tag: ProtocolTag;
  speed: number;
  address: string;
  post: Post;
  logins: number;
  networks: string[];
}
/** What the level line of an array says. */
export interface SpanHead {
  id: string;
  name: string;
  site: string;
  model: string;
  post: Post;
  controllers: { id: string; name: string; up: boolean }[];
  drives: number;
  raw: Bytes;
  /** Known only by what it shows: nothing of what lies within is drawn. */
  outside: boolean;
}
export interface SpanArray extends SpanHead {
  enclosures: SpanEnclosure[];
  groups: SpanGroup[];
  pools: SpanPool[];
  volumes: SpanVolume[];
  ports: SpanPort[];
}
export interface SpanHost {
  id: string;
  name: string;
  site: string;
  cluster: string | null;
  os: string;
  post: Post;
  paths: { usable: number; expected: number };
  mapped: number;
  devices: number;
  mounted: number;
  tags: ProtocolTag[];
  interfaces: { id: string; name: string; address: string; post: Post; fc: boolean; networks: string[] }[];
}
/** What lies between ports and hosts: a network, or a fabric. */
export interface SpanNetwork {
  id: string;
  kind: 'network' | 'fabric';
  name: string;
  /** `10.40.1.0/24`, or `2 switches`. */
  detail: string;
  mtu: number | null;
  tags: ProtocolTag[];
  post: Post;
  members: number;
}
export interface SpanModel {
  arrays: SpanArray[];
  networks: SpanNetwork[];
  hosts: SpanHost[];
  totals: {
    drives: number;
    raidGroups: number;
    pools: number;
    volumes: number;
    ports: number;
    networks: number;
    hosts: number;
    raw: Bytes;
    usable: Bytes;
    used: Bytes;
    promised: Bytes;
    available: Bytes;
  };
  faults: Fault[];
}
