'use client';
import type { Had } from '@/core/space/capacity';
import { formatBytes } from '@/core/units/bytes';
import { usePlace } from '../shell/place';

const SHOWN = 12;

/** What can be had back, and how: the most first. */
export function HadBack({ rows }: { rows: readonly Had[] }) {
  const { openStep } = usePlace();
  const total = rows.reduce((sum, row) => sum + row.bytes, 0);
  return (
    <section aria-label="What can be had back" className="pt-4">
      <h2 className="caps border-b border-ink pb-1">
        What can be had back: <span className="num">{formatBytes(total)}</span>
      </h2>
      <ul>
        {rows.slice(0, SHOWN).map((row) => (
          <li
            key={`${row.what} ${row.volume}`}
            className="grid grid-cols-[96px_96px_minmax(120px,1fr)_minmax(0,2.4fr)_auto] items-baseline gap-x-3 border-b border-rule-faint py-1"
          >
            <b className="num text-right font-[640]">{formatBytes(row.bytes)}</b>
            <span className="text-ink2">{row.what}</span>
            <span className="name truncate">
              {row.name}{' '}
              <span className="narrow font-[400] text-ink2">
                {row.array} {row.pool}
              </span>
            </span>
            <span className="text-ink2">{row.why}</span>
            <button type="button" className="verb" onClick={() => openStep(row.mend)}>
              {row.mend.label}
              <span className="sr-only"> {row.name}</span>
            </button>
          </li>
        ))}
      </ul>
      {rows.length > SHOWN && (
        <p className="pt-1 text-ink2">and {rows.length - SHOWN} more, in the table “reclaimable”.</p>
      )}
    </section>
  );
}
