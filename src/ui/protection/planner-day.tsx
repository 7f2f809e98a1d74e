'use client';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { DayOnLine } from '@/core/replicate/line-day';
import { formatBytes } from '@/core/units/bytes';
import { formatDuration, HOUR, MINUTE, SECOND } from '@/core/units/duration';
import { api } from '../api/client';
import { stateColumn } from '../table/cells';
import type { AnyColumn } from '../table/columns';
import { DataTable } from '../table/data-table';

const span = (ms: number) => formatDuration(Math.round(ms / SECOND) * SECOND);
const clock = (ms: number) =>
  [Math.floor(ms / HOUR), Math.floor((ms % HOUR) / MINUTE)].map((part) => String(part).padStart(2, '0')).join(':');

function lateText(late: number | null): string {
  if (late === null) return '–';
  return late === 0 ? 'never' : span(late);
}

/** In its scarcest day the line with the replication that is weighed and all others, cycle by cycle: how far behind each is. */
export function PlannerDay({ of, link, rpo }: { of: string; link: string; rpo: number }) {
  const day = useQuery({
    queryKey: ['protection', 'plan', of, link, rpo],
    queryFn: () => api.planDay(of, link, rpo),
    placeholderData: keepPreviousData,
  });
  const columns = useMemo<AnyColumn<DayOnLine>[]>(
    () => [
      stateColumn(({ late, falls }) => {
        if (falls) return 'broken';
        return late ? 'leans' : 'stands';
      }),
      {
        head: 'Copied',
        value: ({ name, id }) => (id === null ? `${name}, weighed` : name),
        cell: ({ name, id }) => (
          <>
            <span className="name">{name}</span>
            {id === null && <span className="text-ink2"> weighed here</span>}
          </>
        ),
      },
      {
        head: 'Cut every',
        width: 'whitespace-nowrap',
        value: ({ interval }) => interval,
        cell: (row) => span(row.interval),
      },
      {
        head: 'May lose',
        width: 'whitespace-nowrap',
        value: ({ rpo: may }) => may,
        cell: ({ rpo: may }) => (may === null ? 'not promised' : span(may)),
      },
      {
        head: 'Behind at most',
        kind: 'number',
        value: ({ worst }) => worst,
        cell: ({ worst, late }) => <span className={late ? 'text-red' : ''}>{span(worst)}</span>,
      },
      { head: 'At', kind: 'muted', value: ({ worstAt }) => worstAt, cell: ({ worstAt }) => clock(worstAt) },
      {
        head: 'Late for',
        value: ({ late }) => late,
        cell: ({ late, falls }) => (
          <span className={late ? 'text-red' : ''}>
            {lateText(late)}
            {falls ? ', and falls further back' : ''}
          </span>
        ),
      },
      { head: 'Cycles', kind: 'number', value: ({ cycles }) => cycles },
      {
        head: 'Sent',
        kind: 'number',
        unit: 'bytes',
        value: ({ sent }) => Math.round(sent),
        cell: ({ sent }) => formatBytes(Math.round(sent), 'used'),
      },
    ],
    [],
  );
  if (day.error) return <p className="refusal mt-3">The day of the line was asked for. {day.error.message}</p>;
  if (!day.data) return <p className="pt-3 text-ink2">Playing a day of the line…</p>;
  return (
    <div className={day.isPlaceholderData ? 'pt-3 opacity-60' : 'pt-3'} aria-busy={day.isPlaceholderData}>
      <h2 className="caps pb-1">{day.data.day}, its scarcest day, all together cycle by cycle (UTC)</h2>
      <DataTable
        label="The scarcest day of the line"
        rows={day.data.rows}
        keyOf={({ id }) => id ?? 'weighed'}
        columns={columns}
        marked={({ id }) => id === null}
      />
    </div>
  );
}
