'use client';
import { useQuery } from '@tanstack/react-query';
import { api } from '../api/client';
import { usePlace } from '../shell/place';
import { Step, StepLog } from './step';

/** One LUN of an outside array: its way in step by step, what stands against the next one, and the way back. */
export function OutsidePanel({ id, onClose }: { id: string; onClose: () => void }) {
  const { openStep } = usePlace();
  const lun = useQuery({ queryKey: ['moves', 'outside', id], queryFn: () => api.outsideLun(id), retry: false });
  const data = lun.data;
  if (lun.error) return <p className="refusal m-3">The LUN was asked for. {lun.error.message}</p>;
  if (!data) return <p className="p-3 text-ink2">Reading the LUN…</p>;
  return (
    <aside
      aria-label={`Outside LUN ${data.name}`}
      className="flex min-h-0 flex-col border-l border-ink bg-raised"
      onKeyDown={(event) => event.key === 'Escape' && onClose()}
    >
      <div className="flex flex-none items-baseline gap-3 border-b border-ink px-3.5 py-2">
        <h2 className="min-w-0 truncate text-[18px] font-[740] [font-stretch:84%]">
          <span className="swipe">{data.name}</span>
        </h2>
        <span className="min-w-0 flex-1 truncate text-ink2">
          behind {data.array}, {data.says}
        </span>
      </div>
      <div className="scroller min-h-0 flex-1 px-3.5 py-2">
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
      </div>
      {data.verbs.length > 0 && (
        <div className="flex flex-none flex-wrap gap-4 border-t border-ink px-3.5 py-2">
          {data.verbs.map((verb) => (
            <button key={verb.label} type="button" className="verb" onClick={() => openStep(verb)}>
              {verb.label}
            </button>
          ))}
        </div>
      )}
    </aside>
  );
}
