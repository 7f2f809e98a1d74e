'use client';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { ReplicationView } from '@/core/replicate/replication-view';
import { formatBytes } from '@/core/units/bytes';
import { counted } from '@/core/units/counted';
import { momentText } from '@/core/units/date';
import { DAY, formatDuration } from '@/core/units/duration';
import { formatRate } from '@/core/units/rate';
import { api } from '../api/client';
import { Beam } from '../look/beam';
import { Datum } from '../look/marks';
import { usePlace } from '../shell/place';
import { DataTable } from '../table/data-table';
import { isLate, standsText } from './replication-words';
import { CheckList } from './check-list';
import { LagDrawing } from './lag-drawing';

/** One replication: both sides, what is on its way, what a loss would cost, and its past. */
export function ReplicationPanel({ id, now }: { id: string; now: number }) {
  const replication = useQuery({ queryKey: ['protection', 'replication', id], queryFn: () => api.replication(id) });
  const data = replication.data;
  if (replication.error)
    return <p className="refusal m-3">The replication was asked for. {replication.error.message}</p>;
  if (!data) return <p className="p-3 text-ink2">Reading the replication…</p>;
  return (
    <div className="@container min-h-0 border-t-[1.5px] border-ink bg-raised">
      <div className="grid h-full min-h-0 grid-cols-[minmax(300px,0.9fr)_minmax(420px,1.4fr)] @max-[900px]:grid-cols-1">
        <Pair view={data} now={now} />
        <Past view={data} now={now} />
      </div>
    </div>
  );
}

const roleWords = { source: 'source', target: 'receives' } as const;
const accessWords = { yes: 'open to hosts', no: 'closed to hosts', unknown: 'not known' } as const;

function Pair({ view, now }: { view: ReplicationView; now: number }) {
  const { open } = usePlace();
  const late = isLate(view);
  return (
    <section aria-label="Both sides" className="scroller min-h-0 border-r border-rule px-3 py-2">
      <p className="caps">replication over {view.link}</p>
      <h2 className="sheet-title">
        <span className="swipe">{view.name}</span>
      </h2>
      <p className="narrow pt-1">
        <b className="font-[640]">{standsText(view)}</b> since {momentText(view.since)}
        {view.reason ? `: ${view.reason}` : ''}. {view.mode === 'sync' ? mirrorText(view) : paceText(view)}
      </p>
      {view.fenced && (
        <p className="refusal narrow mt-1">
          Its hosts wait: the other side is lost, and nothing may be.{' '}
          <button
            type="button"
            className="verb"
            onClick={() => open('replication.configure', { replication: view.name, onLoss: 'continue' })}
          >
            Let them go on alone
          </button>
        </p>
      )}
      {view.unreached && <p className="refusal narrow mt-1">The sides do not reach each other: {view.unreached}.</p>}
      <p className={`pt-2 ${late ? 'text-red' : ''}`}>
        Were {view.source} lost now:{' '}
        {view.pit === null ? (
          <b className="font-[640]">nothing whole stands at {view.target} yet.</b>
        ) : (
          <>
            back to <b className="num font-[640]">{momentText(view.pit)}</b> at {view.target},{' '}
            {view.lag === 0
              ? 'nothing lost.'
              : `${formatDuration(view.lag)} and about ${formatBytes(Math.round(view.risk), 'used')} lost.`}
          </>
        )}
      </p>
      <div className="grid grid-cols-2 gap-3 pt-2">
        {view.sides.map((side) => (
          <div key={side.side}>
            <p className="flex items-center gap-2 border-b border-ink pb-0.5">
              <Datum />
              <b className="font-[640]">{side.site}</b>
              <span className="narrow text-ink2">{roleWords[side.role]}</span>
            </p>
            <p className={`narrow pt-0.5 ${side.access === 'unknown' || !side.up ? 'text-red' : 'text-ink2'}`}>
              {side.up ? accessWords[side.access] : 'does not answer'}
            </p>
            <ul className="narrow">
              {side.volumes.map((volume) => (
                <li key={volume.id} className="flex items-baseline gap-2 border-b border-rule-faint py-0.5">
                  <span className="min-w-0 flex-1 truncate" title={`${volume.array} ${volume.pool}`}>
                    {volume.array} {volume.name}
                  </span>
                  <span className="num text-ink2">{formatBytes(volume.written, 'used')}</span>
                </li>
              ))}
            </ul>
          </div>
        ))}
      </div>
      <Sending view={view} now={now} />
      <Log view={view} />
      <Verbs view={view} />
      <CheckList checks={view.checks} />
    </section>
  );
}

function paceText(view: ReplicationView): string {
  const rhythm = view.plan === null ? `every ${formatDuration(view.interval)}` : `with plan ${view.plan}`;
  const promise = view.rpo === null ? 'nothing is promised' : `at most ${formatDuration(view.rpo)} are lost`;
  const kept = [
    ...(view.images > 0 ? [`the last ${counted(view.images, 'image')}`] : []),
    ...(view.imagesDaily > 0 ? [`the first of each of ${counted(view.imagesDaily, 'day')}`] : []),
  ];
  return `Cut ${rhythm}, ${promise}.${kept.length > 0 ? ` Kept there: ${kept.join(', ')}.` : ''}`;
}

const mirrorText = ({ added, budget, onLoss, order, resync }: ReplicationView): string =>
  [
    `Each write takes ${added!.toFixed(2)} ms more${budget === null ? '' : ` of ${budget} ms allowed`}.`,
    onLoss === 'fence' ? 'Were the other side lost, hosts wait.' : 'Were the other side lost, hosts go on alone.',
    ...(order === 'free' ? ['Each volume goes by itself.'] : []),
    ...(resync === null ? [] : [`To be whole again takes ${formatDuration(resync)}.`]),
  ].join(' ');

