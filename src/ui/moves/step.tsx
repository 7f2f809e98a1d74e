import type { NextStep } from '@/core/operation/next-step';
import { momentText, timeText } from '@/core/units/date';
import { usePlace } from '../shell/place';

/** A step as the core tells it. */
interface Told {
  title: string;
  /** Over, under way or waiting for somebody, to come. */
  is: 'done' | 'now' | 'next';
  at: number | null;
  lines: readonly { says: string; at?: number; ok?: boolean; mend?: string; offer?: NextStep }[];
}

const squares: Record<Told['is'], string> = {
  done: 'bg-ink text-paper border-ink',
  now: 'border-ink text-ink shadow-[0_0_0_2px_var(--marker)]',
  next: 'border-field text-ink2',
};
const isWords: Record<Told['is'], string> = { done: 'done', now: 'now', next: 'to come' };

/** One step of a way, with what is to be seen of it. */
export function Step({
  step,
  number,
  last,
  children,
}: {
  step: Told;
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

/** What was noted of it. */
export function StepLog({ log }: { log: readonly { at: number; says: string }[] }) {
  return (
    <section aria-label="Log" className="mt-1 border-t border-rule pt-1.5">
      <h3 className="caps">Log, newest first</h3>
      {log.map(({ at, says }, k) => (
        <p key={`${at} ${k}`} className="flex gap-2">
          <span className="mono flex-none text-[11.5px] leading-[18px] text-ink2">{momentText(at)}</span>
          <span className="min-w-0 break-words">{says}</span>
        </p>
      ))}
    </section>
  );
}

/** What stands beside the table: one thing closely, its steps and its log, and what else can be done with it. */
export function StepPanel({
  label,
  name,
  says,
  verbs,
  onClose,
  children,
}: {
  label: string;
  name: string;
  says: string;
  verbs: readonly NextStep[];
  onClose: () => void;
  children: React.ReactNode;
}) {
  const { openStep } = usePlace();
  return (
    <aside
      aria-label={label}
      className="flex min-h-0 flex-col border-l border-ink bg-raised"
      onKeyDown={(event) => event.key === 'Escape' && onClose()}
    >
      <div className="flex flex-none items-baseline gap-3 border-b border-ink px-3.5 py-2">
        <h2 className="min-w-0 truncate text-[18px] font-[740] [font-stretch:84%]">
          <span className="swipe">{name}</span>
        </h2>
        <span className="min-w-0 flex-1 truncate text-ink2" title={says}>
          {says}
        </span>
      </div>
      <div className="scroller min-h-0 flex-1 px-3.5 py-2">{children}</div>
      {verbs.length > 0 && (
        <div className="flex flex-none flex-wrap gap-4 border-t border-ink px-3.5 py-2">
          {verbs.map((verb) => (
            <button key={verb.label} type="button" className="verb" onClick={() => openStep(verb)}>
              {verb.label}
            </button>
          ))}
        </div>
      )}
    </aside>
  );
}
