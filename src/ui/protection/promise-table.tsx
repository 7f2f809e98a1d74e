'use client';
import { useMemo } from 'react';
import type { Lane } from '@/core/protect/lanes';
import { formatBytes } from '@/core/units/bytes';
import { momentText } from '@/core/units/date';
import { formatDuration, MINUTE } from '@/core/units/duration';
import { usePlace } from '../shell/place';
import { stateColumn } from '../table/cells';
import type { AnyColumn } from '../table/columns';
import { DataTable } from '../table/data-table';
import { lanePosts } from './lane-list';

const moment = (at: number | null) => (at === null ? null : new Date(at).toISOString());

/** For every workload what its plan promises beside what is true now. */
export function PromiseTable({ lanes, now }: { lanes: readonly Lane[]; now: number }) {
  const { go, visit } = usePlace();
  const columns = useMemo<AnyColumn<Lane>[]>(
    () => [
      stateColumn((lane) => lanePosts[lane.state]),
      { head: 'Workload', width: 'whitespace-nowrap', kind: 'name', value: ({ name }) => name },
      {
        head: 'Plan',
        width: 'whitespace-nowrap',
        value: ({ plan }) => plan ?? 'none',
        cell: ({ plan }) => plan ?? <span className="text-red">none</span>,
      },
      { head: 'Where', kind: 'muted', value: ({ places }) => places.join('; ') },
      {
        head: 'Loses at most',
        kind: 'number',
        unit: 'min',
        value: ({ rpo }) => (rpo === null ? null : rpo / MINUTE),
        cell: ({ rpo }) => (rpo === null ? '–' : formatDuration(rpo)),
      },
      {
        head: 'Newest copy',
        width: 'whitespace-nowrap',
        value: ({ newest }) => moment(newest),
        cell: ({ newest }) => (newest === null ? 'none' : `${momentText(newest)}, ${formatDuration(now - newest)} ago`),
      },
      {
        head: 'Newest locked',
        width: 'whitespace-nowrap',
        value: ({ lockedNewest }) => moment(lockedNewest),
        cell: ({ lockedNewest }) => (lockedNewest === null ? 'none' : momentText(lockedNewest)),
      },
      {
        head: 'Proven',
        width: 'whitespace-nowrap',
        value: ({ proven }) => moment(proven),
        cell: ({ proven }) => (proven === null ? 'never' : momentText(proven)),
      },
      { head: 'Copies', kind: 'number', value: ({ points }) => points },
      {
        head: 'They hold',
        kind: 'number',
        unit: 'bytes',
        value: ({ held }) => held,
        cell: ({ held }) => formatBytes(held, 'used'),
      },
      {
        head: 'Falls short',
        value: ({ short }) => short ?? '',
        cell: ({ short }) => (short ? <span className="text-red">{short}</span> : 'in nothing'),
      },
      {
        head: 'Deeds',
        deeds: ({ id, name, kind, plan }) => (
          <button
            type="button"
            className="verb"
            onClick={() =>
              plan === null && kind === 'workload'
                ? go({ sheet: 'plan.attach', given: { workloads: [name] } })
                : visit('/protection', { of: id })
            }
          >
            {plan === null && kind === 'workload' ? 'Protect' : 'Look at it'}
          </button>
        ),
      },
    ],
    [go, visit, now],
  );
  return (
    <div className="scroller min-h-0 flex-1 px-3 pt-2 pb-4">
      <DataTable label="Promised and true" rows={lanes} keyOf={({ id }) => id} columns={columns} />
    </div>
  );
}
