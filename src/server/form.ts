import { contextFor, planningChange } from '@/core/change/plan';
import type { InParts } from '@/core/units/in-parts';
import { previewingChange, type Preview } from '@/core/change/preview';
import { askable, type OperationDocument } from '@/core/change/registry';
import type { Foretold } from '@/core/operation/operation';
import { readOperations } from '@/store/change-rows';
import type { Trabes } from './instance';
import { Problem } from './problem';
import { ofOneMoment, type Watching } from './slices';

export interface FormAnswer extends Foretold {
  /** What the operation would do, planned on top of the draft. */
  preview: Preview;
  /** What the operation is called as a whole, however many steps it takes. */
  title: string;
}

/** What a form shows beside its fields while it is filled in: computed on the estate as the draft would leave it. */
export async function answerForm(
  { plant }: Trabes,
  kind: string,
  open: Record<string, unknown>,
  change: string | null,
  before?: number,
  lens: Record<string, unknown> = {},
  watching: Watching = {},
): Promise<FormAnswer> {
  const type = askable(kind);
  if (!type) throw new Problem(404, 'operation-unknown', `There is no operation ${kind}.`, 'See /api/v1/operations.');
  const [{ do: _kind, ...params }] = plant.vault.printed([{ ...open, do: kind }]) as [OperationDocument];
  const drafted: OperationDocument[] = change ? readOperations(plant.store.db, change).slice(0, before) : [];
  const basis = plant.basis('form');
  function* working(): InParts<FormAnswer> {
    const { overlay } = yield* planningChange(plant.estate, drafted, plant.basis(change ?? 'form'));
    const read = type!.schema.safeParse(params);
    return {
      title: read.success ? type!.title(read.data) : type!.verb,
      ...type!.foretell(overlay, { ...params, ...lens }, contextFor(basis, 0, 0)),
      preview: yield* previewingChange(overlay, [{ ...params, do: kind }], basis),
    };
  }
  return ofOneMoment(plant, working, watching);
}
