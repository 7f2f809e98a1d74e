import type { z } from 'zod';
import type { EstateView } from '../estate/estate';
import type { Form } from './form';
import type { Draft, Foretold, PlanContext } from './operation';
import type { Refusal } from './refusal';

/** An operation as it is written in a change. */
export interface Written {
  do: string;
  [parameter: string]: unknown;
}

export type Unfolded = { ok: true; operations: Written[] } | { ok: false; refusals: Refusal[] };

/** A usual job that unfolds to operations, each of which can be seen and changed before it runs. */
export interface RecipeType<P = unknown> {
  kind: string;
  verb: string;
  summary: string;
  schema: z.ZodType<P>;
  form: Form<P>;
  title(params: P): string;
  /** Pure: the operations on the estate as given, or why not. */
  unfold(view: EstateView, params: P, context: PlanContext): Unfolded;
  foretell(view: EstateView, draft: Draft, context: PlanContext): Foretold;
}
