import type { z } from 'zod';
import type { Kind } from '../estate/entities';
import type { Effect } from '../estate/effects';
import type { EstateView } from '../estate/estate';
import type { Milliseconds } from '../units/duration';
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

/** One thing a device does, in one go: it is committed whole or not at all. */
export interface PlannedStep {
  device: { kind: 'array' | 'host'; id: string; name: string };
  title: string;
  takes: Milliseconds;
  effects: Effect[];
  /** What the administrator should know, though nothing forbids the step. */
  notes: string[];
  /** What is lost for good; such a step cannot be undone. */
  destroys: string | null;
}

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

export interface Foretold {
  fields: Record<string, FieldForetold>;
  /** Alternatives side by side, for the operations that offer a comparison. */
  comparison?: Comparison;
}

export interface Comparison {
  field: string;
  rows: string[];
  columns: {
    value: string;
    label: string;
    sketch: { data: number; parity: number; mirror: boolean };
    cells: string[];
    unfit?: string;
  }[];
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
  title(params: P): string;
  /** One operation may be many like steps: the parameters of each. */
  units(params: P): P[];
  /** What holds for the operation as a whole; asked before the first unit is planned. */
  check?(view: EstateView, params: P, context: PlanContext): Refusal[];
  /** Pure: what one unit would do to the estate as given, or why not. */
  plan(view: EstateView, params: P, context: PlanContext): Planned;
  foretell(view: EstateView, draft: Draft, context: PlanContext): Foretold;
}

export const planned = (step: Omit<PlannedStep, 'notes' | 'destroys'> & Partial<PlannedStep>): Planned => ({
  ok: true,
  step: { notes: [], destroys: null, ...step },
});

export const refused = (refusals: Refusal[]): Planned => ({ ok: false, refusals });
