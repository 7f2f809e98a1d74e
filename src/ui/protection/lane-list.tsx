'use client';
import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useMemo, useRef } from 'react';
import { tickKinds, type Lane, type LaneState } from '@/core/protect/lanes';
import type { ReplicationRow } from '@/core/replicate/replication-view';
import type { Post } from '@/core/span/model';
import { formatBytes } from '@/core/units/bytes';
import { momentText } from '@/core/units/date';
import { formatDuration } from '@/core/units/duration';
import { LegendEntry } from '../look/legend-entry';
import { StatePost } from '../look/post';
import { isLate } from './replication-words';
import { AHEAD_TO, axisMarks, DAYS, tickPath, WEEKS, WIDTH, xOfAgo, xOfAhead } from './axis';

/** How a lane's state is drawn. */
export const lanePosts: Record<LaneState, Post> = { good: 'stands', short: 'leans', broken: 'broken', none: 'absent' };
const ROW = 40;
/** Beyond so many lanes only those near sight are drawn. */
const MOST = 40;

/** Beside a sheet only who it is and the days around now are left. */
const grid =
  'grid grid-cols-[minmax(150px,1fr)_minmax(132px,0.8fr)_664px_minmax(118px,0.6fr)] gap-x-3 @max-[1080px]:grid-cols-[minmax(130px,0.5fr)_minmax(0,1fr)]';
const aside = '@max-[1080px]:hidden';
/** The end of the axis is what is left of it where there is no room. */
const axis = 'flex min-w-0 justify-end overflow-hidden';

interface Props {
  lanes: readonly Lane[];
  now: number;
  chosen: string | null;
  /** What stands at other sites, by workload or volume. */
  elsewhere: ReadonlyMap<string, ReplicationRow>;
  onChoose: (lane: Lane) => void;
}

/** Every workload as a lane on one axis of time, the worst first; walked with the arrows, chosen with Enter. */
export function LaneList({ lanes, now, chosen, elsewhere, onChoose }: Props) {
  const pane = useRef<HTMLDivElement>(null);
  const sparing = lanes.length > MOST;
  // eslint-disable-next-line react-hooks/incompatible-library -- lanes are drawn by the virtualizer on purpose
  const virtual = useVirtualizer({
    count: lanes.length,
    getScrollElement: () => pane.current,
    estimateSize: () => ROW,
    overscan: 10,
    getItemKey: (k) => lanes[k]!.id,
    initialRect: { width: 1280, height: 400 },
  });
  const at = Math.max(
    0,
    lanes.findIndex((lane) => lane.id === chosen),
  );
  const onKeyDown = (event: React.KeyboardEvent) => {
    const to: Record<string, number> = {
      ArrowDown: at + 1,
      ArrowUp: at - 1,
      Home: 0,
      End: lanes.length - 1,
      PageDown: Math.min(lanes.length - 1, at + 8),
      PageUp: Math.max(0, at - 8),
    };
    const next = lanes[to[event.key] ?? -1];
    if (!(event.key in to)) return;
    event.preventDefault();
    if (!next) return;
    onChoose(next);
    if (sparing) virtual.scrollToIndex(to[event.key]!);
  };
  const drawn = sparing ? virtual.getVirtualItems().map(({ index, start }) => ({ index, start })) : null;
  return (
    <section aria-label="Lanes" className="@container flex min-h-0 flex-col">
      <Head now={now} />
      <div
        ref={pane}
        role="listbox"
        aria-label="Workloads by how they are protected"
        aria-activedescendant={lanes[at] ? `lane-${lanes[at].id}` : undefined}
        tabIndex={0}
        className="scroller relative min-h-0 flex-1"
        onKeyDown={onKeyDown}
      >
        {drawn ? (
          <div role="presentation" style={{ height: virtual.getTotalSize() }} className="relative">
            {drawn.map(({ index, start }) => (
              <div key={lanes[index]!.id} role="presentation" className="absolute inset-x-0" style={{ top: start }}>
                <LaneRow
                  lane={lanes[index]!}
                  now={now}
                  chosen={lanes[index]!.id === chosen}
                  there={elsewhere.get(lanes[index]!.id)}
                  onChoose={onChoose}
                />
              </div>
            ))}
          </div>
        ) : (
          lanes.map((lane) => (
            <LaneRow
              key={lane.id}
              lane={lane}
              now={now}
              chosen={lane.id === chosen}
              there={elsewhere.get(lane.id)}
              onChoose={onChoose}
            />
          ))
        )}
      </div>
    </section>
  );
}

