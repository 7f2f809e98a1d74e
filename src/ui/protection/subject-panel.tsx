'use client';
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { PointRow, SubjectView } from '@/core/protect/subject-view';
import type { SubjectAnswer } from '@/core/replicate/replication-view';
import { formatBytes } from '@/core/units/bytes';
import { counted } from '@/core/units/counted';
import { dateText, momentText } from '@/core/units/date';
import { formatDuration } from '@/core/units/duration';
import { api } from '../api/client';
import { Beam } from '../look/beam';
import { Datum } from '../look/marks';
import { useParam, usePlace } from '../shell/place';
import type { AnyColumn } from '../table/columns';
import { DataTable } from '../table/data-table';
import { isLate, standsText } from './replication-words';
import { PointPanel } from './point-panel';

/** One workload: what its plan does, to which moments one can go back, and where the copies stand. */
export function SubjectPanel({ id }: { id: string }) {
  const subject = useQuery({ queryKey: ['protection', id], queryFn: () => api.protectionOf(id) });
  const [cut, setCut] = useParam('cut');
  const data = subject.data;
  if (subject.error) return <p className="refusal m-3">Its copies were asked for. {subject.error.message}</p>;
  if (!data) return <p className="p-3 text-ink2">Reading its copies…</p>;
  const point = data.points.find((one) => one.cut === cut) ?? null;
  return (
    <div className="@container min-h-0 border-t-[1.5px] border-ink bg-raised">
      <div className="grid h-full min-h-0 grid-cols-[minmax(216px,0.68fr)_minmax(440px,2.1fr)_minmax(240px,0.82fr)] @max-[1080px]:grid-cols-1">
        <Plan subject={data} />
        <Points subject={data} cut={cut} onChoose={setCut} />
        {point ? <PointPanel subject={data} point={point} /> : <Where subject={data} />}
      </div>
    </div>
  );
}

