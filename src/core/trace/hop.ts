import type { NextStep } from '../operation/operation';

/** From the drives to the host's file system. */
export const hops = [
  'Drives',
  'RAID group',
  'Pool',
  'Volume',
  'Mapping',
  'Array port',
  'Link',
  'Zone or network',
  'Initiator',
  'Discovery',
  'Login',
  'LUN',
  'Host device',
  'File system',
] as const;
export type HopName = (typeof hops)[number];

/** The first is 1. */
export const hopNumber = (hop: HopName): number => hops.indexOf(hop) + 1;

/** Hops that a pair of ports goes over, in order. */
export const portHopNames = hops.slice(5, 11);

export type HopState = 'pass' | 'warn' | 'fail' | 'not-reached';

/** One link of the chain from the drives to the host's file system. */
export interface TraceHop {
  number: number;
  hop: string;
  object: string;
  state: HopState;
  /** Kebab-case, of a hop that fails or warns. */
  reason: string | null;
  /** What was found there, in a sentence. */
  evidence: string;
  /** What would mend it, in words and as an operation where one does. */
  advice: string | null;
  mend: NextStep | null;
}

/** What is found at a hop, before it is known whether anything is reached there. */
export interface HopFound {
  state: HopState;
  object: string;
  evidence: string;
  reason?: string;
  advice?: string;
  mend?: NextStep | null;
}

export const pass = (object: string, evidence: string): HopFound => ({ state: 'pass', object, evidence });
const found =
  (state: 'warn' | 'fail') =>
  (object: string, reason: string, evidence: string, advice: string, mend: NextStep | null = null): HopFound => ({
    state,
    object,
    reason,
    evidence,
    advice,
    mend,
  });
export const warn = found('warn');
export const fail = found('fail');
export const unreached = (): HopFound => ({ state: 'not-reached', object: '', evidence: 'Not looked at.' });
