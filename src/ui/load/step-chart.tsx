'use client';
import { useId, useState } from 'react';
import { secondText, whenText } from './words';
import { useWidth } from './use-width';
import { DAY, HOUR } from '@/core/units/duration';

export interface Step {
  at: number;
  seconds: number;
  value: number;
}

/** A line across the chart at one value. */
export interface Level {
  value: number;
  says: string;
  draft?: boolean;
}

export interface StepChartProps {
  label: string;
  from: number;
  to: number;
  /** What is drawn as steps, from the boldest; the first is read out under the pointer. */
  lines: { says: string; steps: readonly Step[]; look: 'ink' | 'thin' | 'mean' | 'double' }[];
  /** Between two values a step: what was asked and not done, hatched. */
  missed?: readonly { at: number; seconds: number; low: number; high: number }[];
  /** A band from low to high. */
  band?: readonly { at: number; seconds: number; low: number; high: number }[];
  levels?: readonly Level[];
  marks?: readonly { at: number; value: number; says: string }[];
  format: (value: number) => string;
  height?: number;
  /** Washed with the marker: what is looked at. */
  marked?: boolean;
  chosen?: number | null;
  onChoose?: (at: number) => void;
}

const LEFT = 62;
const RIGHT = 14;
const TOP = 10;
const FOOT = 20;

/** Round steps of a scale. */
function ticksOf(most: number): number[] {
  if (most <= 0) return [0];
  const raw = most / 4;
  const unit = 10 ** Math.floor(Math.log10(raw));
  const step = [1, 2, 2.5, 5, 10].map((one) => one * unit).find((one) => one >= raw)!;
  return Array.from({ length: Math.floor(most / step) + 1 }, (_, k) => k * step);
}

