'use client';
import type { PathEventLine } from '@/core/trace/host-view';
import { formatDuration } from '@/core/units/duration';
import { labTime, useClock } from '../shell/clock-context';
import { timelineOf } from './timeline';

const heights: Record<string, string> = {
  optimized: 'h-[9px] bg-ink2',
  'non-optimized': 'h-[3px] bg-ink2',
  unavailable: 'h-[9px] border border-dashed border-red',
  down: 'h-[9px] border border-dashed border-red',
};

/** When which path stood how: thick while it carried I/O, thin in reserve, broken while it was down. */
export function PathTimeline({ events }: { events: readonly PathEventLine[] }) {
  const clock = useClock();
  const line = timelineOf(events, clock?.now ?? 0);
  if (!line) return null;
  const percent = (at: number) => `${((at - line.from) / (line.to - line.from)) * 100}%`;
  return (
    <div className="px-4 py-2" role="group" aria-label="Time line of paths">
      {line.rows.map((row) => (
        <div key={row.path} className="grid grid-cols-[150px_minmax(0,1fr)] items-center gap-x-2">
          <span className="narrow truncate">{row.path}</span>
          <div
            className="relative h-[14px]"
            role="img"
            aria-label={row.spans.map((span) => `${span.state} for ${formatDuration(span.to - span.from)}`).join(', ')}
          >
            {row.spans.map((span) => (
              <span
                key={span.from}
                className={`absolute top-1/2 -translate-y-1/2 ${heights[span.state] ?? ''}`}
                style={{ left: percent(span.from), width: `calc(${percent(line.from + span.to - span.from)} - 1px)` }}
                title={`${span.state}, ${formatDuration(span.to - span.from)}`}
              />
            ))}
          </div>
        </div>
      ))}
      <p className="num flex justify-between pl-[158px] text-[11px] text-ink3">
        <span>{labTime(line.from, true)}</span>
        <span>{labTime(line.to, true)}</span>
      </p>
      <p className="narrow pl-[158px] text-ink2">Thick: carries I/O. Thin: in reserve. Broken: down.</p>
    </div>
  );
}
