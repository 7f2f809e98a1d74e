import type { Move } from '../estate/entities';
import type { Milliseconds } from '../units/duration';
import type { NextStep } from '../operation/next-step';

/** A stretch on the time axis. */
export type Span = readonly [from: Milliseconds, to: Milliseconds];

export interface MoveStep {
  title: string;
  /** Over, under way or waiting for somebody, to come. */
  is: 'done' | 'now' | 'next';
  at: Milliseconds | null;
  lines: { says: string; at?: Milliseconds; ok?: boolean; mend?: string; offer?: NextStep }[];
}

export interface MoveRow {
  id: string;
  name: string;
  volume: string;
  volumeName: string;
  array: string;
  /** `array pool` */
  from: string;
  to: string;
  /** Bytes the volume holds, and what is left to carry. */
  bytes: number;
  left: number;
  /** Share of its copy that is over, 0 to 1, and bytes a second now. */
  share: number;
  rate: number;
  state: Move['state'];
  stateSays: string;
  held: boolean;
  /** Why nothing of it gets over; null where it does, or needs not. */
  still: string | null;
  asks: Move['asks'];
  together: string;
  waitsFor: string[];
  mode: Move['mode'];
  identity: Move['identity'];
  turned: boolean;
  startedAt: Milliseconds | null;
  wholeAt: Milliseconds | null;
  cutAt: Milliseconds | null;
  /** When it is whole as things go, and when it was to be by the plan it was made with. */
  endsAt: Milliseconds | null;
  plannedAt: Milliseconds | null;
  /** When the old copy goes by itself; null for when somebody accepts. */
  provenAt: Milliseconds | null;
  /** Stretches in which it copies from now on. */
  bars: Span[];
  /** Beside the bar. */
  says: string;
  pauseMax: number;
}

export interface MoveGroup {
  name: string;
  moves: MoveRow[];
  bytes: number;
  /** When all of them are whole; null where some never is. */
  readyAt: Milliseconds | null;
  /** All of them wait for a person, and the cut could be confirmed. */
  canConfirm: boolean;
}

/** What is full on the way of moves, over time. */
export interface MoveBound {
  name: string;
  what: 'rate' | 'fill';
  /** Bytes a second, or bytes. */
  limit: number;
  limitSays: string;
  steps: { from: Milliseconds; to: Milliseconds; value: number }[];
}

export interface WavePlanRow {
  /** Null for moves without a plan. */
  id: string | null;
  name: string;
  held: boolean;
  words: string;
  slots: number;
  windows: Span[];
  groups: MoveGroup[];
  bytes: number;
  copied: number;
  endsAt: Milliseconds | null;
  boundAt: Milliseconds | null;
  ratio: number | null;
  /** Why it cannot end, in words; empty where it can. */
  problem: string;
  bounds: MoveBound[];
}

export interface MovesAnswer {
  now: Milliseconds;
  plans: WavePlanRow[];
  /** Moves that are over, the last first. */
  over: { name: string; state: Move['state']; from: string; to: string; since: Milliseconds; bytes: number }[];
}

export interface MoveAnswer extends MoveRow {
  steps: MoveStep[];
  log: { at: Milliseconds; says: string }[];
  notes: string;
  /** What a person could do with it now. */
  verbs: NextStep[];
}
