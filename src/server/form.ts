import { contextFor, planChange } from '@/core/change/plan';
import { previewChange, type Preview } from '@/core/change/preview';
import { askable, type OperationDocument } from '@/core/change/registry';
import type { Foretold } from '@/core/operation/operation';
import { readOperations } from '@/store/change-rows';
import type { Trabes } from './instance';
import { Problem } from './problem';

export interface FormAnswer extends Foretold {
  /** What the operation would do, planned on top of the draft. */
  preview: Preview;
}

/** What a form shows beside its fields while it is filled in: computed on the estate as the draft would leave it. */
export function answerForm(
  { plant }: Trabes,
  kind: string,
  open: Record<string, unknown>,
  change: string | null,
  before?: number,
  lens: Record<string, unknown> = {},
): FormAnswer {
  const params = plant.vault.sealed(open);
  const type = askable(kind);
  if (!type) throw new Problem(404, 'operation-unknown', `There is no operation ${kind}.`, 'See /api/v1/operations.');
  const drafted: OperationDocument[] = change ? readOperations(plant.store.db, change).slice(0, before) : [];
  const { overlay } = planChange(plant.estate, drafted, plant.basis(change ?? 'form'));
  const basis = plant.basis('form');
  return {
    ...type.foretell(overlay, { ...params, ...lens }, contextFor(basis, 0, 0)),
    preview: previewChange(overlay, [{ ...params, do: kind }], basis),
  };
}
