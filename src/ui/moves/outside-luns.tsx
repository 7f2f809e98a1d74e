'use client';
import { useQuery } from '@tanstack/react-query';
import type { OutsideAnswer, OutsideRow } from '@/core/outside/answers';
import { formatBytes } from '@/core/units/bytes';
import { counted } from '@/core/units/counted';
import { momentText } from '@/core/units/date';
import { api } from '../api/client';
import { useParam, usePlace } from '../shell/place';
import { OutsidePanel } from './outside-panel';

/** What outside arrays show on the fabric, and how far each LUN of them has come in. */
export function OutsideLuns() {
  const { open, sheet } = usePlace();
  const [lun, setLun] = useParam('lun');
  const outside = useQuery({ queryKey: ['moves', 'outside'], queryFn: api.outside });
  const data = outside.data;
  if (outside.error)
    return (
      <p className="refusal m-3">
        Outside LUNs were asked for. {outside.error.message}{' '}
        <button type="button" className="verb" onClick={() => void outside.refetch()}>
          Ask again
        </button>
      </p>
    );
  if (!data) return <p className="p-3 text-ink2">Reading outside LUNs…</p>;
  const chosen = data.luns.find(({ id }) => id === lun) ?? data.luns[0];
  return (
    <div className="@container min-h-0 flex-1">
      <div
        className={`grid h-full min-h-0 ${sheet || !chosen ? '' : 'grid-cols-[minmax(0,1fr)_352px] @max-[860px]:auto-rows-max @max-[860px]:grid-cols-1 @max-[860px]:overflow-auto'}`}
      >
        <section aria-label="Outside LUNs" className="scroller min-h-0 min-w-0">
          <Arrays arrays={data.arrays} />
          {data.luns.length > 0 ? (
            <LunTable luns={data.luns} chosen={chosen?.id ?? null} onChoose={setLun} />
          ) : (
            <p className="p-3 text-ink2">
              {data.arrays.length === 0 ? 'No array is known only by what it shows. ' : 'Nothing was looked for yet. '}
              An array that is zoned with an outside one finds its LUNs: their data can be kept and served from here, or
              they become blank room of a pool.{' '}
              {data.arrays.length > 0 && (
                <button type="button" className="verb" onClick={() => open('outside.rescan')}>
                  Look for LUNs
                </button>
              )}
            </p>
          )}
        </section>
        {!sheet && chosen && <OutsidePanel key={chosen.id} id={chosen.id} onClose={() => setLun('')} />}
      </div>
    </div>
  );
}

/** Outside arrays, and from where they are seen. */
function Arrays({ arrays }: { arrays: OutsideAnswer['arrays'] }) {
  return (
    <ul aria-label="Outside arrays">
      {arrays.map(({ name, model, site, shown, seenFrom }) => (
        <li key={name} className="flex items-baseline gap-3 border-b border-ink px-3 pt-2 pb-1">
          <b className="text-[15px] font-[700] [font-stretch:84%]">{name}</b>
          <span className="num min-w-0 flex-1 truncate text-ink2">
            {model}, {site}; shows {counted(shown, 'LUN')};{' '}
            {seenFrom.length === 0 ? (
              <b className="font-[640] text-red">✕ no array is zoned with it</b>
            ) : (
              `seen from ${seenFrom.map(({ array, ways }) => `${array} over ${counted(ways, 'way')}`).join(', ')}`
            )}
          </span>
        </li>
      ))}
    </ul>
  );
}

function LunTable({
  luns,
  chosen,
  onChoose,
}: {
  luns: readonly OutsideRow[];
  chosen: string | null;
  onChoose: (id: string) => void;
}) {
  const arrays = new Set(luns.map(({ array }) => array));
  const at = luns.findIndex(({ id }) => id === chosen);
  const onKeyDown = (event: React.KeyboardEvent) => {
    const to: Record<string, number> = { ArrowDown: at + 1, ArrowUp: at - 1, Home: 0, End: luns.length - 1 };
    if (!(event.key in to)) return;
    event.preventDefault();
    const next = luns[to[event.key]!];
    if (!next) return;
    onChoose(next.id);
    document.getElementById(`lun-${next.id}`)?.focus();
  };
  return (
    <table
      className="table w-full [&_td]:align-baseline! [&_td:first-child]:pl-3! [&_th:first-child]:pl-3!"
      aria-label="LUNs found"
      onKeyDown={onKeyDown}
    >
      <thead>
        <tr className="caps">
          <th>LUN</th>
          <th className="text-right!">Size</th>
          <th>Serial</th>
          <th>What lies on it</th>
          <th>Last write</th>
          <th>Seen by</th>
          <th>Stands</th>
        </tr>
      </thead>
      <tbody className="num">
        {luns.map((row) => (
          <tr key={row.id} className={row.id === chosen ? 'bg-wash' : ''}>
            <td className="name">
              <button
                type="button"
                id={`lun-${row.id}`}
                className="verb"
                aria-current={row.id === chosen}
                onClick={() => onChoose(row.id)}
              >
                {row.id === chosen ? <span className="swipe">{row.name}</span> : row.name}
              </button>
              {arrays.size > 1 && <span className="narrow block font-normal text-ink2">behind {row.array}</span>}
            </td>
            <td className="text-right">{row.size === null ? '?' : formatBytes(row.size)}</td>
            <td className="mono text-[11.5px]">{row.serial || '–'}</td>
            <td className="whitespace-normal!">
              {row.size === null ? (
                <span className="text-ink2">not inspected</span>
              ) : (
                (row.holds ?? <span className="text-ink2">nothing</span>)
              )}
              {row.reservedBy && <b className="block font-[640] text-red">✕ reserved by {row.reservedBy}</b>}
            </td>
            <td>
              {row.writing ? (
                <b className="font-[640] text-red">✕ now</b>
              ) : row.writtenAt === null ? (
                '–'
              ) : (
                momentText(row.writtenAt)
              )}
            </td>
            <td className="whitespace-normal! text-ink2">{row.hosts.join(', ') || 'no host'}</td>
            <td className="whitespace-normal!">
              {row.silent ? <b className="font-[640] text-red">✕ cannot be read</b> : row.says}
              {row.front && (
                <span className="narrow block text-ink2">
                  as {row.front.name}
                  {row.state === 'moved' ? `, in ${row.front.pool}` : ''}
                </span>
              )}
              {row.pool && <span className="narrow block text-ink2">of pool {row.pool}</span>}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
