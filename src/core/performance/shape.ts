import type { WeekShape } from '../kinds/activity';
import type { Milliseconds } from '../units/duration';
import type { Bursts } from './profile';

/** Something that serves so much a second: bytes of a port or a link (between switches or between sites), seconds of cores or drives. */
export interface LoadResource {
  id: string;
  kind: 'port' | 'controller' | 'group' | 'isl' | 'line';
  name: string;
  array: string | null;
  capacity: number;
  /** Alike servers of its queue; each serves `capacity / servers` a second. */
  servers: number;
  /** Utilisation up to which it is well used. */
  limit: number;
}

/** What one read or write of a volume takes of a resource, and how many visits it makes there. */
export interface LoadUse {
  resource: number;
  read: number;
  write: number;
  readVisits: number;
  writeVisits: number;
}

export interface LoadVolume {
  id: string;
  name: string;
  array: string;
  pool: string;
  workload: string | null;
  hosts: string[];
  /** Of its bursts; volumes of one workload burst together. */
  seed: number;
  bursts: Bursts;
  week: WeekShape;
  /** I/O a second on the average of a week. */
  reads: number;
  writes: number;
  ioBytes: number;
  /** Share of the reads that the cache answers. */
  hit: number;
  /** Seconds of one read hit, what a miss adds, and of one write, without waiting. */
  readS: number;
  missS: number;
  writeS: number;
  /** Commands that its hosts keep outstanding at the most. */
  outstanding: number;
  uses: LoadUse[];
  /** Of a miss, the share that goes to each group. */
  media: { resource: number; share: number }[];
}

/** A limit, and whom it holds back. */
export interface ModelLimit {
  id: string;
  name: string;
  shared: boolean;
  weight: number;
  burst: number;
  fromHour: number | null;
  untilHour: number | null;
  /** By volume: what it comes to there, in I/O of its own size a second. */
  members: { volume: number; iops: number | null; floor: number | null }[];
  /** Of a shared one, I/O a second for all together. */
  together: number | null;
}

/** What work in the background takes of a resource a second. Over links between sites hosts go before it. */
export interface BackgroundWork {
  resource: number;
  perS: number;
  name: string;
}

/** Such work of which is known when it begins and ends. */
export interface TimedWork extends BackgroundWork {
  from: Milliseconds;
  until: Milliseconds;
}

export interface LoadModel {
  resources: LoadResource[];
  volumes: LoadVolume[];
  limits: ModelLimit[];
  background: BackgroundWork[];
  /** What replications carry; comes and goes while the rest stays. */
  timed?: readonly TimedWork[];
}
