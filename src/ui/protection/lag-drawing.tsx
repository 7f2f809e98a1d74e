import type { LagPoint } from '@/core/replicate/lag-course';
import { DAY, formatDuration } from '@/core/units/duration';

const WIDTH = 560;
const HEIGHT = 74;
const BASE = 60;

interface Props {
  course: readonly LagPoint[];
  rpo: number | null;
  now: number;
  /** Over how long it is drawn. */
  span: number;
}

/** How far the target was behind: it rises with time and falls when a cycle is applied. The promise is a line across. */
export function LagDrawing({ course, rpo, now, span }: Props) {
  const lag = course.at(-1)?.lag ?? 0;
  const most = Math.max(1, rpo ?? 0, ...course.map((one) => one.lag));
  const x = (at: number) => Math.max(0, WIDTH - ((now - at) / span) * WIDTH);
  const y = (value: number) => BASE - (Math.min(value, most) / most) * (BASE - 8);
  const path = course
    .map((one, k) => `${k === 0 ? 'M' : 'L'}${x(one.at).toFixed(1)} ${y(one.lag).toFixed(1)}`)
    .join('');
  const from = span === DAY ? '24 h ago' : `${Math.round(span / DAY)} days ago`;
  const says = `${formatDuration(lag)} behind now${rpo === null ? '' : `, ${formatDuration(rpo)} promised`}; at most ${formatDuration(most)} is drawn, from ${from}`;
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      width={WIDTH}
      height={HEIGHT}
      className="gfx max-w-full text-ink"
      role="img"
      aria-label={says}
    >
      <path d={`M0 ${BASE}.5H${WIDTH}M0 6V${BASE}`} stroke="currentColor" fill="none" />
      {rpo !== null && (
        <>
          <path d={`M0 ${y(rpo).toFixed(1)}H${WIDTH}`} stroke="var(--red)" strokeDasharray="4 3" fill="none" />
          <text x="4" y={y(rpo) < 20 ? y(rpo) + 11 : y(rpo) - 3} fontSize="11" fill="var(--red)">
            {formatDuration(rpo)} promised
          </text>
        </>
      )}
      <path d={path} stroke="currentColor" strokeWidth="1.5" fill="none" />
      <text x="0" y={HEIGHT - 2} fontSize="11" fill="currentColor">
        {from}
      </text>
      <text x={WIDTH} y={HEIGHT - 2} fontSize="11" textAnchor="end" fill="currentColor">
        now {formatDuration(lag)} behind
      </text>
    </svg>
  );
}
