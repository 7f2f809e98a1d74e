'use client';
import { useQuery } from '@tanstack/react-query';
import { useEffect } from 'react';
import type { MovesAnswer, WavePlanRow } from '@/core/moving/answers';
import { formatBytes } from '@/core/units/bytes';
import { counted } from '@/core/units/counted';
import { momentText } from '@/core/units/date';
import { api } from '../api/client';
import { LegendEntry } from '../look/legend-entry';
import { useWidth } from '../load/use-width';
import { VerbChoice } from '../look/verb-choice';
import { isTyping } from '../shell/keys';
import { useParam, usePlace } from '../shell/place';
import { axisOf, marksOf, shut, type Axis } from './axis';
import { MovePanel } from './move-panel';
import { rowGrid } from './move-row';
import { OutsideLuns } from './outside-luns';
import { PlanSection } from './plan-section';

const parts = ['waves', 'outside'] as const;
const partWords: Record<(typeof parts)[number], string> = { waves: 'Waves', outside: 'Outside LUNs' };

/** Volumes on their way to other pools and arrays: their waves on one axis of time, what bounds them, and what a person is asked. */
export function MovesView() {
  const { open, sheet } = usePlace();
  const [of, setOf] = useParam('of');
  const [asked, setPart] = useParam('part', 'waves');
  const part = parts.find((one) => one === asked) ?? 'waves';
  const moves = useQuery({ queryKey: ['moves'], queryFn: api.moves });
  const data = moves.data;
  const rows = (data?.plans ?? []).flatMap(({ groups }) => groups.flatMap((group) => group.moves));
  const chosen = rows.find(({ id }) => id === of) ?? rows.find(({ state }) => state === 'waiting') ?? rows[0];
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== 'y' || event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target)) return;
      document.getElementById('move-question')?.focus();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  return (
    <main className="flex min-h-0 min-w-0 flex-col overflow-hidden bg-paper">
      <div className="flex flex-none items-center gap-4 border-b border-rule px-3 py-1 whitespace-nowrap">
        <h1 className="font-[640]">Moves</h1>
        <VerbChoice
          label="Parts"
          choices={parts.map((one) => [one, partWords[one]] as const)}
          value={part}
          onChange={setPart}
        />
        <span className="num min-w-0 flex-1 overflow-hidden text-ellipsis text-ink2">
          {data && part === 'waves' && <Summary plans={data.plans} />}
        </span>
        {part === 'waves' ? (
          <>
            <button type="button" className="verb" onClick={() => open('wave-plan.create')}>
              Plan waves
            </button>
            <button type="button" className="verb" onClick={() => open('storage.move')}>
              Move volumes
            </button>
          </>
        ) : (
          <>
            <button type="button" className="verb" onClick={() => open('outside.rescan')}>
              Look for LUNs
            </button>
            <button type="button" className="verb" onClick={() => open('storage.bring-in')}>
              Bring in
            </button>
          </>
        )}
      </div>
      {part === 'outside' && <OutsideLuns />}
      {part === 'waves' && moves.error && (
        <p className="refusal m-3">
          Moves were asked for. {moves.error.message}{' '}
          <button type="button" className="verb" onClick={() => void moves.refetch()}>
            Ask again
          </button>
        </p>
      )}
      {part === 'waves' && !data && !moves.error && <p className="p-3 text-ink2">Reading moves…</p>}
      {part === 'waves' && data && (
        <div className="@container min-h-0 flex-1">
          <div
            className={`grid h-full min-h-0 ${sheet || !chosen ? '' : 'grid-cols-[minmax(0,1fr)_352px] @max-[860px]:auto-rows-max @max-[860px]:grid-cols-1 @max-[860px]:overflow-auto'}`}
          >
            <Waves data={data} chosen={chosen?.id ?? null} onChoose={setOf} />
            {/* A sheet takes its place: one thing is looked at in a time. */}
            {!sheet && chosen && <MovePanel key={chosen.id} id={chosen.id} onClose={() => setOf('')} />}
          </div>
        </div>
      )}
    </main>
  );
}

