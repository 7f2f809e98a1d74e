'use client';
import { useQuery } from '@tanstack/react-query';
import { formatDistanceToNowStrict } from 'date-fns';
import { api } from '../api/client';
import { labTime } from '../shell/clock-context';
import { usePlace } from '../shell/place';
import { ChangePost } from './change-sheet';
import { changeStateWords } from './words';

/** Every change there was: prepared, run, stopped, undone. */
export function ChangesView() {
  const changes = useQuery({ queryKey: ['changes'], queryFn: api.changes });
  const { open, sheet, given } = usePlace();
  const rows = changes.data?.items ?? [];
  return (
    <main className="flex min-h-0 flex-col bg-paper">
      <div className="flex flex-none items-center gap-4 border-b border-rule px-3 py-1">
        <h1 className="font-[640]">Changes</h1>
        <span className="text-ink2">{rows.length === 0 ? '' : `${rows.length}, newest first`}</span>
        <span className="flex-1" />
        <span className="flex items-center gap-2 text-ink2">
          Export the estate:
          <a className="verb inline-flex items-center" href="/api/v1/estate?format=yaml" download>
            YAML
          </a>
          <a className="verb inline-flex items-center" href="/api/v1/estate" download>
            JSON
          </a>
        </span>
        <button type="button" className="verb" onClick={() => open('file')}>
          Open a change file
        </button>
        <button type="button" className="verb" onClick={() => open('hosts')}>
          Import a list of hosts
        </button>
      </div>
      <div className="scroller min-h-0 flex-1 px-3 pt-2">
        {changes.error && (
          <p className="refusal">
            The list of changes was asked for. {changes.error.message}{' '}
            <button type="button" className="verb" onClick={() => void changes.refetch()}>
              Ask again
            </button>
          </p>
        )}
        {changes.isSuccess && rows.length === 0 && (
          <p className="py-2 text-ink2">
            No change yet. Pick something in the Span and add to the draft, or{' '}
            <button type="button" className="verb" onClick={() => open('file')}>
              open a change file
            </button>
            .
          </p>
        )}
        {rows.length > 0 && (
          <table className="table" aria-label="Changes">
            <thead>
              <tr>
                <th className="caps">State</th>
                <th className="caps">Title</th>
                <th className="caps">From</th>
                <th className="caps right">Operations</th>
                <th className="caps right">Steps done</th>
                <th className="caps">Lab time</th>
                <th className="caps">Prepared</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((change) => {
                const marked = sheet === 'change' && given.id === change.id;
                return (
                  <tr key={change.id} className={marked ? 'bg-wash' : ''}>
                    <td className="whitespace-nowrap">
                      <span className="flex items-center gap-1.5">
                        <ChangePost state={change.state} />
                        {changeStateWords[change.state]}
                      </span>
                    </td>
                    <td>
                      <button
                        type="button"
                        className={`verb text-left whitespace-normal! ${change.state === 'draft' ? 'italic' : ''}`}
                        onClick={() => open('change', { id: change.id })}
                      >
                        {change.title}
                      </button>
                      {change.problem && <span className="block text-red">{change.problem.message}</span>}
                    </td>
                    <td className="text-ink2">{change.origin}</td>
                    <td className="num right">{change.operations}</td>
                    <td className="num right">{change.of === 0 ? '–' : `${change.done}/${change.of}`}</td>
                    <td className="mono whitespace-nowrap">
                      {labTime(change.finishedLab ?? change.startedLab ?? change.createdLab, false)}
                    </td>
                    <td className="whitespace-nowrap text-ink2" suppressHydrationWarning>
                      {formatDistanceToNowStrict(change.createdReal, { addSuffix: true })}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        )}
      </div>
    </main>
  );
}
