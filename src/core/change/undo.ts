import { kindWords } from '../estate/entities';
import type { Effect } from '../estate/effects';
import { reverse } from '../estate/reverse';
import { Overlay, type EstateView } from '../estate/estate';
import type { Refusal } from '../operation/refusal';

/** A step that was committed, as the record keeps it. */
export interface CommittedStep {
  title: string;
  effects: readonly Effect[];
  destroys: string | null;
}

export type UndoneStep = { ok: true; effects: Effect[] } | { ok: false; refusals: Refusal[] };

/** The effects that take one committed step back as the estate now stands, or why it must stay. */
export function undoStep(view: EstateView, step: CommittedStep): UndoneStep {
  if (step.destroys)
    return {
      ok: false,
      refusals: [
        {
          code: 'destroyed',
          subject: { kind: 'change', name: step.title },
          message: `"${step.title}" destroyed ${step.destroys}.`,
          mend: 'Restore it from a copy; this step cannot be undone.',
        },
      ],
    };
  const { effects, conflicts } = reverse(view, step.effects);
  if (conflicts.length === 0) return { ok: true, effects };
  return {
    ok: false,
    refusals: conflicts.map((conflict) => ({
      code: 'undo-conflict',
      subject: { kind: conflict.kind, id: conflict.id, name: conflict.name },
      message: `${kindWords[conflict.kind]} ${conflict.name} ${conflict.why}.`,
      mend: `Take that back first, or retire ${conflict.name} by hand.`,
    })),
  };
}

/** Whether committed steps, given in the order they were done, can be undone from the last on; stops at the first that cannot. */
export function planUndo(
  view: EstateView,
  steps: readonly CommittedStep[],
): { refusals: Refusal[]; overlay: Overlay; undone: number } {
  const overlay = new Overlay(view);
  let undone = 0;
  for (const step of [...steps].reverse()) {
    const result = undoStep(overlay, step);
    if (!result.ok) return { refusals: result.refusals, overlay, undone };
    overlay.apply(result.effects);
    undone += 1;
  }
  return { refusals: [], overlay, undone };
}
