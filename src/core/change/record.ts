import type { Effect } from '../estate/effects';
import type { Refusal } from '../operation/refusal';
import type { StepDevice } from '../operation/operation';
import type { Preview } from './preview';
import type { RunTerms } from './terms';
import type { UndoPlan } from './undo';
import type { OperationDocument } from './registry';

export type ChangeState =
  | 'draft'
  /** Somebody said that it may run; it waits for its window. */
  | 'approved'
  | 'running'
  /** It stands before a step: outside its window, or until a person says yes. */
  | 'paused'
  | 'stopped'
  /** What was done could not all be taken back: it needs hands. */
  | 'stuck'
  | 'done'
  | 'undoing'
  | 'undone';
export type StepState = 'waiting' | 'running' | 'done' | 'undone';

/** A change on record. Times ending in `Lab` are simulated milliseconds, in `Real` the wall clock's. */
export interface ChangeRow {
  id: string;
  title: string;
  state: ChangeState;
  /** Where it came from: a form, a change file, a list of hosts, the demo. */
  origin: string;
  createdReal: number;
  createdLab: number;
  startedLab: number | null;
  finishedLab: number | null;
  /** Why it stopped. */
  problem: Refusal | null;
  /** Grows whenever a draft is revised. */
  revision: number;
  /** How it runs by itself, once it was approved. */
  run: RunTerms | null;
}

export interface StepRow {
  n: number;
  operation: number;
  unit: number;
  title: string;
  device: StepDevice;
  takes: number;
  state: StepState;
  startedLab: number | null;
  finishedLab: number | null;
  effects: Effect[];
  notes: string[];
  destroys: string | null;
}

export interface LogRow {
  change: string | null;
  step: number | null;
  atReal: number;
  atLab: number;
  level: 'info' | 'problem';
  message: string;
}

/** A change with all that is known of it. */
export interface ChangeView extends ChangeRow {
  operations: OperationDocument[];
  /** For a draft: what it would do now. */
  preview: Preview | null;
  steps: Omit<StepRow, 'effects'>[];
  log: LogRow[];
  /** What each revision did to the draft. */
  revisions: { revision: number; said: string }[];
  /** Whether its done steps can be taken back, what that would do, and if not, why. */
  undo: UndoPlan & { possible: boolean };
  /** Of one that is approved, or waits for a person: the steps that come next, as they would be now. */
  ahead: { title: string; device: string | null; notes: string[]; destroys: string | null; refusal: Refusal | null }[];
}

/** What would have been sent to somebody. */
export interface MailRow {
  atLab: number;
  recipient: string;
  subject: string;
  body: string;
  /** The place in Trabes that it is about. */
  link: string;
}

export interface ChangeSummary extends ChangeRow {
  operations: number;
  done: number;
  of: number;
}

/** What became of each line of a list of hosts. */
export interface ImportReport {
  lines: { line: number; name: string; taken: boolean; said: string; notes: string[] }[];
  taken: number;
  refused: number;
  /** Columns of the file that say nothing here. */
  ignored: string[];
  change: ChangeView | null;
}
