'use client';
import { useQuery } from '@tanstack/react-query';
import { api } from '../api/client';
import { usePlace } from '../shell/place';
import { Step, StepLog } from './step';

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
    <aside
      aria-label={`Move of ${data.name}`}
      className="flex min-h-0 flex-col border-l border-ink bg-raised"
      onKeyDown={(event) => event.key === 'Escape' && onClose()}
    >
      <div className="flex flex-none items-baseline gap-3 border-b border-ink px-3.5 py-2">
        <h2 className="min-w-0 truncate text-[18px] font-[740] [font-stretch:84%]">
          <span className="swipe">{data.name}</span>
        </h2>
        <span className="min-w-0 flex-1 truncate text-ink2" title={`${data.from} to ${data.to}`}>
          {data.from} to {data.to}
        </span>
      </div>
      <div className="scroller min-h-0 flex-1 px-3.5 py-2">
        <ol aria-label="Steps">
          {data.steps.map((step, k) => (
            <Step key={step.title} step={step} number={k + 1} last={k === data.steps.length - 1}>
              {step.is === 'now' && question && (
                <button
                  type="button"
                  id="move-question"
                  className="btn solid mt-1.5"
                  onClick={() => openStep(question)}
                >
                  {question.label}
                </button>
              )}
            </Step>
          ))}
        </ol>
        {data.notes && <p className="mt-2 border-t border-rule pt-1.5 text-ink2">{data.notes}</p>}
        <StepLog log={data.log} />
      </div>
      {others.length > 0 && (
        <div className="flex flex-none flex-wrap gap-4 border-t border-ink px-3.5 py-2">
          {others.map((verb) => (
            <button key={verb.do} type="button" className="verb" onClick={() => openStep(verb)}>
              {verb.label}
            </button>
          ))}
        </div>
      )}
    </aside>
  );
}
