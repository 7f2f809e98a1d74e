'use client';
import { useState } from 'react';
import type { LayoutSketch } from '@/core/operation/operation';

/** Which drives hold what of the first stripes; pointing at a strip brings its whole stripe out. */
export function LayoutStrip({ layout }: { layout: LayoutSketch }) {
  const [stripe, setStripe] = useState<number | null>(0);
  const width = `repeat(${layout.drives.length}, minmax(0, 1fr))`;
  const strips = layout.rows.flatMap((row, r) =>
    row.flatMap((cell, d) => (cell && cell.stripe === stripe ? [{ ...cell, r, drive: layout.drives[d]! }] : [])),
  );
  const words = (what: string) => strips.filter((one) => one.what === what).map((one) => one.drive);
  return (
    <figure className="border-b border-rule-faint px-4 py-2" aria-label="Layout of the first stripes">
      <div className="flex items-baseline gap-3">
        <span className="caps">Layout</span>
        <figcaption className="min-w-0 flex-1 truncate text-ink2">
          {stripe === null || strips.length === 0
            ? 'Point at a strip to see its stripe.'
            : `Stripe ${stripe}: data on ${words('data').join(', ')}${words('copy').length > 0 ? `, copies on ${words('copy').join(', ')}` : ''}${words('parity').length > 0 ? `, parity on ${words('parity').join(', ')}` : ''}`}
        </figcaption>
      </div>
      <div className="mt-1 grid text-[11px] leading-[13px] [font-stretch:72%]" style={{ gridTemplateColumns: width }}>
        {layout.drives.map((drive) => (
          <span key={drive} className="truncate text-center text-ink3">
            {drive}
          </span>
        ))}
        {layout.rows.flatMap((row, r) =>
          row.map((cell, d) => {
            const on = cell !== null && cell.stripe === stripe && cell.what !== 'spare';
            return (
              <span
                key={`${r} ${d}`}
                onMouseEnter={() => cell && cell.what !== 'spare' && setStripe(cell.stripe)}
                className={`m-px h-[14px] overflow-hidden border text-center ${on ? 'border-ink font-[700] text-ink' : 'border-rule text-ink3'} ${cell?.what === 'spare' ? 'border-dashed' : ''}`}
                style={
                  cell && (cell.what === 'parity' || cell.what === 'copy')
                    ? {
                        backgroundImage:
                          'repeating-linear-gradient(135deg, var(--rule) 0 1.3px, transparent 1.3px 4px)',
                      }
                    : undefined
                }
              >
                {cell?.text}
              </span>
            );
          }),
        )}
      </div>
    </figure>
  );
}
