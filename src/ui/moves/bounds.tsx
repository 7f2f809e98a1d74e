import type { MoveBound, WavePlanRow } from '@/core/moving/answers';
import { formatBytes } from '@/core/units/bytes';
import { weekTimeText } from '@/core/units/date';
import { formatRate } from '@/core/units/rate';
import type { Axis } from './axis';
import { rowGrid } from './move-row';

const HEIGHT = 58;

/** What is full on the way of a plan's moves: each limit as steps over the same time. */
export function Bounds({ plan, axis }: { plan: WavePlanRow; axis: Axis }) {
  if (plan.bounds.length === 0) return null;
  return (
    <section aria-label={`What bounds ${plan.name}`}>
      <h3 className="border-b border-rule bg-paper px-3 pt-1.5 pb-0.5 font-[640]">What bounds them</h3>
      {plan.bounds.map((bound, k) => (
        <div key={`${bound.what} ${bound.name}`} className={`${rowGrid} border-b border-rule-faint px-3 py-1`}>
          <span className="col-span-3 min-w-0">
            <b className="block truncate font-[640]">
              {bound.name}
              {bound.what === 'rate' ? ', for moves' : ', filled'}
            </b>
            <span className="num block truncate text-ink2">
              {bound.what === 'rate'
                ? `most ${formatRate(Math.round(Math.max(0, ...bound.steps.map(({ value }) => value))))} of ${formatRate(Math.round(bound.limit))}`
                : `${formatBytes(Math.round(bound.steps[0]?.value ?? 0))} to ${formatBytes(Math.round(bound.steps.at(-1)?.value ?? 0))}`}
            </span>
          </span>
          <span className="min-w-0 overflow-hidden">
            <BoundChart bound={bound} axis={axis} plan={k === 0 ? plan : null} />
          </span>
        </div>
      ))}
    </section>
  );
}

function BoundChart({ bound, axis, plan }: { bound: MoveBound; axis: Axis; plan: WavePlanRow | null }) {
  const top = 14;
  const foot = HEIGHT - 8;
  const most = Math.max(bound.limit, ...bound.steps.map(({ value }) => value)) || 1;
  const y = (value: number) => foot - (value / most) * (foot - top);
  const stepped = bound.what === 'rate';
  let path = '';
  bound.steps.forEach(({ from, to, value }, k) => {
    const before = bound.steps[k - 1];
    const gap = stepped && before && from - before.to > 1;
    if (gap) path += `V${y(0)}H${axis.x(from)}`;
    path += k === 0 ? `M${axis.x(from)} ${stepped ? y(0) : y(value)}` : '';
    path += stepped ? `V${y(value)}H${axis.x(to)}` : `H${axis.x(from)}L${axis.x(to)} ${y(value)}`;
  });
  if (path !== '' && stepped) path += `V${y(0)}`;
  const last = bound.steps.at(-1);
  if (!stepped && last) path += `H${axis.width}`;
  const hour = (at: number) => weekTimeText(at);
  return (
    <svg width={axis.width} height={HEIGHT} className="gfx text-ink" aria-hidden="true">
      <path d={`M0 ${y(bound.limit)}H${axis.width}`} stroke="currentColor" strokeWidth="1.4" />
      <path d={`M0 ${foot}H${axis.width}`} stroke="var(--rule)" />
      <path d={path} fill="none" stroke="currentColor" />
      <text
        x={axis.width - 4}
        y={y(bound.limit) - 4}
        textAnchor="end"
        fontSize="12"
        fontWeight="640"
        fill="currentColor"
        stroke="var(--paper)"
        strokeWidth="4"
        paintOrder="stroke"
      >
        {bound.limitSays}
      </text>
      {plan?.boundAt != null && plan.endsAt !== null && (
        <>
          <path d={`M${axis.x(plan.boundAt) - 4} ${foot - 8}h8l-4 7z`} fill="var(--paper)" stroke="currentColor" />
          <path d={`M${axis.x(plan.endsAt) - 4} ${foot - 8}h8l-4 7z`} fill="currentColor" />
          <text
            x={axis.x(plan.boundAt) > 210 ? axis.x(plan.boundAt) - 8 : axis.x(plan.endsAt) + 8}
            y={foot - 10}
            textAnchor={axis.x(plan.boundAt) > 210 ? 'end' : 'start'}
            fontSize="12"
            fill="var(--ink2)"
            stroke="var(--paper)"
            strokeWidth="4"
            paintOrder="stroke"
          >
            bound {hour(plan.boundAt)}, plan {hour(plan.endsAt)}
          </text>
        </>
      )}
    </svg>
  );
}
