'use client';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { ChangeView } from '@/core/change/record';
import { startOf, waitsForSecond } from '@/core/change/terms';
import { hoursWords } from '@/core/schedule/hours';
import { momentText } from '@/core/units/date';
import { formatDuration } from '@/core/units/duration';
import { api, type ApiRefusal } from '../api/client';
import { AheadSteps } from './ahead-steps';
import { useClock } from '../shell/clock-context';

/** How an approved change runs, and where it stands. */
export function RunTermsLines({ change }: { change: ChangeView }) {
  const clock = useClock();
  const { run } = change;
  if (!run) return null;
  const start =
    clock && change.state === 'approved' ? startOf(run, run.first, Math.max(clock.now, run.startAt ?? 0)) : null;
  const asks = run.confirm.map((k) => String(k + 1)).join(', ');
  const lines = [
    `Approved by ${run.approvedBy}${run.secondBy === null ? '' : ` and ${run.secondBy}`}, ${momentText(run.approvedAt)}; plan ${run.approval.plan}.`,
    ...(waitsForSecond(run) ? ['It does not begin before a second person has approved it.'] : []),
    `Steps begin ${hoursWords({ from: run.fromHour, until: run.untilHour, days: run.days }) ?? 'at any hour'}${run.startAt === null ? '' : `, not before ${momentText(run.startAt)}`}.`,
    `When a step fails, ${run.onFailure === 'undo' ? 'what was done is taken back' : 'it stops where it stands'}.`,
    ...(asks
      ? [`A person is asked before operation ${asks}; no answer within ${formatDuration(run.waits)} counts as no.`]
      : []),
    ...(start ? [begins(start, waitsForSecond(run))] : []),
    ...(run.pause?.why === 'window' ? [`It goes on ${momentText(run.pause.until)}, when its window opens.`] : []),
    ...(run.needsUndo.length > 0 ? [`Hands must take back: ${run.needsUndo.join('; ')}.`] : []),
  ];
  return (
    <ul aria-label="How it runs" className="border-b border-rule py-2">
      {lines.map((line) => (
        <li key={line} className={line.startsWith('Hands') ? 'text-red' : 'text-ink2'}>
          {line}
        </li>
      ))}
    </ul>
  );
}

const begins = (start: ReturnType<typeof startOf>, waits: boolean): string => {
  if (!start.ok) return start.message;
  return waits ? `Approved by then, it begins ${momentText(start.value)}.` : `It begins ${momentText(start.value)}.`;
};

/** What somebody else approved, to be approved by a second person or sent back. */
export function SecondPerson({ change }: { change: ChangeView }) {
  const client = useQueryClient();
  const [by, setBy] = useState('');
  const { run } = change;
  const approve = useMutation<ChangeView, ApiRefusal>({
    mutationFn: () => api.second(change.id, { by, plan: run!.approval.plan }),
    onSettled: () => client.invalidateQueries(),
  });
  if (change.state !== 'approved' || !run || !waitsForSecond(run)) return null;
  return (
    <section aria-label="A second person is asked" className="mt-3 border border-ink bg-raised px-3 py-2">
      <h2 className="font-[640]">A second person is asked</h2>
      <p className="text-ink2">
        {run.approvedBy} approved the steps below. Somebody else looks at them, and approves the same plan or withdraws
        it.
      </p>
      {approve.error && (
        <p role="alert" className="text-red">
          {approve.error.message} {approve.error.mend}
        </p>
      )}
      <form
        className="mt-1.5 flex items-center gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          approve.mutate();
        }}
      >
        <label className="flex items-center gap-2">
          <span className="caps">Approved by</span>
          <input className="field w-44!" value={by} onChange={(event) => setBy(event.target.value)} />
        </label>
        <span className="flex-1" />
        <button type="submit" className="btn solid" disabled={by.trim() === '' || approve.isPending}>
          Approve too
        </button>
      </form>
    </section>
  );
}

/** What a run that waits for a person would do next, as it is now, and the answer. */
export function RunQuestion({ change }: { change: ChangeView }) {
  const client = useQueryClient();
  const [by, setBy] = useState('');
  const { run, ahead } = change;
  const answer = useMutation<ChangeView, ApiRefusal, boolean>({
    mutationFn: (yes) => api.answer(change.id, { by, yes, seen: ahead.map(({ title }) => title) }),
    onSettled: () => client.invalidateQueries(),
  });
  if (change.state !== 'paused' || run?.pause?.why !== 'person') return null;
  const refused = ahead.some(({ refusal }) => refusal !== null);
  return (
    <section aria-label="A person is asked" className="mt-3 border border-ink bg-raised px-3 py-2">
      <h2 className="font-[640]">Look once more: what comes next</h2>
      <AheadSteps ahead={ahead} label="What comes next" />
      <p className="pt-1 text-ink2">
        No answer until {momentText(run.pause.until)} counts as no:{' '}
        {run.onFailure === 'undo' ? 'what was done is taken back.' : 'it stops where it stands.'}
      </p>
      {answer.error && (
        <p role="alert" className="text-red">
          {answer.error.message} {answer.error.mend}
        </p>
      )}
      <div className="mt-1.5 flex items-center gap-3">
        <label className="flex items-center gap-2">
          <span className="caps">Answered by</span>
          <input className="field w-44!" value={by} onChange={(event) => setBy(event.target.value)} />
        </label>
        <span className="flex-1" />
        <button
          type="button"
          className="btn"
          disabled={by.trim() === '' || answer.isPending}
          onClick={() => answer.mutate(false)}
        >
          No
        </button>
        <button
          type="button"
          className="btn solid"
          disabled={by.trim() === '' || refused || answer.isPending}
          onClick={() => answer.mutate(true)}
        >
          Yes, go on
        </button>
      </div>
    </section>
  );
}
