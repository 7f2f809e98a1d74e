import type { z } from 'zod';
import type { Kind } from '../estate/entities';
import type { Effect } from '../estate/effects';
import type { EstateView } from '../estate/estate';
import type { Milliseconds } from '../units/duration';
import type { Form } from './form';
import type { NextStep } from './next-step';
import type { Refusal } from './refusal';

/** What planning may know besides the estate. */
export interface PlanContext {
  /** The lab's simulated time. */
  now: Milliseconds;
  /** The lab's month, `2031-04`: names must not be dated after it. */
  month: string;
  /** A new id, the same in preview and in run. */
  newId: (kind: Kind) => string;
}

/** Who carries a step out. What is only Trabes' own record needs no device. */
export interface StepDevice {
  kind: 'array' | 'host' | 'fabric' | 'record';
  id: string;
  name: string;
}

/** One thing a device does, in one go: it is committed whole or not at all. */
export interface PlannedStep {
  device: StepDevice;
  title: string;
  takes: Milliseconds;
  effects: Effect[];
  /** What the administrator should know, though nothing forbids the step. */
  notes: string[];
  /** What is lost for good; such a step cannot be undone. */
  destroys: string | null;
  /** How it is taken back, where that is not by undoing it: a sentence. */
  back?: string;
  /** What is usually done after it. */
  next: NextStep[];
}

export { nextStep, type NextStep } from './next-step';

export type Planned = { ok: true; step: PlannedStep } | { ok: false; refusals: Refusal[] };

export interface Choice {
  value: string;
  label: string;
  /** Why it cannot be chosen. */
  unfit?: string;
}

/** What the estate says about a field of a form, whether or not the rest is filled in. */
export interface FieldForetold {
  /** The consequence of the present value. */
  says?: string;
  choices?: Choice[];
  suggested?: string | string[];
}

/** Which drives hold what of the first stripes of a group. */
export interface LayoutSketch {
  drives: string[];
  /** A row of strips: for each drive what it holds, or null. */
  rows: ({ stripe: number; what: 'data' | 'copy' | 'parity' | 'spare'; text: string } | null)[][];
}

export interface Foretold {
  fields: Record<string, FieldForetold>;
  layout?: LayoutSketch;
  /** Drives that would be chosen by themselves. */
  chosen?: { drives: string[]; why: string };
  /** Alternatives side by side, for the operations that offer a comparison. */
  comparison?: Comparison;
}

/** Alternatives of one field side by side: a line each, with figures that can be sorted by. */
export interface Comparison {
  field: string;
  columns: {
    key: string;
    label: string;
    /** Whether more is better, or less; a bar is drawn for its value where neither end is endless. */
    better: 'more' | 'less';
    bar?: true;
  }[];
  lines: {
    value: string;
    label: string;
    sketch: { data: number; parity: number; mirror: boolean };
    cells: { text: string; value: number }[];
    unfit?: string;
  }[];
  /** Which alternative serves a goal best, and why. */
  advice: { goal: string; value: string; why: string }[];
}

/** Parameters as a form holds them while they are typed. */
export type Draft = Readonly<Record<string, unknown>>;

/**
 * One kind of operation. Interface forms, API, OpenAPI document and change files all come from it.
 * `P` are the parameters after the schema has read them.
 */
export interface OperationType<P = unknown> {
  kind: string;
  /** What a person does with it: a short verb phrase. */
  verb: string;
  summary: string;
  schema: z.ZodType<P>;
  form: Form<P>;
  title(params: P): string;
  /** One operation may be many like steps: the parameters of each. */
  units(params: P): P[];
  /** What holds for the operation as a whole; asked before the first unit is planned. */
  check?(view: EstateView, params: P, context: PlanContext): Refusal[];
  /** Pure: what one unit would do to the estate as given, or why not. */
  plan(view: EstateView, params: P, context: PlanContext): Planned;
  foretell(view: EstateView, draft: Draft, context: PlanContext): Foretold;
}

export const planned = (step: Omit<PlannedStep, 'notes' | 'destroys' | 'next'> & Partial<PlannedStep>): Planned => ({
  ok: true,
  step: { notes: [], destroys: null, next: [], ...step },
});

export const refused = (refusals: Refusal[]): Planned => ({ ok: false, refusals });

/** For what is computed beside a form and never kept. */
export function scratchContext(): PlanContext {
  let count = 0;
  return { now: 0, month: '9999-12', newId: (kind) => `${kind}_scratch_${count++}` };
}
