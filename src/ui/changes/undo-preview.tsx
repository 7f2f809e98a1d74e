'use client';
import type { ChangeView } from '@/core/change/record';
import { formatDuration } from '@/core/units/duration';
import { RefusalLine } from '../sheet/refusal-line';
import { Figures } from './figures';

/** What undo would take back as things stand now, the last step first; or why it cannot, and what would mend that. */
export function UndoPreview({ undo }: { undo: ChangeView['undo'] }) {
  if (undo.steps.length === 0 && undo.refusals.length === 0) return null;
  return (
    <section aria-label="Undo">
      <h2 className="caps border-b border-ink pt-4 pb-1">If undone now</h2>
      {undo.refusals.map((refusal) => (
        <RefusalLine key={`${refusal.code} ${refusal.message}`} refusal={refusal} />
      ))}
      {undo.possible && (
        <>
          <ol>
            {undo.steps.map((step, k) => (
              <li key={k} className="flex items-baseline gap-2 border-b border-rule-faint py-1">
                <span className="step-square ml-0! self-start" data-state="undone">
                  {undo.steps.length - k}
                </span>
                <span className="min-w-0 flex-1">
                  {step.title}
                  {step.says.map((says) => (
                    <span key={says} className="block text-ink2">
                      {says}
                    </span>
                  ))}
                </span>
              </li>
            ))}
          </ol>
          <p className="pt-1 text-ink2">
            {undo.steps.length} {undo.steps.length === 1 ? 'step' : 'steps'}, {formatDuration(undo.takes)}.
          </p>
          <Figures figures={undo.figures} caption="Before and after undo" />
        </>
      )}
    </section>
  );
}
