import { barredByMoves } from '../moving/bar';
import { barredByMachines } from '../machine/bar';
import { barredByOutside } from '../outside/bar';
import { idFor, type Kind } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { compacted, type Effect } from '../estate/effects';
import { hexFrom } from '../estate/random';
import { refused, type OperationType, type PlanContext, type Planned, type PlannedStep } from '../operation/operation';
import { refusalOf, tried } from '../rules/book';
import { NOTHING_CHANGES, type Refusal } from '../operation/refusal';
import { isSecretField } from '../kinds/secret-field';
import type { Milliseconds } from '../units/duration';
import { notReached } from './reached';
import { readOperation, readRecipe, type OperationDocument } from './registry';
import { whole, type InParts } from '../units/in-parts';

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
  /** The operations with what recipes unfold to in their place. */
  unfolded: OperationDocument[];
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

/** Most operations of a change, and most units that they come to: what a person can still look through, and a server hold. */
export const MOST_OPERATIONS = 2000;
export const MOST_UNITS = 5000;

const tooMany = (message: string, mend: string): Refusal => ({
  code: 'change-too-large',
  subject: { kind: 'change', name: 'the change' },
  message,
  mend,
});

/**
 * Whether an operation that says how something is to be leaves everything as it is. One that enters a secret is let through: whether it is the
 * one that is kept already is told to nobody.
 */
const changesNothing = (type: OperationType, params: unknown, steps: readonly PlannedStep[]): boolean =>
  type.kind.endsWith('.configure') &&
  steps.length > 0 &&
  steps.every((step) => step.effects.every(standsStill)) &&
  !entersSecret(params as object);

const entersSecret = (params: object): boolean =>
  Object.entries(params).some(([field, value]) => isSecretField(field) && value !== undefined);

const standsStill = ({ before, after }: Effect): boolean => JSON.stringify(before) === JSON.stringify(after);

const nothingChanges = (title: string, { device }: PlannedStep): Refusal => ({
  code: NOTHING_CHANGES,
  subject: device.kind === 'record' ? { kind: 'operation', name: device.name } : { ...device, kind: device.kind },
  message: `"${title}" would change nothing: what it names is so already.`,
  mend: 'Say what is to be otherwise, or leave the operation out.',
});

/** Plans operations one after the other, each on the estate as those before it leave it. Collects what is refused and goes on. */
export const planChange = (view: EstateView, operations: readonly OperationDocument[], basis: PlanBasis): ChangePlan =>
  whole(planningChange(view, operations, basis));

/** The same in parts, a unit each. */
export function* planningChange(
  view: EstateView,
  operations: readonly OperationDocument[],
  basis: PlanBasis,
): InParts<ChangePlan> {
  const overlay = new Overlay(view);
  const steps: StepOfChange[] = [];
  const refusals: Refusal[] = [];
  /** Names that refused operations would have made: that they are unknown later needs no second refusal. */
  const neverMade = new Set<string>();
  const of = operations.length;
  if (of > MOST_OPERATIONS)
    refusals.push(
      tooMany(
        `The change holds ${of} operations; ${MOST_OPERATIONS} is the most.`,
        'Make several changes of it, or fewer operations with a count.',
      ),
    );
  let units = 0;
  const flat: OperationDocument[] = [];

  for (const [operation, document] of operations.slice(0, MOST_OPERATIONS).entries()) {
    const refuse = (found: readonly Refusal[]) => {
      for (const refusal of found)
        if (!(refusal.code.endsWith('-unknown') && neverMade.has(refusal.subject.name)))
          refusals.push({ ...refusal, operation });
      if (typeof document.name === 'string') neverMade.add(document.name);
    };
    let made = 0;
    /** Units of all that a recipe unfolds to are counted through. */
    const carryOut = function* (written: OperationDocument, followed = false): InParts<boolean> {
      const read = readOperation(written);
      if (!read.ok) return (refuse(read.refusals), false);
      const checked = read.type.check?.(overlay, read.params, contextFor(basis, operation, made)) ?? [];
      if (checked.length > 0) return (refuse(checked), false);
      const parts = read.type.units(read.params);
      units += parts.length;
      if (units > MOST_UNITS)
        return (
          refuse([
            tooMany(
              `The change comes to more than ${MOST_UNITS} steps with operation ${operation + 1}.`,
              'Make several changes of it.',
            ),
          ]),
          false
        );
      const begun = steps.length;
      for (const params of parts) {
        const unit = made++;
        const planned = planUnit(overlay, read.type, params, contextFor(basis, operation, unit));
        if (!planned.ok) return (refuse(planned.refusals), false);
        overlay.apply(planned.step.effects);
        // What a recipe goes on with need not be offered.
        steps.push({ ...planned.step, ...(followed ? { next: [] } : {}), operation, unit });
        yield { done: operation, of };
      }
      // What a recipe writes may find a part done already.
      if (written !== document || !changesNothing(read.type, read.params, steps.slice(begun))) return true;
      const [idle] = steps.splice(begun);
      refuse([nothingChanges(read.type.title(read.params), idle!)]);
      return false;
    };
    const recipe = readRecipe(document);
    const parts = recipe?.ok ? recipe.type.unfold(overlay, recipe.params, contextFor(basis, operation, 0)) : null;
    flat.push(...(parts?.ok ? parts.operations : [document]));
    if (!recipe) yield* carryOut(document);
    else if (!recipe.ok) refuse(recipe.refusals);
    else if (!parts!.ok) refuse(parts!.refusals);
    else
      for (const [k, one] of parts!.operations.entries())
        if (!(yield* carryOut(one, k < parts!.operations.length - 1))) break;
    yield { done: operation + 1, of };
  }
  return { steps, refusals, unfolded: [...flat, ...operations.slice(MOST_OPERATIONS)], overlay };
}

/**
 * The operations with each recipe replaced by what it unfolds to on the estate as those before it leave it. One that is refused stays, so that
 * it can be mended.
 */
export const unfolded = (
  view: EstateView,
  operations: readonly OperationDocument[],
  basis: PlanBasis,
): OperationDocument[] => whole(unfolding(view, operations, basis));

/** The same in parts. */
export function* unfolding(
  view: EstateView,
  operations: readonly OperationDocument[],
  basis: PlanBasis,
): InParts<OperationDocument[]> {
  if (!operations.some((one) => readRecipe(one)?.ok)) return [...operations];
  return (yield* planningChange(view, operations, basis)).unfolded;
}

/**
 * Plans one unit and asks the rule book of it. An operation refuses in its own words what it must not do; what the book finds beyond that is
 * refused as well, and so is what a device would not answer to, so that nothing is foretold that its commit would turn away.
 */
export function planUnit(view: EstateView, type: OperationType, params: unknown, context: PlanContext): Planned {
  const planned = type.plan(view, params, context);
  if (!planned.ok) return planned;
  const silent = notReached(view, planned.step);
  if (silent) return refused([silent]);
  const step = { ...planned.step, effects: compacted(planned.step.effects) };
  const barred = [
    ...barredByMoves(view, step.effects),
    ...barredByOutside(view, step.effects),
    ...barredByMachines(view, step.effects),
  ];
  if (barred.length > 0) return refused(barred);
  const { broken } = tried(view, step.effects, 'between rows');
  return broken.length === 0 ? { ok: true, step } : refused(broken.map(refusalOf));
}