function Summary({ plans }: { plans: readonly WavePlanRow[] }) {
  const moves = plans.flatMap(({ groups }) => groups.flatMap((group) => group.moves));
  const waiting = moves.filter(({ state }) => state === 'waiting').length;
  const slow = moves.filter(({ asks }) => asks !== '').length;
  const last = plans.filter(({ endsAt }) => endsAt !== null).sort((a, b) => b.endsAt! - a.endsAt!)[0];
  if (moves.length === 0) return <>Nothing moves.</>;
  return (
    <>
      {counted(moves.length, 'move')},{' '}
      {formatBytes(
        moves.reduce((sum, { bytes }) => sum + bytes, 0),
        'used',
      )}
      .{' '}
      {waiting > 0 && (
        <b className="font-[640] text-ink">{waiting === 1 ? '1 waits' : `${waiting} wait`} for a person. </b>
      )}
      {slow > 0 && <b className="font-[640] text-red">✕ {slow} not converging. </b>}
      {last && (
        <>
          All whole <b className="font-[640] text-ink">{momentText(last.endsAt!)}</b>; no plan could end before{' '}
          {momentText(last.boundAt!)}
          {last.ratio !== null && (
            <>
              : <b className="font-[640] text-ink">{last.ratio.toFixed(2)}</b> of it
            </>
          )}
          .
        </>
      )}
    </>
  );
}

function Waves({
  data,
  chosen,
  onChoose,
}: {
  data: MovesAnswer;
  chosen: string | null;
  onChoose: (id: string) => void;
}) {
  const [ref, width] = useWidth(500);
  const axis = axisOf(data, width);
  const rows = data.plans.flatMap(({ groups }) => groups.flatMap((group) => group.moves));
  const at = rows.findIndex(({ id }) => id === chosen);
  const onKeyDown = (event: React.KeyboardEvent) => {
    const to: Record<string, number> = { ArrowDown: at + 1, ArrowUp: at - 1, Home: 0, End: rows.length - 1 };
    if (!(event.key in to)) return;
    event.preventDefault();
    const next = rows[to[event.key]!];
    if (!next) return;
    onChoose(next.id);
    const line = document.getElementById(`move-${next.id}`);
    line?.scrollIntoView({ block: 'nearest' });
    // Each wave is a list of its own: the keyboard goes with the move that is looked at.
    line?.closest<HTMLElement>('[role=listbox]')?.focus({ preventScroll: true });
  };
  return (
    <section aria-label="Waves" className="flex min-h-0 min-w-0 flex-col">
      <div className={`${rowGrid} flex-none items-end border-b border-ink px-3 pt-1 pb-0.5`}>
        <span className="caps">Volume</span>
        <span className="caps text-right">Holds</span>
        <span className="caps">Goes to</span>
        <span ref={ref} className="block min-w-0 overflow-hidden">
          <Head axis={axis} now={data.now} plan={data.plans.find(({ windows }) => windows.length > 0)} />
        </span>
      </div>
      <div className="scroller relative min-h-0 flex-1">
        <div className="relative min-h-full">
          <div className={`${rowGrid} pointer-events-none absolute inset-0 px-3`} aria-hidden="true">
            <span className="col-start-4 min-w-0 overflow-hidden">
              <svg width={axis.width} height="100%" className="gfx block h-full">
                <path d={`M${axis.x(data.now)} 0V10000`} stroke="var(--ink)" strokeWidth="1.5" />
              </svg>
            </span>
          </div>
          <div role="presentation" className="relative" onKeyDown={onKeyDown}>
            {data.plans.map((plan) => (
              <div key={plan.id ?? ''} role="presentation" className="relative">
                <Shut axis={axis} windows={plan.windows} />
                <PlanSection plan={plan} axis={axis} now={data.now} chosen={chosen} onChoose={onChoose} />
              </div>
            ))}
          </div>
          {rows.length === 0 && (
            <p className="p-3 text-ink2">
              Nothing moves. Choose volumes, or all of a pool, a host or a workload, and where they are to lie; hosts
              work on meanwhile. A wave plan keeps many of them within hours of the night.
            </p>
          )}
          <Over over={data.over} />
        </div>
      </div>
      <Legend />
    </section>
  );
}

