import type { StretchHost, StretchSide, StretchView } from '@/core/replicate/stretch-view';
import { answersHosts } from '@/core/stretch/decide';
import { counted } from '@/core/units/counted';
import { momentText } from '@/core/units/date';

const WIDTH = 760;
const BOX = 214;
const LEFT = 8;
const RIGHT = WIDTH - BOX - 8;
const TOP = 96;
const BOTTOM = TOP + 84;
const HOSTS = 262;

const text = (x: number, y: number, words: string, more: { bold?: boolean; end?: boolean; red?: boolean } = {}) => (
  <text
    x={x}
    y={y}
    textAnchor={more.end ? 'end' : 'start'}
    className={`${more.bold ? 'font-[640]' : 'narrow'} ${more.red ? 'fill-red' : 'fill-ink'} text-[12px]`}
  >
    {words}
  </text>
);

/** A name, and what it is behind it. */
const named = (x: number, y: number, name: string, what: string) => (
  <text x={x} y={y} className="fill-ink text-[12px]">
    <tspan className="font-[640]">{name}</tspan>
    <tspan dx="8" className="narrow">
      {what}
    </tspan>
  </text>
);

/** A side: its place, its array, what it does, and since when it does not. */
function SideBox({ side, x, progress }: { side: StretchSide; x: number; progress: string | null }) {
  const down = side.state === 'DOWN';
  const serves = answersHosts(side.state);
  const since = side.silentSince === null ? '' : `since ${momentText(side.silentSince)}`;
  return (
    <g>
      {named(x, TOP - 10, side.place, side.preferred ? 'preferred' : '')}
      <rect
        x={x + 0.75}
        y={TOP + 0.75}
        width={BOX}
        height={BOTTOM - TOP}
        className={`fill-raised ${serves ? 'stroke-ink' : 'stroke-red'}`}
        strokeWidth="1.5"
        strokeDasharray={down ? '5 4' : undefined}
      />
      {named(x + 10, TOP + 20, side.array, [...new Set(side.volumes.map(({ pool }) => pool))].join(', '))}
      <text x={x + 10} y={TOP + 42} className={`text-[16px] font-[700] ${serves ? 'fill-ink' : 'fill-red'}`}>
        {side.says[0]!.toUpperCase()}
        {side.says.slice(1)}
      </text>
      {text(
        x + 10,
        TOP + 59,
        progress ??
          (serves ? `epoch ${side.epoch}, asks ${side.asks === 'witness' ? 'the witness' : 'nobody'}` : since),
      )}
      {text(
        x + 10,
        TOP + 75,
        side.volumes.length === 1 ? side.volumes[0]!.name : counted(side.volumes.length, 'volume'),
      )}
    </g>
  );
}

/** The line between both sides, thick where writes go over it. */
function Line({ view }: { view: StretchView }) {
  const { line, spare } = view;
  const [from, to] = [LEFT + BOX, RIGHT];
  const mirrored = view.sides.A.state === 'BOTH' && view.sides.B.state === 'BOTH';
  return (
    <g>
      {text(from + 12, TOP + 20, line.name, { bold: true })}
      {text(to - 12, TOP + 20, `${line.speed}, ${line.rtt} ms${line.km ? `, ${line.km} km` : ''}`, { end: true })}
      <path
        d={`M${from} ${TOP + 31}H${to}`}
        className={line.up ? 'stroke-ink' : 'stroke-red'}
        strokeWidth={line.up ? (mirrored ? 7 : 3) : 1.5}
        strokeDasharray={line.up ? undefined : '5 4'}
      />
      {(!line.up || line.ails) && text(from + 12, TOP + 48, line.up ? line.ails : 'is down', { red: true })}
      {spare.slice(0, 1).map((one) => (
        <g key={one.name}>
          {text(from + 12, TOP + 66, one.name)}
          {text(to - 12, TOP + 66, `${one.speed}, ${one.rtt} ms, second way`, { end: true })}
          <path d={`M${from} ${TOP + 73}H${to}`} className="stroke-field" strokeWidth="1.5" />
        </g>
      ))}
    </g>
  );
}

