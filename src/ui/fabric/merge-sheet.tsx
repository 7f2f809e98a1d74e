'use client';
import { useQuery } from '@tanstack/react-query';
import type { MergeAnswer } from '@/core/fabric/merge';
import { api } from '../api/client';
import { StatePost } from '../look/post';
import { usePlace } from '../shell/place';
import type { Column } from '../table/columns';
import { DataTable } from '../table/data-table';
import { Pick } from '../sheet/controls';
import { SheetFrame } from '../sheet/sheet-frame';

/** What would happen if a link joined two fabrics: merged, or isolated with every conflict. */
export function MergeSheet({ given }: { given: Record<string, unknown> }) {
  const { open } = usePlace();
  const fabrics = useQuery({ queryKey: ['fabric'], queryFn: () => api.fabric() });
  const names = fabrics.data?.items.map((one) => one.name) ?? [];
  const a = typeof given.a === 'string' ? given.a : (names[0] ?? '');
  const b = typeof given.b === 'string' ? given.b : (names[1] ?? '');
  const { data, error } = useQuery({
    queryKey: ['merge', a, b],
    queryFn: () => api.merge(a, b),
    enabled: a !== '' && b !== '',
  });
  const choices = names.map((name) => ({ value: name, label: `Fabric ${name}` }));
  return (
    <SheetFrame title="Merge check" line="before a link is plugged in">
      <div className="grid grid-cols-2 gap-3 px-4 py-2">
        {(['a', 'b'] as const).map((side) => (
          <Pick
            key={side}
            id={`merge-${side}`}
            label={side === 'a' ? 'One fabric' : 'The other fabric'}
            value={side === 'a' ? a : b}
            choices={choices}
            invalid={false}
            describedBy="merge-says"
            onPick={(value) => open('merge', { a, b, [side]: value })}
          />
        ))}
      </div>
      {error && <p className="refusal m-4">{error.message}</p>}
      {data && (
        <>
          <p id="merge-says" className="flex items-baseline gap-2 border-y border-rule px-4 py-2" role="status">
            <span className="translate-y-[2px]">
              <StatePost post={data.outcome === 'merged' ? 'stands' : 'broken'} />
            </span>
            {data.a === data.b
              ? 'Choose two fabrics.'
              : data.outcome === 'merged'
                ? `They would merge: ${data.zones} active zones and ${data.aliases} aliases in one fabric, set ${data.setNames.join(' or ') || 'none'}. Two fabrics that shall back each other up are better kept apart.`
                : `They would stay isolated: ${data.conflicts.length} ${data.conflicts.length === 1 ? 'conflict' : 'conflicts'}.`}
          </p>
          {data.conflicts.length > 0 && (
            <DataTable
              label="Conflicts"
              rows={data.conflicts}
              keyOf={({ kind, name }) => `${kind} ${name}`}
              columns={columns}
              inset
            />
          )}
        </>
      )}
    </SheetFrame>
  );
}

const columns: Column<MergeAnswer['conflicts'][number]>[] = [
  { head: 'Conflict', value: ({ kind }) => kind },
  { head: 'What it is about', kind: 'name', value: ({ name }) => name },
  { head: 'In words', value: ({ message }) => message },
];
