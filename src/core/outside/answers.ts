import type { NextStep } from '../operation/next-step';
import type { OutsideState } from '../move/outside';
import type { Bytes } from '../units/bytes';
import type { Milliseconds } from '../units/duration';

/** One step of a LUN's way in, and what is to be seen of it. */
export interface OutsideStep {
  title: string;
  /** Over, what can be done now, to come. */
  is: 'done' | 'now' | 'next';
  at: Milliseconds | null;
  lines: { says: string; ok?: boolean; mend?: string; offer?: NextStep }[];
  /** What takes it there. */
  verbs: NextStep[];
}

export interface OutsideRow {
  id: string;
  /** `corbel-9:3` */
  name: string;
  /** The array behind which it was found, and the one that shows it. */
  array: string;
  outside: string;
  state: OutsideState;
  /** The state in words, after its name. */
  says: string;
  /** Null before it was inspected. */
  size: Bytes | null;
  serial: string;
  sector: number;
  holds: string | null;
  writtenAt: Milliseconds | null;
  /** A host writes to it now. */
  writing: boolean;
  reservedBy: string | null;
  /** Hosts that see it at the outside array, or get it from here. */
  hosts: string[];
  /** The volume that hosts get from here, and where its data lies. */
  front: { id: string; name: string; pool: string } | null;
  /** The pool whose room it is. */
  pool: string | null;
  /** Why it cannot be read now, after the outside array's name. */
  silent: string | null;
}

export interface OutsideAnswer {
  now: Milliseconds;
  /** Outside arrays, and how many ways lead there from each array that is zoned with one. */
  arrays: { name: string; model: string; site: string; shown: number; seenFrom: { array: string; ways: number }[] }[];
  luns: OutsideRow[];
}

export interface OutsideLunAnswer extends OutsideRow {
  steps: OutsideStep[];
  log: { at: Milliseconds; says: string }[];
  verbs: NextStep[];
}
