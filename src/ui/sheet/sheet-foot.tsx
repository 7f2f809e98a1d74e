import { Checkbox } from 'radix-ui';
import type { Preview } from '@/core/change/preview';
import type { NextStep } from '@/core/operation/operation';
import { formatDuration } from '@/core/units/duration';
import type { ApiRefusal } from '../api/client';
import { usePlace } from '../shell/place';
import { NOTHING_CHANGES } from '@/core/operation/refusal';
import { MainKey } from './sheet-frame';

const STEPS = 4;

function undoWords({ destroys, steps }: Preview): string {
  if (destroys.length > 0) return 'It cannot be undone.';
  const back = steps.find((step) => step.back !== undefined)?.back;
  if (back !== undefined) return back;
  return steps.every((step) => step.idle) ? 'Nothing of it is left to undo.' : 'It can be undone.';
}

/** What the line beside the button says: why it cannot be added, or how long it takes and whether it can be undone. */
function lineOf(answer: Preview | null, attempted: boolean): string {
  const [refusal] = answer?.refusals ?? [];
  // A sheet that was only opened is not reproached with it.
  if (refusal?.code === NOTHING_CHANGES && !attempted) return 'Nothing would change yet.';
  if (refusal) return `${refusal.message} ${refusal.mend}`;
  if (!answer || answer.steps.length === 0) return '';
  return `Takes ${formatDuration(answer.takes)}. ${undoWords(answer)}`;
}

export function Foot({
  answer,
  problem,
  ready,
  pending,
  attempted,
  onAdd,
  revising,
  next,
  withNext,
  onWithNext,
}: {
  answer: Preview | null;
  problem: ApiRefusal | null;
  ready: boolean;
  pending: boolean;
  attempted: boolean;
  onAdd: () => void;
  revising: boolean;
  next: readonly NextStep[];
  withNext: boolean;
  onWithNext: (wanted: boolean) => void;
}) {
  const { openStep } = usePlace();
  const refusal = answer?.refusals[0];
  // Names may be the same on several arrays: where there are several, each step says its own.
  const several = new Set(answer?.steps.map(({ device }) => device.id)).size > 1;
  return (
    <div className="grid gap-2">
      <h2 className="caps">What will happen</h2>
      {problem && (
        <p role="alert" className="refusal">
          {problem.message} <span className="text-ink">{problem.mend}</span>
        </p>
      )}
      <ol className="grid gap-1">
        {answer?.steps.slice(0, STEPS).map((step, k) => (
          <li key={k} className="flex items-baseline gap-2">
            <span className="step-square ml-0! self-start">{k + 1}</span>
            <span>
              {step.title}
              {several && <span className="narrow text-ink2"> on {step.device.name}</span>}
              {step.notes.map((note) => (
                <span key={note} className="block text-ink2">
                  {note}
                </span>
              ))}
              {step.destroys && <span className="block text-red">Lost for good: {step.destroys}.</span>}
            </span>
          </li>
        ))}
        {answer && answer.steps.length > STEPS && (
          <li className="text-ink2">
            and {answer.steps.length - STEPS} more {answer.steps.length - STEPS === 1 ? 'step' : 'steps'}
          </li>
        )}
        {answer?.steps.length === 0 && !refusal && <li className="text-ink2">Nothing yet.</li>}
      </ol>
      {next.length > 0 && (
        <label className="flex items-start gap-2">
          <Checkbox.Root
            checked={withNext}
            onCheckedChange={(checked) => onWithNext(checked === true)}
            className="mt-[2px] grid size-[15px] flex-none place-items-center border border-ink"
          >
            <Checkbox.Indicator className="size-[9px] bg-ink" />
          </Checkbox.Root>
          <span>
            Then also:{' '}
            {next
              .slice(0, 4)
              .map((step) => step.label)
              .join(', ')}
            {next.length > 4 ? ` and ${next.length - 4} more` : ''}
          </span>
        </label>
      )}
      <div className="flex items-center gap-3">
        <span className={`min-w-0 flex-1 ${attempted && refusal ? 'text-red' : 'text-ink2'}`}>
          {lineOf(answer, attempted)}
        </span>
        {refusal?.offer && (
          <button type="button" className="verb flex-none" onClick={() => openStep(refusal.offer!)}>
            {refusal.offer.label}
          </button>
        )}
        <MainKey />
        <button
          type="button"
          data-main
          className={`btn ${ready ? 'solid' : ''}`}
          aria-disabled={!ready}
          disabled={pending}
          onClick={onAdd}
        >
          {pending ? 'Adding …' : revising ? 'Put into the draft' : 'Add to draft'}
        </button>
      </div>
    </div>
  );
}
