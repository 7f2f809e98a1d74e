import { idFor, type Kind } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { compacted } from '../estate/effects';
import { hexFrom } from '../estate/random';
import type { OperationType, PlanContext, Planned, PlannedStep } from '../operation/operation';
import type { Refusal } from '../operation/refusal';
import type { Milliseconds } from '../units/duration';
import { readOperation, type OperationDocument } from './registry';

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
    const read = readOperation(document);
    if (!read.ok) return refuse(read.refusals);
    const checked = read.type.check?.(overlay, read.params, contextFor(basis, operation, 0)) ?? [];
    if (checked.length > 0) return refuse(checked);
    const units = read.type.units(read.params);
    for (let unit = 0; unit < units.length; unit++) {
      const planned = planUnit(overlay, read.type, units[unit], contextFor(basis, operation, unit));
      if (!planned.ok) return refuse(planned.refusals);
      overlay.apply(planned.step.effects);
      steps.push({ ...planned.step, operation, unit });
    }
  });
  return { steps, refusals, overlay };
}

export function planUnit(view: EstateView, type: OperationType, params: unknown, context: PlanContext): Planned {
  const planned = type.plan(view, params, context);
  return planned.ok ? { ok: true, step: { ...planned.step, effects: compacted(planned.step.effects) } } : planned;
}
