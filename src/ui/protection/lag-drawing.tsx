import type { ReplicationView } from '@/core/replicate/replication-view';
import { DAY, formatDuration } from '@/core/units/duration';

const WIDTH = 560;
const HEIGHT = 74;
const BASE = 60;

interface Props {
  cycles: ReplicationView['cycles'];
  rpo: number | null;
  lag: number;
  now: number;
}

/** How far the target was behind: it rises with time and falls when a cycle is applied. The promise is a line across. */
export function LagDrawing({ cycles, rpo, lag, now }: Props) {
  const shown = [...cycles].filter((one) => one.result === 'done' && now - one.finishedAt < DAY).reverse();
  const most = Math.max(1, lag, rpo ?? 0, ...shown.map((one) => one.finishedAt - one.pit + (one.lagBefore || 0)));
  const x = (at: number) => Math.max(0, WIDTH - ((now - at) / DAY) * WIDTH);
  const y = (span: number) => BASE - (Math.min(span, most) / most) * (BASE - 8);
  let path = '';
  let pit: number | null = null;
  for (const one of shown) {
    if (pit === null) path += `M${x(one.finishedAt).toFixed(1)} ${y(one.lagBefore + one.took).toFixed(1)}`;
    else path += `L${x(one.finishedAt).toFixed(1)} ${y(one.finishedAt - pit).toFixed(1)}`;
    path += `L${x(one.finishedAt).toFixed(1)} ${y(one.lagAfter).toFixed(1)}`;
    pit = one.pit;
  }
  path += `${path === '' ? 'M' : 'L'}${WIDTH} ${y(lag).toFixed(1)}`;
  const says = `${formatDuration(lag)} behind now${rpo === null ? '' : `, ${formatDuration(rpo)} promised`}; at most ${formatDuration(most)} is drawn`;
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
        24 h ago
      </text>
      <text x={WIDTH} y={HEIGHT - 2} fontSize="11" textAnchor="end" fill="currentColor">
        now {formatDuration(lag)} behind
      </text>
    </svg>
  );
}
