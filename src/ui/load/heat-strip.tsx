import type { HeatMap } from '@/core/performance/heat-map';
import { formatCount } from '@/core/units/figures';
import { useWidth } from './use-width';

const ROW = 30;
const BAR = 20;
const LEFT = 96;

/** Every class of a pool from its first extent to its last: how hot extents are there, and what is used. */
export function HeatStrip({ map }: { map: HeatMap }) {
  const [ref, width] = useWidth(900);
  const most = Math.max(1, ...map.tiers.flatMap(({ cells }) => cells.map(({ heat }) => heat)));
  /** Heat goes over many powers of ten. */
  const tall = (heat: number) => (BAR * Math.log10(1 + heat)) / Math.log10(1 + most);
  return (
    <figure ref={ref} className="m-0 pt-2">
      <svg
        width={width}
        height={map.tiers.length * ROW}
        role="img"
        aria-label={`Heat of ${map.name} by place: ${map.tiers
          .map(({ label, cells }) => `${label}, hottest ${formatCount(Math.max(...cells.map(({ heat }) => heat)))}`)
          .join('; ')}`}
      >
        {map.tiers.map(({ media, label, cells }, row) => {
          const foot = row * ROW + BAR + 4;
          const step = (width - LEFT) / cells.length;
          return (
            <g key={media}>
              <text x={0} y={foot} className="fill-ink text-[12px]">
                {label}
              </text>
              <line x1={LEFT} x2={width} y1={foot + 0.5} y2={foot + 0.5} className="stroke-rule" />
              {cells.map(({ heat, used }, k) => (
                <g key={k}>
                  {used > 0 && (
                    <rect
                      x={LEFT + k * step}
                      y={foot + 1}
                      width={Math.max(0.5, step * used)}
                      height={3}
                      className="fill-ink3"
                    />
                  )}
                  {heat > 0 && (
                    <rect
                      x={LEFT + k * step}
                      y={foot - tall(heat)}
                      width={Math.max(0.5, step - 1)}
                      height={tall(heat)}
                      className="fill-ink"
                    />
                  )}
                </g>
              ))}
            </g>
          );
        })}
      </svg>
      <figcaption className="narrow text-ink2">
        From the first extent to the last of each class. Bars: heat of an extent (accesses, halved every day), up to{' '}
        {formatCount(most)}, by powers of ten; the line below: what is used.
      </figcaption>
    </figure>
  );
}
