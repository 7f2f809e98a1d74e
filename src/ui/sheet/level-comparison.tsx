'use client';
import { RadioGroup } from 'radix-ui';
import { useState } from 'react';
import type { Comparison } from '@/core/operation/operation';
import { RaidStrip } from '../look/raid-strip';

const grid = 'minmax(156px,1fr) 70px 46px 72px 62px 106px 54px 48px 64px 42px';

interface Sort {
  key: string;
  best: boolean;
}

/** A column that is pressed is sorted by its best, then by its worst, then no more. */
function nextSort(sort: Sort | null, key: string): Sort | null {
  if (sort?.key !== key) return { key, best: true };
  return sort.best ? { key, best: false } : null;
}

/** Alternatives side by side, a line each; a column head sorts by its figures, picking a line runs the marker along it. */
export function LevelComparison({
  comparison,
  value,
  onPick,
}: {
  comparison: Comparison;
  value: string;
  onPick: (value: string) => void;
}) {
  const { columns, advice } = comparison;
  const [sort, setSort] = useState<Sort | null>(null);
  const lines = sorted(comparison, sort);
  const most = columns.map((column, k) =>
    column.bar ? Math.max(...lines.map((line) => line.cells[k]!.value).filter(Number.isFinite)) : 0,
  );
  return (
    <div>
      <RadioGroup.Root value={value} onValueChange={onPick} aria-label="Level" className="border-b border-rule">
        <div className="grid items-end border-b border-ink pb-0.5" style={{ gridTemplateColumns: grid }}>
          <span className="caps">Level</span>
          {columns.map((column) => (
            <button
              key={column.key}
              type="button"
              title={`Sort by ${column.label.toLowerCase()}`}
              aria-pressed={sort?.key === column.key}
              onClick={() => setSort(nextSort(sort, column.key))}
              className="caps cursor-pointer pl-1 text-right"
            >
              {column.label}
              {sort?.key === column.key && (sort.best ? ' ▾' : ' ▴')}
            </button>
          ))}
        </div>
        {lines.map((line) => {
          const on = line.value === value;
          return (
            <RadioGroup.Item
              key={line.value}
              value={line.value}
              disabled={line.unfit !== undefined}
              title={line.unfit}
              aria-label={line.unfit ? `${line.label}: ${line.unfit}` : line.label}
              className={`grid min-h-[27px] w-full cursor-pointer items-center border-b border-rule-faint text-left disabled:cursor-default disabled:text-ink3 ${on ? 'bg-wash font-[640]' : ''}`}
              style={{ gridTemplateColumns: grid }}
            >
              <span
                className={`flex h-full min-w-0 items-center gap-1.5 pr-1 pl-1 ${on ? 'bg-marker text-[#10201a]' : ''}`}
              >
                <span className="w-[50px] flex-none">
                  {!line.unfit && (
                    <RaidStrip
                      data={line.sketch.data}
                      redundancy={line.sketch.parity}
                      mirror={line.sketch.mirror}
                      room={44}
                    />
                  )}
                </span>
                <span className="truncate text-[12px] leading-[14px] [font-stretch:78%]">{line.label}</span>
              </span>
              {line.unfit ? (
                <span className="narrow col-span-9 truncate pl-2">{line.unfit}</span>
              ) : (
                line.cells.map((cell, k) => (
                  <span key={k} className="num relative pl-1 text-right text-[12px] [font-stretch:80%]">
                    {cell.text}
                    {columns[k]!.bar && (
                      <i
                        aria-hidden="true"
                        className="absolute right-0 -bottom-[3px] h-[2px] bg-ink2"
                        style={{ width: `${(cell.value / most[k]!) * 100}%` }}
                      />
                    )}
                  </span>
                ))
              )}
            </RadioGroup.Item>
          );
        })}
      </RadioGroup.Root>
      {advice.length > 0 && (
        <dl aria-label="Advice" className="grid grid-cols-[auto_1fr] gap-x-3 py-1">
          {advice.map((one) => (
            <div key={one.goal} className="contents">
              <dt>
                <button type="button" className="verb" onClick={() => onPick(one.value)}>
                  {one.goal}
                </button>
              </dt>
              <dd className="py-[3px] text-ink2">{one.why}</dd>
            </div>
          ))}
        </dl>
      )}
    </div>
  );
}

/** Lines by a column's figure, best or worst first; those that cannot be chosen come last. */
function sorted({ columns, lines }: Comparison, sort: { key: string; best: boolean } | null): Comparison['lines'] {
  if (!sort) return lines;
  const k = columns.findIndex((column) => column.key === sort.key);
  const up = (columns[k]!.better === 'less') === sort.best;
  return [...lines].sort((a, b) => {
    if (a.unfit || b.unfit) return Number(a.unfit !== undefined) - Number(b.unfit !== undefined);
    const [one, two] = [a.cells[k]!.value, b.cells[k]!.value];
    if (one === two) return 0;
    return one < two === up ? -1 : 1;
  });
}