function Plan({ subject }: { subject: SubjectView }) {
  const { open } = usePlace();
  const { plan, named, short } = subject;
  return (
    <section
      aria-label="What is protected"
      className="scroller min-h-0 border-r border-rule px-3 py-2 @max-[1080px]:hidden"
    >
      <p className="caps">{subject.kind}</p>
      <h2 className="sheet-title">
        <span className="swipe">{subject.name}</span>
      </h2>
      <p className="narrow pt-1 text-ink2">
        {counted(subject.volumes.length, 'volume')}: {subject.volumes.map((volume) => volume.name).join(', ')}.{' '}
        {plan ? (
          <>
            Copies by plan <b className="text-ink">{plan.name}</b>
            {plan.paused ? ', which is paused' : ''}
            {plan.rpo === null ? '' : `: loses at most ${formatDuration(plan.rpo)}`}.
          </>
        ) : (
          'No plan makes copies of it.'
        )}
      </p>
      {short.map(({ code, says, since }) => (
        <p key={code} className="refusal narrow mt-1">
          {says}
          {since === null ? '' : `, since ${momentText(since)}`}
        </p>
      ))}
      {plan && (
        <table className="table mt-2">
          <thead>
            <tr className="caps">
              <th>Every</th>
              <th>Kept</th>
              <th>Next</th>
            </tr>
          </thead>
          <tbody className="narrow">
            {plan.schedules.map((schedule) => (
              <tr key={schedule.name}>
                <td className="num">{schedule.every}</td>
                <td>
                  {schedule.kept}
                  {schedule.lockDays > 0 ? `, locked ${schedule.lockDays} d` : ''}
                </td>
                <td className="num">{schedule.next === null ? '–' : momentText(schedule.next).slice(4)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {plan?.gap && (
        <p className="narrow pt-1 text-ink2">
          Largest gap of the year: {formatDuration(plan.gap.span)} from {momentText(plan.gap.from)}.
        </p>
      )}
      <p className="flex flex-wrap gap-x-4 pt-2">
        <button type="button" className="verb" onClick={() => open('snapshot.create', { ...named, quiesce: 'true' })}>
          Copy now
        </button>
        {plan ? (
          <>
            <button type="button" className="verb" onClick={() => open('plan.run', named)}>
              Run the plan
            </button>
            <button type="button" className="verb" onClick={() => open('plan.schedule', { plan: plan.name })}>
              Add a schedule
            </button>
          </>
        ) : (
          <button
            type="button"
            className="verb"
            onClick={() =>
              open(
                'plan.attach',
                subject.kind === 'workload'
                  ? { workloads: [subject.name] }
                  : { array: named.array, volumes: [subject.name] },
              )
            }
          >
            Protect with a plan
          </button>
        )}
      </p>
      <Runs subject={subject} />
    </section>
  );
}

function Runs({ subject }: { subject: SubjectView }) {
  if (subject.runs.length === 0) return null;
  return (
    <details className="pt-2">
      <summary className="verb">History of {counted(subject.runs.length, 'run')}</summary>
      <DataTable
        label="Runs"
        rows={subject.runs}
        keyOf={({ id }) => id}
        columns={[
          {
            head: 'Run',
            kind: 'mono',
            value: ({ at }) => new Date(at).toISOString(),
            cell: ({ at }) => momentText(at),
          },
          {
            head: 'Result',
            value: ({ result, label }) => {
              if (result !== 'done') return result;
              return label === 'application' ? 'paused' : 'crash';
            },
            className: ({ result }) => (result === 'done' ? '' : 'text-red'),
          },
          { head: 'Made', kind: 'number', value: ({ made }) => made },
          { head: 'Deleted', kind: 'number', value: ({ deleted }) => deleted },
          { head: 'Why', kind: 'muted', value: ({ reason }) => reason ?? '' },
        ]}
      />
    </details>
  );
}

const labels = { application: 'paused', crash: 'crash' } as const;

function Points({ subject, cut, onChoose }: { subject: SubjectView; cut: string; onChoose: (cut: string) => void }) {
  const { now } = subject;
  const columns = useMemo<AnyColumn<PointRow>[]>(
    () => [
      {
        head: 'Moment',
        value: ({ at }) => new Date(at).toISOString(),
        cell: (row) => (
          <button
            type="button"
            className={`verb num ${row.cut === cut ? 'font-[760]!' : ''}`}
            aria-pressed={row.cut === cut}
            onClick={() => onChoose(row.cut === cut ? '' : row.cut)}
          >
            {momentText(row.at)}
          </button>
        ),
      },
      {
        head: 'Ago',
        kind: 'number',
        unit: 's',
        value: ({ at }) => Math.round((now - at) / 1000),
        cell: ({ at }) => formatDuration(now - at),
      },
      {
        head: 'Kind',
        width: 'whitespace-nowrap',
        value: ({ label }) => labels[label],
        title: ({ reason }) => reason ?? '',
        cell: ({ label, reason }) => (
          <span className={label === 'crash' && reason ? 'text-red' : ''}>
            {labels[label]}
            {label === 'crash' && reason ? ' only' : ''}
          </span>
        ),
      },
      {
        head: 'Alone',
        kind: 'number',
        unit: 'bytes',
        value: ({ alone }) => alone,
        cell: ({ alone }) => formatBytes(alone, 'used'),
      },
      {
        head: 'Kept',
        width: 'whitespace-nowrap',
        value: ({ kept }) => kept,
        cell: ({ kept, until, lockedUntil, hold }) => (
          <>
            {lockedUntil !== null && lockedUntil > now ? (
              <b className="font-[640]">▪ locked to {momentText(lockedUntil).slice(4, 10)} </b>
            ) : null}
            {hold ? <b className="font-[640]">held: {hold} </b> : null}
            <span className="text-ink2">{until === null ? kept : `to ${momentText(until).slice(4)}`}</span>
          </>
        ),
      },
      {
        head: 'Proven',
        value: ({ proven }) => proven && (proven.good ? 'good' : 'bad'),
        cell: ({ proven }) =>
          proven ? <span className={proven.good ? '' : 'text-red'}>{proven.good ? 'good' : 'failed'}</span> : '',
      },
      {
        head: 'By',
        kind: 'muted',
        value: ({ by }) => by,
        cell: ({ by }) => <span className="narrow block max-w-[112px] truncate">{by}</span>,
        title: ({ by }) => by,
      },
      {
        head: 'Name',
        kind: 'muted',
        width: 'whitespace-nowrap',
        value: ({ name }) => name,
        cell: ({ name }) => <span className="narrow">{name}</span>,
      },
    ],
    [cut, now, onChoose],
  );
  return (
    <section aria-label="Restore points" className="scroller min-h-0 border-r border-rule px-3 py-1.5">
      <h2 className="caps">
        Restore points{' '}
        <span className="normal-case">
          {subject.points.length}, newest first. Pick one for what it would bring back.
        </span>
      </h2>
      {subject.points.length === 0 ? (
        <p className="py-2 text-ink2">Nothing of it is copied: there is no moment to go back to.</p>
      ) : (
        <DataTable
          label="Restore points"
          rows={subject.points}
          keyOf={(row) => row.cut}
          columns={columns}
          marked={(row) => row.cut === cut}
        />
      )}
    </section>
  );
}

function Where({ subject }: { subject: SubjectAnswer }) {
  return (
    <section aria-label="Where the copies stand" className="scroller min-h-0 px-3 py-2 @max-[1080px]:hidden">
      <h2 className="caps">Where the copies stand</h2>
      {subject.pools.map((pool) => {
        const size = pool.kept + pool.left;
        return (
          <div key={`${pool.array} ${pool.pool}`} className="pt-2">
            <p className="flex items-center gap-2 border-b border-ink pb-0.5">
              <Datum />
              <b className="font-[640]">{pool.array}</b> {pool.pool}, {pool.site}
            </p>
            <div className="pt-1.5">
              <Beam
                filled={size === 0 ? 0 : pool.held / size}
                subscribed={1}
                label={`Copies hold ${formatBytes(pool.held, 'used')}, ${formatBytes(pool.left)} are left in ${pool.pool}`}
              />
            </div>
            <p className="narrow text-ink2">
              {formatBytes(pool.kept, 'used')} kept apart in {formatBytes(pool.held, 'used')} of extents;{' '}
              {formatBytes(pool.left)} left
              {pool.fullOn === null ? '' : `, full on ${dateText(pool.fullOn)} at what hosts add`}.
            </p>
          </div>
        );
      })}
      <Lost subject={subject} />
      <Files subject={subject} />
    </section>
  );
}

/** What would be left were the arrays of a workload lost now. */
function Lost({ subject }: { subject: SubjectAnswer }) {
  const { open, visit } = usePlace();
  const { elsewhere, named } = subject;
  const arrays = [...new Set(subject.pools.map((pool) => pool.array))].join(' and ');
  if (!elsewhere)
    return (
      <>
        <p className="narrow pt-2 text-ink2">
          All copies lie on the arrays of their volumes. Were {arrays} lost now,{' '}
          <b className="font-[640] text-red">nothing</b> of {subject.name} would be left.
        </p>
        <p className="pt-1">
          <button type="button" className="verb" onClick={() => open('replication.create', named)}>
            Copy it to another site
          </button>
        </p>
      </>
    );
  const { pit, lag, risk, target } = elsewhere;
  return (
    <>
      <p className="flex items-center gap-2 border-b border-ink pt-3 pb-0.5">
        <Datum />
        <b className="font-[640]">{target}</b> <span className="narrow">{standsText(elsewhere)}</span>
      </p>
      <p className={`narrow pt-1 ${isLate(elsewhere) ? 'text-red' : 'text-ink2'}`}>
        Were {arrays} lost now:{' '}
        {pit === null ? (
          <b className="font-[640] text-red">nothing whole stands there yet.</b>
        ) : (
          <>
            back to <b className="num font-[640] text-ink">{momentText(pit)}</b>, {formatDuration(lag)} and about{' '}
            {formatBytes(Math.round(risk), 'used')} lost.
          </>
        )}
      </p>
      <p className="pt-1">
        <button
          type="button"
          className="verb"
          onClick={() => visit('/protection', { part: 'elsewhere', replication: elsewhere.id })}
        >
          Look at both sides
        </button>
      </p>
    </>
  );
}

function Files({ subject }: { subject: SubjectView }) {
  const files = subject.volumes.flatMap((volume) => volume.files.map((file) => ({ ...file, volume: volume.name })));
  if (files.length === 0) return null;
  return (
    <>
      <h2 className="caps pt-3">Files now</h2>
      <ul>
        {files.map((file) => (
          <li
            key={`${file.volume} ${file.path}`}
            className="flex items-baseline gap-2 border-b border-rule-faint py-0.5"
          >
            <span className="min-w-0 flex-1 truncate">{file.path}</span>
            <span className="num narrow text-ink2">{formatBytes(file.size, 'used')}</span>
            <span className="mono text-ink2">{file.checksum.slice(0, 6)}</span>
          </li>
        ))}
      </ul>
    </>
  );
}
