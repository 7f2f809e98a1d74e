import type { JobKind } from '../estate/entities';
import type { Fault } from './broken';
import type { FaultKind } from './fault-kinds';

/** The lab as a screen shows it. */
export interface LabView {
  now: number;
  speed: number;
  jobs: {
    id: string;
    kind: JobKind;
    array: string;
    subject: string;
    priority: string;
    rate: number;
    progress: number;
    startedAt: number;
    finishesAt: number;
    /** Stands still while no controller of its array is up. */
    paused: boolean;
  }[];
  faults: Fault[];
  breakable: { kind: FaultKind; component: string; name: string }[];
  traffic: { host: string; device: string; mountPoint: string; used: number; size: number; rate: string }[];
  /** Every device of every host, mounted or not. */
  devices: { host: string; device: string }[];
  log: { atLab: number; level: 'info' | 'problem'; message: string }[];
}

/** Something that does not go on as it should, until it does. */
export interface Trouble {
  /** What it befell: the disk, the clock, a job, a change. */
  what: string;
  message: string;
  mend: string;
  /** Wall clock, milliseconds. */
  since: number;
}

/** Work that takes the server a while: how far it is. */
export interface Work {
  id: string;
  what: string;
  done: number;
  of: number;
}
