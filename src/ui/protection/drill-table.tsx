'use client';
import { useMemo } from 'react';
import type { DrillView } from '@/core/replicate/drill-view';
import { momentText } from '@/core/units/date';
import { formatDuration } from '@/core/units/duration';
import { usePlace } from '../shell/place';
import { stateColumn } from '../table/cells';
import type { AnyColumn } from '../table/columns';
import { DataTable } from '../table/data-table';

export const drillText = ({ good, over }: DrillView): string =>
  `${good ? 'all good' : 'not all good'}${over.length > 0 ? `, too late for ${over.join(', ')}` : ''}`;

/** Failovers that were rehearsed, and those whose volumes still stand. */
export function DrillTable({
  rows,
  chosen,
  onChoose,
}: {
  rows: readonly DrillView[];
  chosen: string;
  onChoose: (id: string) => void;
}) {
  const { open } = usePlace();
  const columns = useMemo<AnyColumn<DrillView>[]>(
    () => [
      stateColumn(({ endedAt, good, over }) => {
        if (endedAt === null) return 'in work';
        return good && over.length === 0 ? 'stands' : 'leans';
      }),
      {
        head: 'Drill',
        width: 'whitespace-nowrap',
        value: ({ name }) => name,
        cell: ({ id, name }) => (
          <button type="button" className="verb name" aria-pressed={id === chosen} onClick={() => onChoose(id)}>
            {name}
          </button>
        ),
      },
      { head: 'Of', value: ({ parts }) => parts.map(({ name }) => name).join(', ') },
      { head: 'At', kind: 'muted', width: 'whitespace-nowrap', value: ({ host, site }) => `${host}, ${site}` },
      {
        head: 'When',
        width: 'whitespace-nowrap',
        value: ({ startedAt }) => new Date(startedAt).toISOString(),
        cell: ({ startedAt, endedAt }) => `${momentText(startedAt)}${endedAt === null ? ', still stands' : ''}`,
      },
      {
        head: 'Back within',
        kind: 'number',
        unit: 'ms',
        value: ({ total }) => total,
        cell: ({ total }) => formatDuration(total),
      },
      {
        head: 'Result',
        value: drillText,
        className: ({ good, over }) => (good && over.length === 0 ? '' : 'text-red'),
      },
      {
        head: 'Deeds',
        deeds: ({ name, endedAt }) =>
          endedAt === null && (
            <button type="button" className="verb" onClick={() => open('drill.end', { drill: name })}>
              End<span className="sr-only"> {name}</span>
            </button>
          ),
      },
    ],
    [chosen, onChoose, open],
  );
  if (rows.length === 0) return <p className="py-2 text-ink2">No failover was rehearsed yet.</p>;
  return (
    <DataTable label="Drills" rows={rows} keyOf={({ id }) => id} columns={columns} marked={({ id }) => id === chosen} />
  );
}
