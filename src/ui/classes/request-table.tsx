import { useMemo } from 'react';
import type { RequestRow } from '@/core/service/answers';
import { usePlace } from '../shell/place';
import type { AnyColumn } from '../table/columns';
import { DataTable } from '../table/data-table';

/** Requests that are kept: what each asks, and where it would find its place today. */
export function RequestTable({ requests }: { requests: readonly RequestRow[] }) {
  const { open, visit } = usePlace();
  const columns = useMemo<AnyColumn<RequestRow>[]>(
    () => [
      { head: 'Request', value: ({ name }) => name, kind: 'name' },
      { head: 'Asks for', value: ({ says }) => says },
      {
        head: 'Find a place',
        value: ({ fits }) => fits,
        cell: ({ fits, volumes }) => `${fits} of ${volumes}`,
        kind: 'number',
      },
      {
        head: 'Where',
        value: ({ places }) => places,
        className: ({ fits, volumes }) => (fits < volumes ? 'text-red' : 'text-ink2'),
      },
      {
        head: 'Do',
        deeds: (one) => (
          <span className="flex gap-3">
            <button type="button" className="verb" onClick={() => visit('/classes', { request: one.name })}>
              Ask
            </button>
            <button type="button" className="verb" onClick={() => open('storage.carve', { request: one.name })}>
              Carve
            </button>
            <button type="button" className="verb" onClick={() => open('request.delete', { request: one.name })}>
              Drop
            </button>
          </span>
        ),
      },
    ],
    [open, visit],
  );
  if (requests.length === 0) return null;
  return (
    <section aria-label="Requests" className="border-t border-ink px-3 py-2 [&_td]:align-baseline!">
      <h2 className="pb-2 text-[16px] font-[700] [font-stretch:84%]">Requests</h2>
      <DataTable label="Requests" rows={requests} keyOf={({ id }) => id} columns={columns} />
    </section>
  );
}