/** Hours in which no window is open are hatched behind the bars. */
function Shut({ axis, windows }: { axis: Axis; windows: WavePlanRow['windows'] }) {
  const closed = shut(axis, windows);
  if (closed.length === 0) return null;
  return (
    <div className={`${rowGrid} pointer-events-none absolute inset-0 px-3`} aria-hidden="true">
      <span className="col-start-4 min-w-0 overflow-hidden">
        <svg width={axis.width} height="100%" className="gfx block h-full">
          <defs>
            <pattern id="no-window" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
              <path d="M0 0V7" stroke="var(--rule-faint)" strokeWidth="1.6" />
            </pattern>
          </defs>
          {closed.map(([from, to]) => (
            <g key={from}>
              <rect x={axis.x(from)} y="0" width={axis.x(to) - axis.x(from)} height="100%" fill="url(#no-window)" />
              <path d={`M${axis.x(from)} 0V10000M${axis.x(to)} 0V10000`} stroke="var(--rule)" />
            </g>
          ))}
        </svg>
      </span>
    </div>
  );
}

function Head({ axis, now, plan }: { axis: Axis; now: number; plan: WavePlanRow | undefined }) {
  return (
    <svg width={axis.width} height="30" aria-hidden="true" className="gfx block text-ink2">
      {plan?.windows.map(([from, to]) => {
        const [a, b] = [axis.x(from), axis.x(to)];
        if (b - a < 40) return null;
        const half = b - a > 84 ? 26 : 0;
        const middle = (a + b) / 2;
        return (
          <g key={from} stroke="currentColor" fill="none">
            <path
              d={`M${a + 2} 8H${half ? middle - half : b - 2}${half ? `M${middle + half} 8H${b - 2}` : ''}M${a} 12l5 -8M${b - 5} 12l5 -8`}
            />
            {half > 0 && (
              <text x={middle} y="12" textAnchor="middle" fill="currentColor" stroke="none" fontSize="11.5">
                window
              </text>
            )}
          </g>
        );
      })}
      {marksOf(axis, now).map(({ x, text, strong }) => (
        <text
          key={text + x}
          x={x}
          y="28"
          textAnchor="middle"
          fontSize="11.5"
          fontWeight={strong ? 680 : 400}
          fill="currentColor"
        >
          {text}
        </text>
      ))}
      <text x={axis.x(now)} y="28" textAnchor="middle" fontSize="11.5" fontWeight="700" fill="var(--ink)">
        {momentText(now).slice(-5)}
      </text>
    </svg>
  );
}

function Over({ over }: { over: MovesAnswer['over'] }) {
  if (over.length === 0) return null;
  return (
    <section aria-label="Over" className="px-3 pt-2 pb-3">
      <h3 className="border-b border-rule pb-0.5 font-[640]">Over</h3>
      <table className="table w-full" aria-label="Moves that are over">
        <tbody className="num">
          {over.map((row) => (
            <tr key={`${row.name} ${row.since}`}>
              <td className="name">{row.name}</td>
              <td className="text-right">{formatBytes(row.bytes, 'used')}</td>
              <td>
                {row.from} to {row.to}
              </td>
              <td>{row.state === 'done' ? 'done' : 'aborted'}</td>
              <td className="text-ink2">{momentText(row.since)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** How bars are to be read. */
function Legend() {
  const entry = (shape: React.ReactNode, text: string) => (
    <LegendEntry width={24} height={14} text={text}>
      {shape}
    </LegendEntry>
  );
  return (
    <p className="narrow flex flex-none flex-wrap gap-x-5 border-t border-rule px-3 py-1 text-ink2">
      {entry(
        <>
          <rect x="0" y="2" width="12" height="10" fill="currentColor" />
          <rect x="12.5" y="2.5" width="11" height="9" fill="none" stroke="currentColor" />
        </>,
        'copied, to copy',
      )}
      {entry(<path d="M0 7h24" stroke="currentColor" strokeWidth="5" strokeDasharray="1.5 2.5" />, 'keeps in step')}
      {entry(
        <rect x="7" y="2" width="10" height="10" fill="none" stroke="currentColor" strokeWidth="1.4" />,
        'a person confirms',
      )}
      {entry(<path d="M0 7h22m-5 -3.5l5 3.5l-5 3.5" fill="none" stroke="currentColor" />, 'way back kept')}
      {entry(<path d="M2 12 9 2M9 12 16 2M16 12 23 2" stroke="var(--field)" />, 'no window')}
    </p>
  );
}
