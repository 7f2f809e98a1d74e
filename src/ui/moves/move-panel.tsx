'use client';
import { useQuery } from '@tanstack/react-query';
import { api } from '../api/client';
import { usePlace } from '../shell/place';
import { Step, StepLog, StepPanel } from './step';

/** One move: its seven steps with what is to be seen of each, its log, and what a person can do. */
export function MovePanel({ id, onClose }: { id: string; onClose: () => void }) {
  const { openStep } = usePlace();
  const move = useQuery({ queryKey: ['moves', id], queryFn: () => api.move(id), retry: false });
  const data = move.data;
  if (move.error) return <p className="refusal m-3">The move was asked for. {move.error.message}</p>;
  if (!data) return <p className="p-3 text-ink2">Reading the move…</p>;
  const question = data.verbs.find((verb) => verb.do === 'move.confirm' || verb.do === 'move.accept');
  const others = data.verbs.filter((verb) => verb !== question);
  return (
    <StepPanel
      label={`Move of ${data.name}`}
      name={data.name}
      says={`${data.from} to ${data.to}`}
      verbs={others}
      onClose={onClose}
    >
      <ol aria-label="Steps">
        {data.steps.map((step, k) => (
          <Step key={step.title} step={step} number={k + 1} last={k === data.steps.length - 1}>
            {step.is === 'now' && question && (
              <button type="button" id="move-question" className="btn solid mt-1.5" onClick={() => openStep(question)}>
                {question.label}
              </button>
            )}
          </Step>
        ))}
      </ol>
      {data.notes && <p className="mt-2 border-t border-rule pt-1.5 text-ink2">{data.notes}</p>}
      <StepLog log={data.log} />
    </StepPanel>
  );
}
