'use client';
import { RadioGroup } from 'radix-ui';
import type { Comparison } from '@/core/operation/operation';
import { RaidStrip } from '../look/raid-strip';

/** Alternatives side by side; picking a column runs the marker down it. */
export function LevelComparison({
  comparison,
  value,
  onPick,
}: {
  comparison: Comparison;
  value: string;
  onPick: (value: string) => void;
}) {
  const { rows, columns } = comparison;
  const grid = { gridTemplateColumns: `104px repeat(${columns.length}, minmax(0, 1fr))` };
  const marked = (picked: string) => (picked === value ? 'bg-wash font-[640]' : '');
  return (
    <RadioGroup.Root
      value={value}
      onValueChange={onPick}
      orientation="horizontal"
      aria-label="Level"
      className="border-y border-rule"
    >
      <div className="grid items-stretch" style={grid}>
        <span className="caps self-center px-0">Level</span>
        {columns.map((column) => (
          <RadioGroup.Item
            key={column.value}
            value={column.value}
            disabled={column.unfit !== undefined}
            title={column.unfit}
            className={`grid min-h-[52px] cursor-pointer content-center gap-1 px-2 text-left disabled:cursor-default disabled:text-ink3 ${column.value === value ? 'bg-marker font-[700] text-[#10201a]' : ''}`}
          >
            <span className="overflow-hidden text-[12.5px] text-ellipsis whitespace-nowrap [font-stretch:84%]">
              {column.label}
            </span>
            {!column.unfit && (
              <span className="overflow-hidden">
                <RaidStrip
                  data={column.sketch.data}
                  redundancy={column.sketch.parity}
                  mirror={column.sketch.mirror}
                  room={76}
                />
              </span>
            )}
          </RadioGroup.Item>
        ))}
      </div>
      {rows.map((row, k) => (
        <div key={row} className="grid border-t border-rule-faint" style={grid}>
          <span className="py-[3px] text-ink2">{row}</span>
          {columns.map((column) => (
            <span
              key={column.value}
              className={`num px-2 py-[3px] ${marked(column.value)} ${column.unfit ? 'text-ink3' : ''}`}
            >
              {column.cells[k]}
            </span>
          ))}
        </div>
      ))}
    </RadioGroup.Root>
  );
}
