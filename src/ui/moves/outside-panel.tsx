'use client';
import { useQuery } from '@tanstack/react-query';
import { api } from '../api/client';
import { usePlace } from '../shell/place';
import { Step, StepLog, StepPanel } from './step';

/** One LUN of an outside array: its way in step by step, what stands against the next one, and the way back. */
export function OutsidePanel({ id, onClose }: { id: string; onClose: () => void }) {
  const { openStep } = usePlace();
  const lun = useQuery({ queryKey: ['moves', 'outside', id], queryFn: () => api.outsideLun(id), retry: false });
  const data = lun.data;
  if (lun.error) return <p className="refusal m-3">The LUN was asked for. {lun.error.message}</p>;
  if (!data) return <p className="p-3 text-ink2">Reading the LUN…</p>;
  return (
    <StepPanel
      label={`Outside LUN ${data.name}`}
      name={data.name}
      says={`behind ${data.array}, ${data.says}`}
      verbs={data.verbs}
      onClose={onClose}
    >
      {data.silent && (
        <p className="refusal mb-2">
          {data.outside} {data.silent}.
        </p>
      )}
      <ol aria-label="Steps">
        {data.steps.map((step, k) => (
          <Step key={step.title} step={step} number={k + 1} last={k === data.steps.length - 1}>
            {step.verbs.map((verb) => (
              <button
                key={verb.label}
                type="button"
                id="move-question"
                className="btn solid mt-1.5"
                onClick={() => openStep(verb)}
              >
                {verb.label}
              </button>
            ))}
          </Step>
        ))}
      </ol>
      <StepLog log={data.log} />
    </StepPanel>
  );
}
