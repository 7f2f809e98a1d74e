'use client';
import { useQueries, useQuery } from '@tanstack/react-query';
import { api } from '../api/client';
import type { AnyColumn } from '../table/columns';
import { DataTable } from '../table/data-table';
import type { RoomAnswer } from '@/core/performance/answers';
import { TryPanel } from './try-panel';
import { hourText, percentText } from './words';

const columns: AnyColumn<RoomAnswer['rooms'][number]>[] = [
  { head: 'Resource', value: ({ name }) => name, kind: 'name', width: 'whitespace-nowrap' },
  {
    head: 'Kind',
    value: ({ kind }) => ({ group: 'RAID group', isl: 'link', line: 'link between sites' })[kind] ?? kind,
    kind: 'muted',
    width: 'whitespace-nowrap',
  },
  { head: 'Busiest hour', value: ({ rho }) => rho, cell: ({ rho }) => percentText(rho), kind: 'number' },
  { head: 'One thing lost', value: ({ worst }) => worst, cell: ({ worst }) => percentText(worst), kind: 'number' },
  { head: 'Which', value: ({ worstState }) => worstState, kind: 'muted', width: 'whitespace-nowrap' },
  {
    head: 'When',
    value: ({ hour }) => hour,
    cell: ({ hour }) => hourText(hour),
    kind: 'muted',
    width: 'whitespace-nowrap',
  },
  {
    head: 'Left',
    value: ({ room }) => room,
    cell: ({ room }) => (room < 0 ? `✕ ${(1 - room).toFixed(1)} times its limit` : percentText(room)),
    kind: 'number',
    className: ({ room }) => (room < 0 ? 'font-[640] text-red' : ''),
  },
  {
    head: 'Used up',
    value: ({ usedUp }) => usedUp,
    kind: 'muted',
    width: 'whitespace-nowrap',
    title: () => 'By how its daily means grew in the last ninety days',
  },
];

/** What each port, controller, group and link has left at its busiest hour, with one thing lost. */
export function RoomTable() {
  const arrays = useQuery({ queryKey: ['load', 'arrays'], queryFn: api.arrays });
  const rooms = useQueries({
    queries: [...(arrays.data?.items ?? []).map(({ id }) => id), 'links'].map((id) => ({
      queryKey: ['load', 'room', id],
      queryFn: () => api.loadRoom(id),
    })),
  });
  const rows = rooms.flatMap(({ data }) => data?.rooms ?? []).sort((a, b) => a.room - b.room);
  const failed = rooms.find(({ error }) => error)?.error;
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_400px]">
      <div className="scroller min-h-0">
        {failed && <p className="refusal m-3">{failed.message}</p>}
        <p className="px-3 pt-2 text-ink2">
          Left of what a resource is good for, at the busiest hour of the week and in the worst state with one
          controller, drive, port, switch or link lost.
        </p>
        <div className="px-3">
          <DataTable label="What is left" rows={rows} keyOf={({ id }) => id} columns={columns} />
        </div>
      </div>
      <TryPanel />
    </div>
  );
}
