import type { EstateView } from '../estate/estate';
import type { NextStep } from '../operation/operation';
import type { Subject } from '../operation/refusal';
import type { LoadFacts } from '../performance/facts';
import type { Sample } from '../space/forecast';
import type { PoolWaterfall } from '../space/waterfall';
import type { Milliseconds } from '../units/duration';
import type { AttachFacts } from './attach/context';

/** Blocks or data at risk; something to plan; something to know. */
export const severities = ['error', 'warning', 'note'] as const;
export type Severity = (typeof severities)[number];

/** What a check found wrong or risky. */
export interface Finding {
  check: string;
  severity: Severity;
  subject: Subject & { id: string };
  /** One sentence with the figures. */
  says: string;
  /** What would mend it, in words, and as an operation where one does. */
  advice: string;
  mend: NextStep | null;
  /** A host and a volume (`array/name`) whose trace shows where the chain breaks. */
  trace?: { host: string; volume: string };
}

/** What checks may know besides the estate. */
export interface CheckContext {
  now: Milliseconds;
  /** A pool's use, day by day. */
  series: (pool: string) => readonly Sample[];
  waterfall: (pool: string) => PoolWaterfall;
  attach: () => AttachFacts;
  /** What was measured of the load. */
  load: () => LoadFacts;
  /** Changes of which not all could be taken back. */
  stuck: readonly StuckChange[];
}

export interface StuckChange {
  id: string;
  title: string;
  /** Titles of its steps that hands must take back. */
  needsUndo: readonly string[];
}

/** What a check yields: its own severity holds unless the case is graver. */
export type Found = Omit<Finding, 'check' | 'severity'> & { severity?: Severity };

export interface Check {
  id: string;
  severity: Severity;
  /** What it looks for, in a few words. */
  title: string;
  /** Null stands for a pause between rows: others are let in there. */
  find(view: EstateView, context: CheckContext): Iterable<Found | null>;
}

/** A finding's name: by it findings are muted. */
export const findingKey = (finding: Pick<Finding, 'check' | 'subject'>): string =>
  `${finding.check} ${finding.subject.id}`;

/** What a finding offers. */
export { nextStep as offer } from '../operation/operation';

/** Whether somebody has to do something about it: it is no mere note, nobody muted it, and it does not just go with its cause. */
export const calls = (finding: Pick<Finding, 'severity'> & { muted: unknown; because: unknown }): boolean =>
  finding.muted === null && finding.severity !== 'note' && finding.because === null;
