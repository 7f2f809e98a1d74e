import type { LimitWeek } from '@/core/performance/limit-week';
import { percentText } from './words';
import { useWidth } from './use-width';

const days = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];
const ROW = 34;
const FOOT = 14;

/** What a limit means by hour of the week: what is held back, and how busy what it shares is without and with it. */
export function WeekStrip({ week }: { week: LimitWeek }) {
  const [ref, width] = useWidth(360);
  const most = Math.max(...week.held);
  const { shared } = week;
  const rows = shared ? 2 : 1;
  const step = width / 168;
  const top = Math.max(0.01, ...(shared?.before ?? []));
  const says = `By hour of the week: at most ${percentText(most)} of what it asks is held back${
    shared
      ? `; ${shared.name} is at most ${percentText(Math.max(...shared.before))} busy without it, ${percentText(Math.max(...shared.after))} with it`
      : ''
  }.`;
  return (
    <figure ref={ref} className="m-0 px-4 py-1">
      <svg width="100%" viewBox={`0 0 ${width} ${rows * ROW + FOOT}`} role="img" aria-label={says}>
        <Bars values={week.held} scale={Math.max(0.01, most)} foot={ROW} step={step} />
        {shared && (
          <>
            <Bars values={shared.before} scale={top} foot={2 * ROW} step={step} hollow />
            <Bars values={shared.after} scale={top} foot={2 * ROW} step={step} />
          </>
        )}
        {days.map((day, k) => (
          <text key={day} x={k * 24 * step + 2} y={rows * ROW + FOOT - 2} className="fill-ink2 text-[11px]">
            {day}
          </text>
        ))}
      </svg>
      <figcaption className="narrow text-ink2">
        {says}
        {shared && ' Above: held back; below: outline without the limit, filled with it.'}
      </figcaption>
    </figure>
  );
}

function Bars({
  values,
  scale,
  foot,
  step,
  hollow = false,
}: {
  values: readonly number[];
  scale: number;
  foot: number;
  step: number;
  hollow?: boolean;
}) {
  const tall = ROW - 6;
  return (
    <g>
      <line x1={0} x2={168 * step} y1={foot + 0.5} y2={foot + 0.5} className="stroke-rule" />
      {values.map((value, k) => (
        <rect
          key={k}
          x={k * step}
          y={foot - (tall * value) / scale}
          width={Math.max(0.5, step - 0.5)}
          height={(tall * value) / scale}
          className={hollow ? 'fill-rule' : 'fill-ink2'}
        />
      ))}
    </g>
  );
}
