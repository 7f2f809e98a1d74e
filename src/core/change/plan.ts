import { idFor, type Kind } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { compacted } from '../estate/effects';
import { hexFrom } from '../estate/random';
import { refused, type OperationType, type PlanContext, type Planned, type PlannedStep } from '../operation/operation';
import { refusalOf, tried } from '../rules/book';
import type { Refusal } from '../operation/refusal';
import type { Milliseconds } from '../units/duration';
import { readOperation, readRecipe, type OperationDocument } from './registry';

/** What a plan is made against, besides the estate. The seed makes the ids: preview and run of one change name the same things. */
export interface PlanBasis {
  seed: string;
  now: Milliseconds;
  month: string;
}

export interface StepOfChange extends PlannedStep {
  operation: number;
  unit: number;
}

export interface ChangePlan {
  steps: StepOfChange[];
  refusals: Refusal[];
  /** The estate as it would be. */
  overlay: Overlay;
}

export function contextFor(basis: PlanBasis, operation: number, unit: number): PlanContext {
  let count = 0;
  return {
    now: basis.now,
    month: basis.month,
    newId: (kind: Kind) => idFor(kind, hexFrom(`${basis.seed}/${operation}/${unit}/${count++}`, 12)),
  };
}

/** Plans operations one after the other, each on the estate as those before it leave it. Collects what is refused and goes on. */
export function planChange(view: EstateView, operations: readonly OperationDocument[], basis: PlanBasis): ChangePlan {
  const overlay = new Overlay(view);
  const steps: StepOfChange[] = [];
  const refusals: Refusal[] = [];
  /** Names that refused operations would have made: that they are unknown later needs no second refusal. */
  const neverMade = new Set<string>();

  operations.forEach((document, operation) => {
    const refuse = (found: readonly Refusal[]) => {
      for (const refusal of found)
        if (!(refusal.code.endsWith('-unknown') && neverMade.has(refusal.subject.name)))
          refusals.push({ ...refusal, operation });
      if (typeof document.name === 'string') neverMade.add(document.name);
    };
    let made = 0;
    /** Units of all that a recipe unfolds to are counted through. */
    const carryOut = (written: OperationDocument): boolean => {
      const read = readOperation(written);
      if (!read.ok) return (refuse(read.refusals), false);
      const checked = read.type.check?.(overlay, read.params, contextFor(basis, operation, made)) ?? [];
      if (checked.length > 0) return (refuse(checked), false);
      for (const params of read.type.units(read.params)) {
        const unit = made++;
        const planned = planUnit(overlay, read.type, params, contextFor(basis, operation, unit));
        if (!planned.ok) return (refuse(planned.refusals), false);
        overlay.apply(planned.step.effects);
        steps.push({ ...planned.step, operation, unit });
      }
      return true;
    };
    const recipe = readRecipe(document);
    if (!recipe) return void carryOut(document);
    if (!recipe.ok) return refuse(recipe.refusals);
    const unfolded = recipe.type.unfold(overlay, recipe.params, contextFor(basis, operation, 0));
    if (!unfolded.ok) return refuse(unfolded.refusals);
    for (const one of unfolded.operations) if (!carryOut(one)) return;
  });
  return { steps, refusals, overlay };
}

/**
 * The operations with each recipe replaced by what it unfolds to on the estate as those before it leave it. One that is refused stays, so that
 * it can be mended.
 */
export function unfolded(
  view: EstateView,
  operations: readonly OperationDocument[],
  basis: PlanBasis,
): OperationDocument[] {
  return operations.flatMap((document, k) => {
    const recipe = readRecipe(document);
    if (!recipe?.ok) return [document];
    const { overlay } = planChange(view, operations.slice(0, k), basis);
    const parts = recipe.type.unfold(overlay, recipe.params, contextFor(basis, k, 0));
    return parts.ok ? parts.operations : [document];
  });
}

/**
 * Plans one unit and asks the rule book of it. An operation refuses in its own words what it must not do; what the book finds beyond that is
 * refused as well, so that nothing reaches a device that its commit would turn away.
 */
export function planUnit(view: EstateView, type: OperationType, params: unknown, context: PlanContext): Planned {
  const planned = type.plan(view, params, context);
  if (!planned.ok) return planned;
  const step = { ...planned.step, effects: compacted(planned.step.effects) };
  const { broken } = tried(view, step.effects);
  return broken.length === 0 ? { ok: true, step } : refused(broken.map(refusalOf));
}
