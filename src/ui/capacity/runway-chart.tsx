'use client';
import { CartesianGrid, Line, LineChart, ReferenceLine, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import type { PoolCapacity } from '@/core/space/capacity';
import type { PoolRunway } from '@/core/space/runway';
import { formatBytes, TIB } from '@/core/units/bytes';
import { dayText } from '@/core/units/date';
import { DAY } from '@/core/units/duration';

const AHEAD = 60;

interface Point {
  day: number;
  used?: number;
  trend?: number;
  low?: number;
  high?: number;
}

/** What was used day by day, the trend beyond today with its bounds, and the marks it runs towards. */
export function RunwayChart({ pool, runway }: { pool: PoolCapacity; runway: PoolRunway; now: number }) {
  const answer = runway.marks.at(-1)?.answer;
  const points: Point[] = runway.days.map(({ day, used }) => ({ day, used: used / TIB }));
  const last = runway.days.at(-1);
  if (last && answer && typeof answer !== 'string') {
    const from = last.used / TIB;
    points[points.length - 1] = { ...points.at(-1)!, trend: from, low: from, high: from };
    for (let k = 5; k <= AHEAD; k += 5)
      points.push({
        day: last.day + k,
        trend: from + (answer.slope * k) / TIB,
        low: from + (answer.low * k) / TIB,
        high: from + (answer.high * k) / TIB,
      });
  }
  const size = pool.size / TIB;
  const line = (key: keyof Point, width: number, dash?: string) => (
    <Line
      type="stepAfter"
      dataKey={key}
      stroke={dash ? 'var(--ink3)' : 'var(--ink)'}
      strokeWidth={width}
      {...(dash ? { strokeDasharray: dash } : {})}
      dot={false}
      activeDot={false}
      isAnimationActive={false}
    />
  );
  if (points.length < 2) return <p className="py-3 text-ink2">Too few days are on record for a line.</p>;
  return (
    <div
      className="h-[176px]"
      role="img"
      aria-label={`${pool.name} used over ${runway.days.length} days, from ${formatBytes(runway.days[0]!.used, 'used')} to ${formatBytes(last!.used, 'used')}`}
    >
      <ResponsiveContainer width="100%" height="100%">
        <LineChart data={points} margin={{ top: 6, right: 38, bottom: 0, left: -14 }}>
          <CartesianGrid stroke="var(--rule-faint)" vertical={false} />
          <XAxis
            dataKey="day"
            type="number"
            domain={['dataMin', 'dataMax']}
            tickFormatter={(day: number) => dayText(day * DAY)}
            tick={{ fontSize: 11, fill: 'var(--ink2)' }}
            stroke="var(--ink2)"
            tickCount={7}
          />
          <YAxis
            domain={[0, Math.ceil(size * 1.02)]}
            allowDataOverflow
            tick={{ fontSize: 11, fill: 'var(--ink2)' }}
            stroke="var(--ink2)"
            tickFormatter={(value: number) => String(value)}
            width={54}
            unit=" TiB"
          />
          <Tooltip
            isAnimationActive={false}
            cursor={{ stroke: 'var(--ink3)', strokeWidth: 1 }}
            content={({ active, payload }) => {
              const point = payload?.[0]?.payload as Point | undefined;
              if (!active || !point) return null;
              const value = point.used ?? point.trend ?? 0;
              return (
                <p className="border border-ink bg-raised px-2 py-0.5">
                  {dayText(point.day * DAY)}: {formatBytes(Math.round(value * TIB), 'used')}
                  {point.used === undefined ? ' by the trend' : ''}
                </p>
              );
            }}
          />
          {runway.marks.map((mark) => (
            <ReferenceLine
              key={mark.percent}
              y={mark.at / TIB}
              stroke="var(--ink2)"
              strokeWidth={mark.percent === 100 ? 1.75 : 1}
              strokeDasharray={mark.percent === 100 ? undefined : '6 3'}
              label={{ value: `${mark.percent} %`, position: 'right', fontSize: 11, fill: 'var(--ink2)' }}
            />
          ))}
          {line('used', 1.5)}
          {line('trend', 1.25)}
          {line('low', 1, '2 3')}
          {line('high', 1, '2 3')}
        </LineChart>
      </ResponsiveContainer>
    </div>
  );
}