/** Values that stand for a stretch of time each, drawn as steps; what is held back is hatched over paper. */
export function StepChart({
  label,
  from,
  to,
  lines,
  missed = [],
  band = [],
  levels = [],
  marks = [],
  format,
  height = 172,
  marked = false,
  chosen = null,
  onChoose,
}: StepChartProps) {
  const [ref, width] = useWidth();
  const [over, setOver] = useState<number | null>(null);
  const hatch = `hatch${useId().replace(/\W/g, '')}`;
  const most =
    1.08 *
    Math.max(
      1e-9,
      ...lines.flatMap(({ steps }) => steps.map(({ value }) => value)),
      ...missed.map(({ high }) => high),
      ...band.map(({ high }) => high),
      ...levels.filter(({ draft }) => draft).map(({ value }) => value),
    );
  const x = (at: number) => LEFT + ((at - from) / (to - from)) * (width - LEFT - RIGHT);
  const y = (value: number) => height - FOOT - (Math.min(value, most) / most) * (height - FOOT - TOP);
  // A step may reach beyond the span at both ends.
  const clipped = ({ at, seconds, value }: Step): Step => {
    const end = Math.min(to, at + seconds * 1000);
    return { at: Math.max(from, at), seconds: Math.max(0, (end - Math.max(from, at)) / 1000), value };
  };
  const path = (steps: readonly Step[]) =>
    steps
      .map(clipped)
      .filter(({ seconds }) => seconds > 0)
      .map(
        ({ at, seconds, value }, k) =>
          `${k === 0 ? 'M' : 'V'}${k === 0 ? `${x(at)} ${y(value)}` : y(value)}H${x(at + seconds * 1000)}`,
      )
      .join('');
  const span = to - from;
  const times = Array.from({ length: 5 }, (_, k) => from + (span * (k + 0.5)) / 5);
  const timeText = (at: number) => {
    const text = whenText(at);
    if (span > 2 * DAY) return text.slice(0, -9);
    return span > 2 * HOUR ? secondText(at).slice(0, 5) : secondText(at);
  };
  const under =
    over === null
      ? null
      : (lines[0]?.steps.find(({ at, seconds }) => over >= at && over < at + seconds * 1000) ?? null);
  const momentAt = (event: React.PointerEvent | React.MouseEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    return from + ((event.clientX - box.left - LEFT) / (width - LEFT - RIGHT)) * span;
  };
  return (
    <div ref={ref} className="min-w-0">
      <svg
        width={width}
        height={height}
        role="img"
        aria-label={label}
        onPointerMove={(event) => setOver(momentAt(event))}
        onPointerLeave={() => setOver(null)}
        onClick={onChoose ? (event) => onChoose(Math.max(from, Math.min(to - 5000, momentAt(event)))) : undefined}
        className={onChoose ? 'cursor-crosshair' : ''}
      >
        <defs>
          <pattern id={hatch} width="4" height="4" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width="1.3" height="4" fill="var(--ink)" />
          </pattern>
        </defs>
        {ticksOf(most).map((value) => (
          <g key={value}>
            <path
              d={`M${LEFT} ${y(value)}H${width - RIGHT}`}
              stroke={value === 0 ? 'var(--ink2)' : 'var(--rule-faint)'}
            />
            <text x={LEFT - 6} y={y(value) + 4} textAnchor="end" className="chart-text">
              {format(value)}
            </text>
          </g>
        ))}
        {times.map((at) => (
          <text key={at} x={x(at)} y={height - 5} textAnchor="middle" className="chart-text">
            {timeText(at)}
          </text>
        ))}
        {band.map(({ at, seconds, low, high }) => (
          <rect
            key={at}
            x={x(at)}
            y={y(high)}
            width={Math.max(1, x(at + seconds * 1000) - x(at))}
            height={Math.max(0.5, y(low) - y(high))}
            fill="var(--rule-faint)"
          />
        ))}
        {marked && lines[0] && <path d={path(lines[0].steps)} fill="none" stroke="var(--wash)" strokeWidth="6" />}
        {missed
          .filter(({ low, high }) => high > low)
          .map(({ at, seconds, low, high }) => (
            <rect
              key={at}
              x={x(at)}
              y={y(high)}
              width={Math.max(1.5, x(at + seconds * 1000) - x(at))}
              height={Math.max(0, y(low) - y(high))}
              fill={`url(#${hatch})`}
            />
          ))}
        {[...lines].reverse().map(({ says, steps, look }) =>
          look === 'double' ? (
            <g key={says}>
              <path d={path(steps)} fill="none" stroke="var(--ink)" strokeWidth="3" />
              <path d={path(steps)} fill="none" stroke="var(--paper)" strokeWidth="1.4" />
            </g>
          ) : (
            <path
              key={says}
              d={path(steps)}
              fill="none"
              stroke={look === 'ink' ? 'var(--ink)' : 'var(--ink3)'}
              strokeWidth={look === 'ink' ? 1.25 : 1}
              {...(look === 'thin' ? { strokeDasharray: '2 2' } : {})}
            />
          ),
        )}
        {levels
          .filter(({ value }) => value <= most)
          .map(({ value, says, draft }) => (
            <g key={says}>
              <path d={`M${LEFT} ${y(value)}H${width - RIGHT}`} stroke="var(--ink)" strokeWidth={draft ? 1 : 1.5} />
              <text
                x={width - RIGHT - 4}
                y={y(value) - 4}
                textAnchor="end"
                className="chart-text"
                style={{ fontWeight: 640, fill: 'var(--ink)', fontStyle: draft ? 'italic' : 'normal' }}
              >
                {says}
              </text>
            </g>
          ))}
        {marks.map(({ at, value, says }) => {
          const left = x(at) > width - 190;
          return (
            <g key={at}>
              <path d={`M${x(at)} ${y(value)}l${left ? -10 : 10} ${value > most * 0.8 ? 8 : -8}`} stroke="var(--ink)" />
              <circle cx={x(at)} cy={y(value)} r="2.5" fill="var(--ink)" />
              <text
                x={x(at) + (left ? -13 : 13)}
                y={y(value) + (value > most * 0.8 ? 14 : -6)}
                textAnchor={left ? 'end' : 'start'}
                className="chart-text"
                style={{ fill: 'var(--ink)' }}
              >
                {says}
              </text>
            </g>
          );
        })}
        {chosen !== null && chosen >= from && chosen < to && (
          <path d={`M${x(chosen)} ${TOP - 6}V${height - FOOT}`} stroke="var(--ink)" strokeWidth="1.5" />
        )}
        {under && over !== null && (
          <g pointerEvents="none">
            <path d={`M${x(over)} ${TOP}V${height - FOOT}`} stroke="var(--ink3)" />
            <text
              x={x(over) + (x(over) > width / 2 ? -6 : 6)}
              y={TOP + 8}
              textAnchor={x(over) > width / 2 ? 'end' : 'start'}
              className="chart-text"
              style={{ fill: 'var(--ink)', fontWeight: 640 }}
            >
              {whenText(under.at)}, {format(under.value)}
            </text>
          </g>
        )}
      </svg>
    </div>
  );
}
