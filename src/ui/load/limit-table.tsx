'use client';
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { LimitRow } from '@/core/performance/answers';
import { api } from '../api/client';
import { usePlace } from '../shell/place';
import type { AnyColumn } from '../table/columns';
import { DataTable } from '../table/data-table';
import { percentText } from './words';

/** Every limit, on whom it is put, and how much it holds back. */
export function LimitTable() {
  const limits = useQuery({ queryKey: ['load', 'limits'], queryFn: api.loadLimits });
  const { open } = usePlace();
  const columns = useMemo<AnyColumn<LimitRow>[]>(
    () => [
      { head: 'Limit', value: ({ name }) => name, kind: 'name' },
      { head: 'Array', value: ({ array }) => array, kind: 'muted' },
      { head: 'Sets', value: ({ says }) => says },
      { head: 'On', value: ({ volumes }) => volumes.join(', ') || 'nothing' },
      {
        head: 'Held back, last 24 h',
        value: ({ held }) => held,
        cell: ({ held }) => percentText(held),
        kind: 'number',
        className: ({ held }) => (held > 0.2 ? 'font-[640]' : ''),
      },
      { head: 'Notes', value: ({ notes }) => notes, kind: 'muted' },
      {
        head: 'Do',
        deeds: ({ array, name }) => (
          <span className="flex gap-3">
            <button type="button" className="verb" onClick={() => open('limit.configure', { array, limit: name })}>
              Change
            </button>
            <button type="button" className="verb" onClick={() => open('limit.apply', { array, limit: name })}>
              Put on
            </button>
            <button type="button" className="verb" onClick={() => open('limit.lift', { array, limit: name })}>
              Take off
            </button>
            <button type="button" className="verb" onClick={() => open('limit.delete', { array, limit: name })}>
              Drop
            </button>
          </span>
        ),
      },
    ],
    [open],
  );
  if (limits.error) return <p className="refusal m-3">{limits.error.message}</p>;
  if (limits.data?.items.length === 0)
    return (
      <p className="p-3 text-ink2">
        No limit is set: hosts ask as much as they like. Set one on a volume, a workload or a host.
      </p>
    );
  return (
    <div className="scroller min-h-0 flex-1 px-3 pt-1">
      <DataTable label="Limits" rows={limits.data?.items ?? []} keyOf={({ id }) => id} columns={columns} />
    </div>
  );
}
