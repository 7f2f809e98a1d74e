import { memo } from 'react';
import type { MoveRow } from '@/core/moving/answers';
import type { Post } from '@/core/span/model';
import { formatBytes } from '@/core/units/bytes';
import { StatePost } from '../look/post';
import type { Axis } from './axis';

export const rowGrid = 'grid grid-cols-[minmax(126px,168px)_62px_minmax(96px,132px)_minmax(0,1fr)] gap-x-2';
const HEIGHT = 30;

/** How a move's state is drawn. */
export function postOf(row: MoveRow): Post {
  if (
    row.asks !== '' ||
    (row.still !== null && row.state === 'copying' && row.rate === 0 && !row.still.includes('window'))
  )
    return 'leans';
  return row.state === 'ready' ? 'absent' : 'stands';
}

/** One move: its volume, where it goes, and its bar on the axis of time. */
export const MoveLine = memo(function MoveLine({
  row,
  axis,
  now,
  chosen,
  onChoose,
}: {
  row: MoveRow;
  axis: Axis;
  now: number;
  chosen: boolean;
  onChoose: (id: string) => void;
}) {
  return (
    <div
      id={`move-${row.id}`}
      role="option"
      aria-selected={chosen}
      aria-label={`${row.name}, ${formatBytes(row.bytes, 'used')}, ${row.from} to ${row.to}, ${row.stateSays}, ${row.says}`}
      title={row.says}
      className={`${rowGrid} h-[30px] cursor-pointer items-center border-b border-rule-faint px-3 ${chosen ? 'bg-wash' : ''}`}
      onClick={() => onChoose(row.id)}
    >
      <span className="flex min-w-0 items-center gap-2">
        <StatePost post={postOf(row)} />
        <span className={`name truncate ${chosen ? 'font-[760]!' : ''}`} title={row.name}>
          {row.name}
        </span>
      </span>
      <span className="num text-right">{formatBytes(row.bytes, 'used')}</span>
      <span className="truncate text-ink2" title={`${row.from} to ${row.to}`}>
        {row.to}
      </span>
      <span className="min-w-0 overflow-hidden">
        <Bar row={row} axis={axis} now={now} chosen={chosen} />
      </span>
    </div>
  );
});

/** What is copied is solid, what is to be copied hollow; strokes keep in step, a box waits for a person, a thin line keeps the way back. */
function Bar({ row, axis, now, chosen }: { row: MoveRow; axis: Axis; now: number; chosen: boolean }) {
  const { x, width } = axis;
  const middle = HEIGHT / 2;
  const top = middle - 5.5;
  const at = x(now);
  const copiedTo = row.wholeAt ?? (row.startedAt === null ? null : now);
  const waits = row.state === 'waiting' || row.state === 'copying' || row.state === 'ready';
  const ends = row.endsAt ?? row.wholeAt ?? now;
  // Behind what is whole, a box for the person who confirms.
  const box = Math.min(width - 14, Math.max(x(ends), row.state === 'waiting' ? at : 0) + 3);
  const cut = row.cutAt === null ? null : x(row.cutAt);
  const text = saysAt(row, { box, at, cut, axis });
  return (
    <svg width={width} height={HEIGHT} className="gfx text-ink" aria-hidden="true">
      {row.startedAt !== null && copiedTo !== null && (
        <rect
          x={x(row.startedAt)}
          y={top}
          width={Math.max(2, x(copiedTo) - x(row.startedAt))}
          height="11"
          fill="currentColor"
        />
      )}
      {row.bars.map(([from, to]) => (
        <rect
          key={from}
          x={x(from) + 0.5}
          y={top + 0.5}
          width={Math.max(1.5, x(to) - x(from) - 1)}
          height="10"
          fill="var(--paper)"
          stroke="currentColor"
        />
      ))}
      {row.bars.slice(1).map(([from], k) => (
        <path
          key={from}
          d={`M${x(row.bars[k]![1])} ${middle}H${x(from)}`}
          stroke="var(--field)"
          strokeDasharray="2 3"
        />
      ))}
      {row.state === 'waiting' && row.wholeAt !== null && (
        <path
          d={`M${x(row.wholeAt) + 2} ${middle}H${at}`}
          stroke="currentColor"
          strokeWidth="5"
          strokeDasharray="1.5 2.5"
        />
      )}
      {waits && (row.bars.length > 0 || row.state === 'waiting') && <Box x={box + 0.5} />}
      {cut !== null && row.state !== 'waiting' && (
        <>
          <Box x={cut - 5} />
          <path d={`M${cut - 3} ${middle}l2.5 3 4 -6`} fill="none" stroke="currentColor" strokeWidth="1.6" />
          <path
            d={`M${cut + 6} ${middle}H${x(row.provenAt ?? axis.to) - 1}m-5 -3.5l5 3.5l-5 3.5`}
            fill="none"
            stroke="currentColor"
          />
        </>
      )}
      {text && (
        <text
          x={text.x}
          y={text.y}
          textAnchor={text.anchor}
          fontSize="12"
          fill="var(--ink2)"
          stroke={chosen ? 'var(--wash)' : 'var(--paper)'}
          strokeWidth="4"
          paintOrder="stroke"
          className="narrow"
        >
          {row.says}
        </text>
      )}
    </svg>
  );
}

/** Where a person confirms. */
const Box = ({ x }: { x: number }) => (
  <rect x={x} y={HEIGHT / 2 - 5} width="10" height="10" fill="var(--paper)" stroke="currentColor" strokeWidth="1.4" />
);

/** Where the words beside a bar stand: behind it, in a gap of it, or before it; null where there is no room. */
function saysAt(
  row: MoveRow,
  { box, at, cut, axis }: { box: number; at: number; cut: number | null; axis: Axis },
): { x: number; y: number; anchor: 'start' | 'end' } | null {
  const { x, width } = axis;
  const wide = row.says.length * 5.4;
  if (cut !== null && row.state !== 'waiting')
    return cut + wide + 16 < width
      ? { x: cut + 12, y: 11, anchor: 'start' }
      : cut - wide > 10
        ? { x: cut - 10, y: 19, anchor: 'end' }
        : null;
  const behind = row.bars.length > 0 || row.state === 'waiting' ? box + 16 : at + 8;
  if (behind + wide < width) return { x: behind, y: 19, anchor: 'start' };
  const first = row.startedAt === null ? (row.bars[0] ? x(row.bars[0][0]) : at) : x(row.startedAt);
  if (first - 8 > wide) return { x: first - 8, y: 19, anchor: 'end' };
  for (const [k, [from]] of row.bars.entries()) {
    const before = k === 0 ? null : x(row.bars[k - 1]![1]);
    if (before !== null && x(from) - before > wide + 8)
      return { x: (before + x(from) - wide) / 2, y: 19, anchor: 'start' };
  }
  return null;
}
