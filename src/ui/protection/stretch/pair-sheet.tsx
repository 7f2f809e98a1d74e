'use client';
import { useQuery } from '@tanstack/react-query';
import type { ReplicationView } from '@/core/replicate/replication-view';
import type { StretchHost, StretchView } from '@/core/replicate/stretch-view';
import { formatBytes } from '@/core/units/bytes';
import { momentText, timeText } from '@/core/units/date';
import { formatDuration } from '@/core/units/duration';
import { formatRate } from '@/core/units/rate';
import { useMemo } from 'react';
import { api } from '../../api/client';
import { Beam } from '../../look/beam';
import { usePlace } from '../../shell/place';
import { stateColumn } from '../../table/cells';
import type { AnyColumn } from '../../table/columns';
import { DataTable } from '../../table/data-table';
import { CheckList } from '../check-list';
import { standsText } from '../replication-words';
import { FaultTable } from './fault-table';
import { PairDrawing } from './pair-drawing';
import { MarkPatterns } from './site-marks';

/** One stretched volume or workload: both sites, who decides, who reaches it, and what each failure would do. */
export function PairSheet({
  id,
  now,
  onBack,
  others,
  onChoose,
}: {
  id: string;
  now: number;
  onBack: () => void;
  /** The stretched ones there are, in order. */
  others: readonly { id: string; name: string }[];
  onChoose: (id: string) => void;
}) {
  const replication = useQuery({ queryKey: ['protection', 'replication', id], queryFn: () => api.replication(id) });
  const data = replication.data;
  if (replication.error) return <p className="refusal m-3">The pair was asked for. {replication.error.message}</p>;
  if (!data?.stretch) return <p className="p-3 text-ink2">Reading the pair…</p>;
  const at = others.findIndex((one) => one.id === id);
  const turn = (by: number) => others[(at + by + others.length) % others.length]!.id;
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <MarkPatterns />
      <p className="flex flex-wrap items-baseline gap-x-4 border-b border-rule px-3 py-1">
        <button type="button" className="verb" onClick={onBack}>
          All replications
        </button>
        <span className="narrow text-ink2">
          {others.length > 1 ? `${at + 1} of ${others.length} stretched` : 'stretched over two sites'}
        </span>
        <span className="flex-1" />
        {others.length > 1 && (
          <>
            <button type="button" className="verb" onClick={() => onChoose(turn(-1))}>
              Earlier pair
            </button>
            <button type="button" className="verb" onClick={() => onChoose(turn(1))}>
              Next pair
            </button>
          </>
        )}
      </p>
      <div className="@container min-h-0 flex-1">
        <div className="grid h-full min-h-0 grid-cols-[minmax(560px,1.35fr)_minmax(430px,1fr)] @max-[1000px]:block @max-[1000px]:overflow-y-auto">
          <Both view={data} stretch={data.stretch} now={now} />
          <Aside view={data} stretch={data.stretch} />
        </div>
      </div>
    </div>
  );
}

function Both({ view, stretch, now }: { view: ReplicationView; stretch: StretchView; now: number }) {
  const { sending } = view;
  const share = sending && (sending.wire === 0 ? 1 : sending.sent / sending.wire);
  const left = sending ? Math.max(0, Math.round(sending.wire - sending.sent)) : 0;
  const still = view.pit === null ? 'its first copy waits' : `its image is of ${momentText(view.pit)}`;
  const progress = sending ? `${Math.floor(share! * 100)} %, ${formatBytes(left, 'used')} to go` : still;
  return (
    <section aria-label="Both sites" className="scroller min-h-0 border-r border-rule px-3 py-2">
      <PairDrawing view={stretch} progress={progress} />
      <Legend hosts={stretch.hosts} />
      {sending && (
        <div className="pt-2">
          <p className="narrow flex justify-between gap-4 pb-1">
            <span>
              {view.pit === null ? 'First synchronisation' : 'Dirty data'}{' '}
              {formatBytes(Math.round(sending.changed), 'used')}; {formatBytes(Math.round(sending.sent), 'used')} sent
              at {formatRate(Math.round(sending.rate))}
            </span>
            <b className="font-[640]">
              {sending.endsAt === null
                ? 'nothing gets through'
                : `whole at ${timeText(sending.endsAt)}, in ${formatDuration(Math.max(0, sending.endsAt - now))}`}
            </b>
          </p>
          <Beam filled={share!} subscribed={1} label={`${Math.floor(share! * 100)} % is sent`} />
        </div>
      )}
      <HostTable stretch={stretch} />
      <CheckList checks={view.checks} />
    </section>
  );
}

/** How many of the hosts see both sites. */
function accessWords(hosts: number, both: number): string {
  if (hosts === 0) return 'no host sees it';
  if (both === hosts) return 'uniform access';
  return both === 0 ? 'each host sees its own site alone' : `${both} of ${hosts} hosts see both sites`;
}

