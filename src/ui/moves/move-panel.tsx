'use client';
import { useQuery } from '@tanstack/react-query';
import type { MoveAnswer, MoveStep } from '@/core/moving/answers';
import { momentText, timeText } from '@/core/units/date';
import { api } from '../api/client';
import { usePlace } from '../shell/place';

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
        <Log move={data} />
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

const squares: Record<MoveStep['is'], string> = {
  done: 'bg-ink text-paper border-ink',
  now: 'border-ink text-ink shadow-[0_0_0_2px_var(--marker)]',
  next: 'border-field text-ink2',
};
const isWords: Record<MoveStep['is'], string> = { done: 'done', now: 'now', next: 'to come' };

function Step({
  step,
  number,
  last,
  children,
}: {
  step: MoveStep;
  number: number;
  last: boolean;
  children: React.ReactNode;
}) {
  const { openStep } = usePlace();
  return (
    <li className="grid grid-cols-[22px_minmax(0,1fr)] gap-x-2.5">
      <span className="flex flex-col items-center">
        <span
          className={`num flex h-[17px] w-[17px] flex-none items-center justify-center border text-[11px] font-[700] ${squares[step.is]}`}
        >
          {number}
        </span>
        {!last && <span className="w-px flex-1 bg-ink" />}
      </span>
      <div className="min-w-0 pb-2">
        <p className="flex items-baseline gap-2">
          <b className="min-w-0 flex-1 font-[640]">
            {step.title}
            <span className="sr-only">, {isWords[step.is]}</span>
          </b>
          {step.at !== null && <span className="num text-ink2">{momentText(step.at)}</span>}
        </p>
        {step.lines.map((line) => (
          <p key={line.says} className="flex gap-2 text-ink2">
            <span className={`min-w-0 flex-1 break-words ${line.ok === false ? 'text-red' : ''}`}>
              {line.ok === undefined ? '' : line.ok ? 'yes: ' : '✕ '}
              {line.says}
              {line.mend && ` ${line.mend}`}
              {line.offer && (
                <>
                  {' '}
                  <button type="button" className="verb" onClick={() => openStep(line.offer!)}>
                    {line.offer.label}
                  </button>
                </>
              )}
            </span>
            {line.at !== undefined && (
              <span className="mono flex-none text-[11.5px]">{timeText(line.at).slice(-5)}</span>
            )}
          </p>
        ))}
        {children}
      </div>
    </li>
  );
}

function Log({ move }: { move: MoveAnswer }) {
  return (
    <section aria-label="Log" className="mt-1 border-t border-rule pt-1.5">
      <h3 className="caps">Log, newest first</h3>
      {move.log.map(({ at, says }, k) => (
        <p key={`${at} ${k}`} className="flex gap-2">
          <span className="mono flex-none text-[11.5px] leading-[18px] text-ink2">{momentText(at)}</span>
          <span className="min-w-0 break-words">{says}</span>
        </p>
      ))}
    </section>
  );
}