/** The log of a mirror: how full, and how long an outage it bridges. */
function Log({ view: { log } }: { view: ReplicationView }) {
  if (!log) return null;
  const used = formatBytes(Math.round(log.used), 'used');
  return (
    <div className="pt-3">
      <Beam filled={log.used / log.size} subscribed={1} label={`Log: ${used} of ${formatBytes(log.size)}`} />
      <p className={`narrow ${log.over ? 'text-red' : 'text-ink2'}`}>
        Log: {used} of {formatBytes(log.size)}
        {log.over
          ? ', full: only what changed is known now'
          : log.fullIn === null
            ? ''
            : `, full in ${formatDuration(log.fullIn)}`}
        {log.bridges === null ? '' : `; bridges ${formatDuration(log.bridges)} of the busiest hours`}.
      </p>
    </div>
  );
}

function Sending({ view, now }: { view: ReplicationView; now: number }) {
  const { sending } = view;
  if (!sending) return null;
  const share = sending.wire === 0 ? 1 : sending.sent / sending.wire;
  return (
    <div className="pt-3">
      <Beam
        filled={share}
        subscribed={1}
        label={`${formatBytes(Math.round(sending.sent), 'used')} of ${formatBytes(Math.round(sending.wire), 'used')} are sent`}
      />
      <p className="narrow text-ink2">
        {view.pit === null ? 'First copy' : `As of ${momentText(sending.pit, true)}`}:{' '}
        {formatBytes(Math.round(sending.sent), 'used')} of {formatBytes(Math.round(sending.wire), 'used')} sent at{' '}
        {formatRate(Math.round(sending.rate))}
        {sending.endsAt === null
          ? ', nothing gets through'
          : `, done in ${formatDuration(Math.max(0, sending.endsAt - now))}`}
        .
      </p>
    </div>
  );
}

function Verbs({ view }: { view: ReplicationView }) {
  const { open } = usePlace();
  const given = { replication: view.name };
  const verb = (label: string, kind: string, when = true) =>
    when && (
      <button type="button" className="verb" onClick={() => open(kind, given)}>
        {label}
      </button>
    );
  const { state } = view;
  return (
    <p className="flex flex-wrap gap-x-4 pt-2">
      {verb('Switch sides', 'replication.switch', state === 'protected')}
      {verb('Fail over', 'replication.failover', state !== 'failed-over')}
      {verb('Reverse', 'replication.reverse', state === 'failed-over')}
      {verb('Undo the failover', 'replication.undo', state === 'failed-over')}
      {view.pit !== null && (
        <button type="button" className="verb" onClick={() => open('drill.start', { replications: [view.name] })}>
          Rehearse
        </button>
      )}
      {verb('Pause', 'replication.pause', state === 'protected' || state === 'copying')}
      {verb('Go on', 'replication.resume', state === 'paused')}
      {verb('Change its pace', 'replication.configure')}
      {verb('Remove', 'replication.remove')}
    </p>
  );
}

function Past({ view, now }: { view: ReplicationView; now: number }) {
  const [long, setLong] = useState(false);
  return (
    <section aria-label="Its past" className="scroller min-h-0 px-3 py-2">
      <h2 className="caps flex items-baseline gap-4">
        Behind over the last {long ? '30 days' : 'day'}
        <button type="button" className="verb normal-case" aria-pressed={long} onClick={() => setLong(!long)}>
          {long ? 'The last day' : '30 days'}
        </button>
      </h2>
      <LagDrawing
        course={long ? view.course.month : view.course.day}
        rpo={view.rpo}
        now={now}
        span={long ? 30 * DAY : DAY}
      />
      <h2 className="caps pt-2">Cycles, the newest first</h2>
      {view.cycles.length === 0 ? (
        <p className="py-2 text-ink2">None has ended yet.</p>
      ) : (
        <DataTable
          label="Cycles"
          rows={view.cycles}
          keyOf={(one) => one.id}
          columns={[
            {
              head: 'As of',
              width: 'whitespace-nowrap',
              value: ({ pit }) => new Date(pit).toISOString(),
              cell: ({ pit }) => momentText(pit, true),
            },
            {
              head: 'Changed',
              kind: 'number',
              unit: 'bytes',
              value: ({ changed }) => Math.round(changed),
              cell: ({ changed }) => formatBytes(Math.round(changed), 'used'),
            },
            {
              head: 'Sent',
              kind: 'number',
              unit: 'bytes',
              value: ({ wire }) => Math.round(wire),
              cell: ({ wire }) => formatBytes(Math.round(wire), 'used'),
            },
            {
              head: 'Took',
              kind: 'number',
              unit: 'ms',
              value: ({ took }) => took,
              cell: ({ took }) => formatDuration(took),
            },
            {
              head: 'Behind before',
              kind: 'number',
              unit: 'ms',
              value: ({ lagBefore }) => lagBefore,
              cell: ({ lagBefore }) => formatDuration(lagBefore),
            },
            {
              head: 'After',
              kind: 'number',
              unit: 'ms',
              value: ({ lagAfter }) => lagAfter,
              cell: ({ lagAfter }) => formatDuration(lagAfter),
            },
            {
              head: 'Result',
              value: ({ result, reason }) => (result === 'done' ? 'done' : `failed: ${reason ?? ''}`),
              className: ({ result }) => (result === 'done' ? '' : 'text-red'),
            },
          ]}
        />
      )}
    </section>
  );
}