function Head({ now }: { now: number }) {
  const marks = useMemo(() => axisMarks(now), [now]);
  return (
    <div className={`${grid} flex-none items-end border-b border-ink px-3 pt-1.5 pb-0.5`}>
      <span className="caps">Who, by which plan</span>
      <span className={`caps ${aside}`}>Can go back to</span>
      <span className={axis}>
        <svg width={WIDTH} height="30" aria-hidden="true" className="text-ink2">
          <Dimension from={WEEKS.from} to={WEEKS.to} text="26 days" />
          <Dimension from={DAYS.from} to={DAYS.to} text="2 days back" />
          <Dimension from={DAYS.to} to={AHEAD_TO} text="24 h to come" />
          {marks.map(({ x, text, strong }) => (
            <text
              key={`${x} ${text}`}
              x={Math.max(x, 0)}
              y="28"
              textAnchor={x < 10 ? 'start' : 'middle'}
              fill="currentColor"
              fontSize="11.5"
              fontWeight={strong ? 680 : 400}
            >
              {text}
            </text>
          ))}
          <text x={DAYS.to} y="28" textAnchor="middle" fill="var(--ink)" fontSize="11.5" fontWeight="700">
            {momentText(now).slice(-5)}
          </text>
        </svg>
      </span>
      <span className={`caps ${aside}`}>Behind, of what is promised</span>
    </div>
  );
}

function Dimension({ from, to, text }: { from: number; to: number; text: string }) {
  const half = text.length * 3.1 + 5;
  const middle = (from + to) / 2;
  return (
    <g stroke="currentColor" fill="none">
      <path d={`M${from + 4} 8H${middle - half}M${middle + half} 8H${to - 4}M${from + 1} 12l7 -8M${to - 8} 12l7 -8`} />
      <text x={middle} y="12" textAnchor="middle" fill="currentColor" stroke="none" fontSize="11.5">
        {text}
      </text>
    </g>
  );
}

const LaneRow = memo(function LaneRow({
  lane,
  now,
  chosen,
  there,
  onChoose,
}: {
  lane: Lane;
  now: number;
  chosen: boolean;
  there: ReplicationRow | undefined;
  onChoose: (lane: Lane) => void;
}) {
  const behind = lane.newest === null ? null : now - lane.newest;
  const over = behind !== null && lane.rpo !== null && behind > lane.rpo + 60_000;
  return (
    <div
      id={`lane-${lane.id}`}
      role="option"
      aria-selected={chosen}
      aria-label={`${lane.name}, ${lane.plan ?? 'no plan'}, ${lane.newest === null ? 'nothing copied' : `newest copy ${momentText(lane.newest)}`}${lane.short ? `, ${lane.short}` : ''}`}
      className={`${grid} h-[40px] cursor-pointer items-center border-b border-rule-faint px-3 ${chosen ? 'bg-wash' : ''}`}
      onClick={() => onChoose(lane)}
    >
      <span className="flex min-w-0 items-center gap-2">
        <StatePost post={lanePosts[lane.state]} />
        <span className="min-w-0">
          <span className={`name block truncate leading-[17px] ${chosen ? 'font-[760]!' : ''}`}>{lane.name}</span>
          <span className="narrow block truncate leading-[15px] text-ink2">
            {lane.plan ?? 'no plan'}, {lane.volumes === 1 ? '1 volume' : `${lane.volumes} volumes`}
          </span>
        </span>
      </span>
      <span className={`min-w-0 ${aside}`}>
        <span className="num block truncate leading-[17px] font-[640]">
          {lane.newest === null ? 'nothing' : momentText(lane.newest)}
        </span>
        <span
          className={`narrow block truncate leading-[15px] ${lane.short ? 'text-red' : 'text-ink2'}`}
          title={lane.short ?? ''}
        >
          {lane.short ?? `${lane.points} copies, ${formatBytes(lane.held, 'used')}`}
        </span>
      </span>
      <span className={axis}>
        <Ticks lane={lane} />
      </span>
      <span className={aside}>
        <Behind behind={behind} rpo={lane.rpo} over={over} />
        {there && (
          <span className={`narrow block truncate leading-[13px] ${isLate(there) ? 'text-red' : 'text-ink2'}`}>
            {there.target}:{' '}
            {there.pit === null ? 'nothing whole' : there.lag === 0 ? 'every write' : formatDuration(now - there.pit)}
          </span>
        )}
      </span>
    </div>
  );
});

