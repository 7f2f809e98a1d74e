'use client';
import { useQuery } from '@tanstack/react-query';
import { api } from '../api/client';
import { StatePost } from '../look/post';
import { usePlace } from '../shell/place';
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
            <table className="table w-full" aria-label="Conflicts">
              <thead>
                <tr>
                  <th className="pl-4!">Conflict</th>
                  <th>What it is about</th>
                  <th>In words</th>
                </tr>
              </thead>
              <tbody>
                {data.conflicts.map((one) => (
                  <tr key={`${one.kind} ${one.name}`}>
                    <td className="pl-4!">{one.kind}</td>
                    <td className="name">{one.name}</td>
                    <td>{one.message}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </>
      )}
    </SheetFrame>
  );
}
