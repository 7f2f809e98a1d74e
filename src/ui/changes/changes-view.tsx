'use client';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import type { ChangeSummary } from '@/core/change/record';
import { counted } from '@/core/units/counted';
import { api } from '../api/client';
import { ago } from '../look/ago';
import { labTime } from '../shell/clock-context';
import { VerbChoice } from '../look/verb-choice';
import { useParam, usePlace } from '../shell/place';
import type { Column } from '../table/columns';
import { DataTable } from '../table/data-table';
import { ChangePost } from './change-sheet';
import { Mailbox } from './mailbox';
import { stateOf } from './words';

/** Changes that are listed at first and with each asking for more, and at the most. */
const AT_FIRST = 100;
const MOST = 1000;

/** Every change there was: prepared, run, stopped, undone. */
export function ChangesView() {
  const [most, setMost] = useState(AT_FIRST);
  const changes = useQuery({
    queryKey: ['changes', 'newest', most],
    queryFn: () => api.changes(most),
    placeholderData: keepPreviousData,
  });
  // What waits is in the list however old it is.
  const waiting = useQuery({ queryKey: ['changes', 'open'], queryFn: api.openChanges });
  const { open, sheet, given } = usePlace();
  const [part, setPart] = useParam('part', 'changes');
  const rows = useMemo(
    () => together(changes.data?.items ?? [], waiting.data?.items ?? []),
    [changes.data, waiting.data],
  );
  const total = changes.data?.total ?? 0;
  const older = total - (changes.data?.items.length ?? 0);
  const columns = useMemo(() => changeColumns((id) => open('change', { id })), [open]);
  return (
    <main className="flex min-h-0 min-w-0 flex-col overflow-hidden bg-paper">
      <div className="flex flex-none flex-wrap items-center gap-x-4 border-b border-rule px-3 py-1 whitespace-nowrap">
        <h1 className="font-[640]">Changes</h1>
        <VerbChoice
          label="Parts"
          choices={[
            ['changes', 'All'],
            ['mail', 'Mailbox'],
          ]}
          value={part}
          onChange={setPart}
        />
        <span className="min-w-24 flex-1 overflow-hidden text-ellipsis text-ink2">{summary(rows, total)}</span>
        <span className="flex items-center gap-2 text-ink2">
          Export the estate:
          <a className="verb inline-flex items-center" href="/api/v1/estate?format=yaml" download>
            YAML
          </a>
          <a className="verb inline-flex items-center" href="/api/v1/estate" download>
            JSON
          </a>
        </span>
        <a className="verb inline-flex items-center" href="/api/v1/changes/calendar" download>
          Calendar
        </a>
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
        {part === 'mail' && <Mailbox />}
        {part !== 'mail' && changes.isSuccess && rows.length === 0 && (
          <p className="py-2 text-ink2">
            No change yet. Pick something in the Span and add to the draft, or{' '}
            <button type="button" className="verb" onClick={() => open('file')}>
              open a change file
            </button>
            .
          </p>
        )}
        {part !== 'mail' && rows.length > 0 && (
          <DataTable
            label="Changes"
            rows={rows}
            keyOf={({ id }) => id}
            columns={columns}
            marked={({ id }) => sheet === 'change' && given.id === id}
          />
        )}
        {part !== 'mail' && older > 0 && (
          <p className="py-2 text-ink2">
            {counted(older, 'older change')}{' '}
            {most < MOST ? (
              <button type="button" className="verb" onClick={() => setMost(Math.min(MOST, most + AT_FIRST))}>
                Show {Math.min(AT_FIRST, older)} more
              </button>
            ) : (
              'by way of the API'
            )}
          </p>
        )}
      </div>
    </main>
  );
}

/** The newest, and older ones that are not over. */
function together(newest: readonly ChangeSummary[], open: readonly ChangeSummary[]): ChangeSummary[] {
  const known = new Set(newest.map(({ id }) => id));
  return [...newest, ...open.filter(({ id }) => !known.has(id))].sort((a, b) => b.createdReal - a.createdReal);
}

/** How many there are, and how many wait. */
function summary(rows: readonly ChangeSummary[], total: number): string {
  if (rows.length === 0) return '';
  const of = (state: ChangeSummary['state']) => rows.filter((row) => row.state === state).length;
  const waits = [
    [of('approved'), 'approved'],
    [of('paused'), 'waiting'],
    [of('stuck'), 'stuck'],
  ] as const;
  return [`${total}, newest first`, ...waits.flatMap(([count, word]) => (count > 0 ? `${count} ${word}` : []))].join(
    '; ',
  );
}

const changeColumns = (onOpen: (id: string) => void): Column<ChangeSummary>[] => [
  {
    head: 'State',
    width: 'whitespace-nowrap',
    value: stateOf,
    cell: ({ state, run }) => (
      <span className="flex items-baseline gap-1.5">
        <ChangePost state={state} />
        {stateOf({ state, run })}
      </span>
    ),
  },
  {
    head: 'Title',
    value: ({ title }) => title,
    cell: ({ id, title, state, problem }) => (
      <>
        <button
          type="button"
          className={`verb text-left whitespace-normal! ${state === 'draft' ? 'italic' : ''}`}
          onClick={() => onOpen(id)}
        >
          {title}
        </button>
        {problem && <span className="block text-red">{problem.message}</span>}
      </>
    ),
  },
  { head: 'From', kind: 'muted', value: ({ origin }) => origin },
  { head: 'Operations', kind: 'number', value: ({ operations }) => operations },
  { head: 'Steps done', kind: 'number', value: ({ done, of }) => (of === 0 ? '–' : `${done}/${of}`) },
  {
    head: 'Lab time',
    kind: 'mono',
    width: 'whitespace-nowrap',
    value: (change) => new Date(lastMoment(change)).toISOString(),
    cell: (change) => labTime(lastMoment(change), false),
  },
  {
    head: 'Prepared',
    kind: 'muted',
    width: 'whitespace-nowrap',
    value: ({ createdReal }) => new Date(createdReal).toISOString(),
    cell: ({ createdReal }) => <span suppressHydrationWarning>{ago(createdReal)}</span>,
  },
];

const lastMoment = ({ finishedLab, startedLab, createdLab }: ChangeSummary): number =>
  finishedLab ?? startedLab ?? createdLab;
