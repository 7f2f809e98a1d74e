'use client';
import { useState } from 'react';
import type { PoolCapacity } from '@/core/space/capacity';
import type { Waterfall } from '@/core/space/waterfall';
import { formatBytes } from '@/core/units/bytes';

interface Step {
  part: keyof Waterfall;
  label: string;
  /** A sum stands at its own width; a part hangs between the sums. */
  kind: 'sum' | 'less' | 'more';
}

const steps: Step[] = [
  { part: 'provisioned', label: 'Provisioned', kind: 'sum' },
  { part: 'unwritten', label: 'not written yet', kind: 'less' },
  { part: 'written', label: 'Written', kind: 'sum' },
  { part: 'zeros', label: 'zeros', kind: 'less' },
  { part: 'cloneSharing', label: 'shared by clones', kind: 'less' },
  { part: 'dedupeSaving', label: 'equal pages', kind: 'less' },
  { part: 'compressionSaving', label: 'compressed away', kind: 'less' },
  { part: 'data', label: 'Data', kind: 'sum' },
  { part: 'metadata', label: 'metadata', kind: 'more' },
  { part: 'snapshots', label: 'snapshots', kind: 'more' },
  { part: 'physical', label: 'Physical', kind: 'sum' },
  { part: 'slack', label: 'rest of extents', kind: 'more' },
  { part: 'used', label: 'Used of the pool', kind: 'sum' },
];

/** Where a part hangs: below the sum before it and the parts between, or on top of them. */
function hangsFrom(fall: Waterfall, part: keyof Waterfall): number {
  let level = 0;
  for (const step of steps) {
    const bytes = fall[step.part];
    if (step.kind === 'sum') level = bytes;
    else if (step.kind === 'less') level -= bytes;
    if (step.part === part) return level;
    if (step.kind === 'more') level += bytes;
  }
  return level;
}

const PARTS = 5;

/** Promised bytes on their way down to what is used, a line a step; the step pointed at shows which volumes it is made of. */
export function WaterfallLines({ pool }: { pool: PoolCapacity }) {
  const [shown, setShown] = useState<keyof Waterfall>('used');
  const fall = pool.waterfall;
  const whole = Math.max(fall.provisioned, fall.used, 1);
  const parts = pool.volumes
    .map((volume) => ({ name: volume.name, bytes: volume.waterfall[shown] }))
    .filter((one) => one.bytes > 0)
    .sort((a, b) => b.bytes - a.bytes);
  const rest = fall[shown] - parts.slice(0, PARTS).reduce((sum, one) => sum + one.bytes, 0);
  const label = steps.find((step) => step.part === shown)!.label.toLowerCase();
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_150px] gap-x-3">
      <ol>
        {steps.map(({ part, label: text, kind }) => {
          const bytes = fall[part];
          const from = kind === 'sum' ? 0 : hangsFrom(fall, part);
          return (
            <li key={part}>
              <button
                type="button"
                onMouseEnter={() => setShown(part)}
                onFocus={() => setShown(part)}
                className={`grid w-full cursor-default grid-cols-[136px_minmax(0,1fr)_84px] min-h-[24px] items-center gap-x-2 text-left ${shown === part ? 'bg-wash' : ''} ${kind === 'sum' ? 'font-[600]' : 'text-ink2'}`}
              >
                <span className={kind === 'sum' ? '' : 'pl-3'}>
                  {kind === 'less' ? '− ' : kind === 'more' ? '+ ' : ''}
                  {text}
                </span>
                <span className="relative block h-[9px]">
                  {bytes > 0 && (
                    <i
                      className={`absolute h-full ${kind === 'sum' ? 'bg-ink' : 'border border-ink2'}`}
                      style={{
                        left: `${(from / whole) * 100}%`,
                        width: `max(${(bytes / whole) * 100}%, 1px)`,
                      }}
                    />
                  )}
                </span>
                <span className="num text-right">{bytes === 0 ? '0' : formatBytes(bytes, 'used')}</span>
              </button>
            </li>
          );
        })}
      </ol>
      <div aria-live="polite" className="border-l border-rule pl-2">
        <p className="caps">{label} is</p>
        {parts.length === 0 && <p className="text-ink2">nothing</p>}
        <dl>
          {parts.slice(0, PARTS).map((one) => (
            <div key={one.name} className="flex justify-between gap-1">
              <dt className="truncate">{one.name}</dt>
              <dd className="num">{formatBytes(one.bytes, 'used')}</dd>
            </div>
          ))}
          {rest !== 0 && (
            <div className="flex justify-between gap-1 text-ink2">
              <dt>{parts.length > PARTS ? `${parts.length - PARTS} others` : 'rounding'}</dt>
              <dd className="num">{formatBytes(Math.abs(rest), 'used')}</dd>
            </div>
          )}
        </dl>
      </div>
    </div>
  );
}