/** A copy is a stroke up from the line; a quiesced one carries a foot, a locked one a block. */
const Ticks = memo(function Ticks({ lane }: { lane: Lane }) {
  const [crash, application, crashLocked, locked] = lane.ticks as [number[], number[], number[], number[]];
  const line = 25;
  const all = [...crash, ...application, ...crashLocked, ...locked];
  const blocks = [...crashLocked, ...locked].map(xOfAgo);
  const count = tickKinds.length;
  return (
    <svg width={WIDTH} height="39" className="gfx text-ink" aria-hidden="true" data-kinds={count}>
      <path
        d={`M0 ${line}H${WEEKS.to}M${DAYS.from} ${line}H${DAYS.to}`}
        stroke="currentColor"
        strokeDasharray={all.length === 0 ? '2 3' : undefined}
      />
      <path d={`M${DAYS.to} ${line}H${AHEAD_TO}`} stroke="var(--field)" strokeDasharray="2 3" />
      <path d={tickPath(crash.concat(crashLocked).map(xOfAgo), line - 9, line)} stroke="currentColor" />
      <path d={tickPath(application.concat(locked).map(xOfAgo), line - 13, line + 3)} stroke="currentColor" />
      {blocks.map((x) => (
        <rect key={x} x={Math.round(x) - 2.5} y={line + 3} width="5" height="5" fill="currentColor" />
      ))}
      <path d={tickPath(lane.due.map(xOfAhead), line - 9, line)} stroke="var(--field)" />
      <path d={`M${DAYS.to} 0V39`} stroke="var(--ink)" strokeWidth="1.5" />
    </svg>
  );
});

function Behind({ behind, rpo, over }: { behind: number | null; rpo: number | null; over: boolean }) {
  if (behind === null) return <span className="narrow text-ink2">nothing is copied</span>;
  if (rpo === null) return <span className="narrow text-ink2">{formatDuration(behind)}, nothing promised</span>;
  const width = 70;
  const share = Math.min(1.3, behind / rpo);
  return (
    <span className={over ? 'text-red' : ''}>
      <svg width="100" height="9" className="gfx block" aria-hidden="true">
        <path d={`M.5 .5H${width}V8H.5Z`} fill="none" stroke="currentColor" />
        <rect x="0" y="2.5" width={share * width} height="3.5" fill="currentColor" />
        {over && <path d={`M${width} 0V9`} stroke="currentColor" strokeWidth="2" />}
      </svg>
      <span className="narrow num block leading-[14px]">
        {formatDuration(behind)} of {formatDuration(rpo)}
      </span>
    </span>
  );
}

/** How strokes are to be read. */
export function Legend() {
  const entry = (shape: React.ReactNode, text: string) => (
    <LegendEntry width={14} height={18} text={text}>
      {shape}
    </LegendEntry>
  );
  return (
    <p className="narrow flex flex-none gap-5 border-t border-rule px-3 py-1 text-ink2">
      {entry(<path d="M0 13h14M7 4v9" stroke="currentColor" />, 'crash-consistent')}
      {entry(<path d="M0 12h14M7 0v15" stroke="currentColor" />, 'applications paused')}
      {entry(
        <>
          <path d="M0 10h14M7 0v12" stroke="currentColor" />
          <rect x="4.5" y="12" width="5" height="5" fill="currentColor" />
        </>,
        'locked',
      )}
      {entry(<path d="M0 13h14" stroke="currentColor" strokeDasharray="2 3" />, 'nothing copied')}
      {entry(<path d="M2 13V4M7 13V4M12 13V4" stroke="var(--field)" />, 'due')}
    </p>
  );
}
