import { useMemo } from 'react';
import type { WitnessRow } from '@/core/replicate/replication-view';
import { usePlace } from '../shell/place';
import { stateColumn } from '../table/cells';
import type { AnyColumn } from '../table/columns';
import { DataTable } from '../table/data-table';

/** Who decides between both sites of stretched volumes. */
export function WitnessTable({ rows }: { rows: readonly WitnessRow[] }) {
  const { open } = usePlace();
  const columns = useMemo<AnyColumn<WitnessRow>[]>(
    () => [
      stateColumn(({ state }) => (state === 'down' ? 'broken' : 'stands')),
      { head: 'Witness', kind: 'name', width: 'whitespace-nowrap', value: ({ name }) => name },
      { head: 'At', width: 'whitespace-nowrap', value: ({ site }) => site },
      { head: 'Asked by', value: ({ asked }) => asked.join(', ') || 'nobody' },
      { head: 'Notes', kind: 'muted', value: ({ notes }) => notes },
      {
        head: 'Deeds',
        deeds: ({ name, asked }) => (
          <>
            <button type="button" className="verb" onClick={() => open('witness.configure', { witness: name })}>
              Change
            </button>
            {asked.length === 0 && (
              <button type="button" className="verb" onClick={() => open('witness.delete', { witness: name })}>
                Forget
              </button>
            )}
          </>
        ),
      },
    ],
    [open],
  );
  if (rows.length === 0) return <p className="py-2 text-ink2">There is none: nothing can be stretched yet.</p>;
  return <DataTable label="Witnesses" rows={rows} keyOf={({ id }) => id} columns={columns} />;
}