/** What the ends of the wires say, and how hosts reach the pair. */
function Legend({ hosts }: { hosts: readonly StretchHost[] }) {
  const both = hosts.filter(({ ways }) => ways.A.mapped && ways.B.mapped).length;
  return (
    <p className="narrow flex flex-wrap items-center gap-x-4 text-ink2">
      <span className="inline-flex items-center gap-1.5">
        <span className="inline-block h-[7px] w-[6px] bg-ink" aria-hidden="true" />
        optimized
      </span>
      <span className="inline-flex items-center gap-1.5">
        <span className="inline-block h-[7px] w-[6px] border border-ink" aria-hidden="true" />
        non-optimized
      </span>
      <span className="inline-flex items-center gap-1.5">
        <span className="inline-block h-[2px] w-[9px] bg-red" aria-hidden="true" />
        no path carries I/O
      </span>
      <span className="flex-1" />
      <span>{accessWords(hosts.length, both)}</span>
    </p>
  );
}

const ms = (value: number): string => `${value.toFixed(2)} ms`;

function HostTable({ stretch }: { stretch: StretchView }) {
  const [a, b] = [stretch.sides.A, stretch.sides.B];
  const columns = useMemo<AnyColumn<StretchHost>[]>(
    () => [
      stateColumn(({ ways: { A, B } }) => {
        if (A.usable + B.usable === 0) return 'broken';
        return A.usable + B.usable < A.expected + B.expected ? 'leans' : 'stands';
      }),
      { head: 'Host', kind: 'name', width: 'whitespace-nowrap', value: ({ name }) => name },
      { head: 'Near', width: 'whitespace-nowrap', value: ({ near }) => near },
      { head: `To ${a.array}`, value: ({ ways }) => ways.A.says },
      { head: `To ${b.array}`, value: ({ ways }) => ways.B.says },
      {
        head: 'A write waits',
        kind: 'number',
        unit: 'ms more',
        value: ({ added }) => added,
        cell: ({ added }) => (added === null ? <span className="text-red">no I/O</span> : ms(added)),
      },
      {
        head: `Without ${a.place}`,
        value: ({ without }) => without.A,
        cell: ({ without }) => <span className={without.A === 'goes on' ? '' : 'text-red'}>{without.A}</span>,
      },
      {
        head: `Without ${b.place}`,
        value: ({ without }) => without.B,
        cell: ({ without }) => <span className={without.B === 'goes on' ? '' : 'text-red'}>{without.B}</span>,
      },
    ],
    [a, b],
  );
  if (stretch.hosts.length === 0) return <p className="py-2 text-ink2">No host sees it yet.</p>;
  return (
    <div className="pt-2">
      <DataTable label="Hosts of the pair" rows={stretch.hosts} keyOf={({ id }) => id} columns={columns} />
    </div>
  );
}

function Aside({ view, stretch }: { view: ReplicationView; stretch: StretchView }) {
  return (
    <aside className="scroller min-h-0 bg-raised px-3 py-2">
      <p className="caps">stretched over {view.link}</p>
      <h2 className="sheet-title">
        <span className="swipe">{view.name}</span>
      </h2>
      <p className="narrow">
        <b className="font-[640]">{standsText(view)}</b> since {momentText(view.since)}
        {view.reason ? `: ${view.reason}` : ''}. Each write takes {ms(view.added!)} more
        {view.budget === null ? '' : ` of ${view.budget} ms allowed`}.
      </p>
      <ul className="narrow text-ink2">
        {stretch.identities.map(({ volume, naa }) => (
          <li key={naa} className="flex gap-3">
            <span>{volume}</span>
            <span className="mono">naa.{naa}</span>
          </li>
        ))}
      </ul>
      <Verbs view={view} />
      <h3 className="caps pt-3">Which failure, who goes on</h3>
      <FaultTable view={stretch} />
      {stretch.dangers.map((danger) => (
        <p key={danger} className="refusal narrow mt-2">
          {danger}
        </p>
      ))}
      <p className="narrow pt-2 text-ink2">
        A whole pair: each single failure leaves a site. Of {stretch.ordered.all} ordered pairs of failures{' '}
        {stretch.ordered.stopped} leave none, and a site is lost in{' '}
        {stretch.ordered.withoutSite === 0
          ? 'each of them'
          : `${stretch.ordered.stopped - stretch.ordered.withoutSite} of them`}
        .
      </p>
      <h3 className="caps pt-3">How it came to this</h3>
      {stretch.history.length === 0 ? (
        <p className="narrow py-1 text-ink2">Nothing has happened to it yet.</p>
      ) : (
        <ol className="narrow">
          {stretch.history.slice(0, 12).map(({ at, says }, k) => (
            <li key={`${at} ${says} ${k}`} className="grid grid-cols-[112px_1fr] gap-2 py-px">
              <span className="num text-ink2">{momentText(at, true).slice(4)}</span>
              <span>{says}</span>
            </li>
          ))}
        </ol>
      )}
    </aside>
  );
}

function Verbs({ view }: { view: ReplicationView }) {
  const { open } = usePlace();
  const given = { replication: view.name };
  const verb = (label: string, kind: string) => (
    <button type="button" className="verb" onClick={() => open(kind, given)}>
      {label}
    </button>
  );
  return (
    <p className="flex flex-wrap gap-x-4 pt-1">
      {view.state === 'broken' && verb('Force a site', 'stretch.force')}
      {verb('Change', 'stretch.configure')}
      {verb('Take a leg away', 'stretch.dissolve')}
    </p>
  );
}