function WitnessBox({ view }: { view: StretchView }) {
  const { witness, sides } = view;
  const x = WIDTH / 2 - 92;
  const wire = (side: StretchSide, at: number, edge: number) => (
    <g>
      <path
        d={`M${edge} 32H${at}V${TOP}`}
        fill="none"
        className={side.line?.up ? 'stroke-ink2' : 'stroke-red'}
        strokeDasharray={side.line?.up ? undefined : '4 4'}
      />
      {text(
        at < edge ? at + 6 : at - 6,
        27,
        side.line ? `${side.line.speed}, ${side.line.rtt} ms${side.line.up ? '' : ', down'}` : 'no line',
        { end: at > edge, red: !side.line?.up },
      )}
    </g>
  );
  return (
    <g>
      {wire(sides.A, LEFT + BOX - 60, x)}
      {wire(sides.B, RIGHT + BOX - 60, x + 184)}
      <rect
        x={x + 0.5}
        y="6.5"
        width="184"
        height="50"
        className={`fill-raised ${witness.up ? 'stroke-ink2' : 'stroke-red'}`}
        strokeDasharray="6 4"
      />
      {named(x + 10, 24, witness.name, `witness, ${witness.place}`)}
      {text(x + 10, 46, witness.up ? `register: epoch ${witness.epoch}, ${witness.owner}` : 'is down', {
        red: !witness.up,
      })}
    </g>
  );
}

const stroke = (way: StretchHost['ways']['A']): string => (way.usable > 0 ? 'stroke-ink' : 'stroke-red');

/** Hosts below, with a wire to each leg they see: filled ends are optimized, empty ones not, a bar is unavailable. */
function Hosts({ view }: { view: StretchView }) {
  const shown = view.hosts.slice(0, 6);
  const near = (side: StretchSide) => shown.filter((host) => host.near === side.place);
  const others = shown.filter((host) => host.near !== view.sides.A.place && host.near !== view.sides.B.place);
  const placed = new Map<string, number>();
  near(view.sides.A).forEach((host, k) => placed.set(host.id, LEFT + 46 + k * 104));
  near(view.sides.B).forEach((host, k, all) => placed.set(host.id, RIGHT + BOX - 46 - (all.length - 1 - k) * 104));
  others.forEach((host, k) => placed.set(host.id, WIDTH / 2 + k * 104));
  let lane = 0;
  return (
    <g>
      {shown.map((host, k) => {
        const x = placed.get(host.id)!;
        return (
          <g key={host.id}>
            {(['A', 'B'] as const).map((site) => {
              const way = host.ways[site];
              if (!way.mapped) return null;
              const side = view.sides[site];
              const left = site === 'A' ? LEFT : RIGHT;
              const isNear = host.near === side.place;
              const end = isNear ? x : site === 'A' ? left + BOX - 12 - k * 12 : left + 12 + k * 12;
              const start = isNear ? x - 8 : x + 8;
              const level = isNear ? 0 : BOTTOM + 16 + lane++ * 9;
              return (
                <g key={site}>
                  <path
                    d={isNear ? `M${end} ${BOTTOM}V${HOSTS}` : `M${end} ${BOTTOM}V${level}H${start}V${HOSTS}`}
                    fill="none"
                    className={stroke(way)}
                    strokeWidth={way.optimized > 0 ? 1.5 : 1}
                    strokeDasharray={way.usable > 0 ? undefined : '4 4'}
                  />
                  {way.usable === 0 ? (
                    <path d={`M${end - 5} ${BOTTOM + 7}h10`} className="stroke-red" strokeWidth="1.5" />
                  ) : (
                    <rect
                      x={end - 3}
                      y={BOTTOM + 1}
                      width="6"
                      height="7"
                      className={`stroke-ink ${way.optimized > 0 ? 'fill-ink' : 'fill-paper'}`}
                    />
                  )}
                </g>
              );
            })}
            <rect x={x - 42} y={HOSTS} width="84" height="24" className="fill-raised stroke-ink2" />
            <text x={x} y={HOSTS + 16} textAnchor="middle" className="fill-ink text-[12px] font-[600]">
              {host.name}
            </text>
          </g>
        );
      })}
      {view.hosts.length > shown.length &&
        text(WIDTH / 2 - 40, HOSTS + 16, `and ${view.hosts.length - shown.length} more hosts`)}
    </g>
  );
}

/** Two sites, the line between them, the witness and the hosts. */
export function PairDrawing({ view, progress }: { view: StretchView; progress: string | null }) {
  const refreshed = (side: StretchSide) => (side.state === 'STALE' ? progress : null);
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HOSTS + 30}`}
      className="w-full max-w-[860px]"
      role="img"
      aria-label={`${view.sides.A.place} ${view.sides.A.says}, ${view.sides.B.place} ${view.sides.B.says}, ${view.witness.name} is ${view.witness.up ? 'up' : 'down'}`}
    >
      <WitnessBox view={view} />
      <Line view={view} />
      <SideBox side={view.sides.A} x={LEFT} progress={refreshed(view.sides.A)} />
      <SideBox side={view.sides.B} x={RIGHT} progress={refreshed(view.sides.B)} />
      <Hosts view={view} />
    </svg>
  );
}
