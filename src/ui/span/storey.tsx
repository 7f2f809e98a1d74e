'use client';
import Link from 'next/link';
import { useEffect, useRef, useState } from 'react';
import { workWords } from '@/core/kinds/work-words';
import type { Selection } from '@/core/span/chain';
import type { SpanArray, SpanGroup, SpanHead, SpanPool, SpanPort, SpanVolume } from '@/core/span/model';
import { formatBytes, percentUsed, TIB } from '@/core/units/bytes';
import { Beam, VolumeBar } from '../look/beam';
import { Datum, Tag } from '../look/marks';
import { StatePost } from '../look/post';
import { RaidStrip } from '../look/raid-strip';
import { useClock } from '../shell/clock-context';
import { usePlace } from '../shell/place';
import { gridColumn } from './layout';
import { Listbox } from './listbox';
import { Shelf } from './shelf';
import type { Marker } from './use-marker';
import { percentText, rateText, waitText } from '../load/words';
import { useByLoad, useLoadFigure, type LoadFigure } from './by-load';

interface StoreyProps {
  head: SpanHead;
  /** What stands on it, once that is known. */
  array: SpanArray | null;
  /** Told when it comes near sight, and when it goes. */
  onSight: (array: string, near: boolean) => void;
  row: number;
  visible: readonly number[];
  marker: Marker;
  onSelect: (selection: Selection | null) => void;
  onlyMarked: boolean;
  volumesHeight: number;
  /** Whether more than its level line is drawn yet. */
  drawn: boolean;
  /** Whether it is left out while it is far from sight: where there are many. */
  sparing: boolean;
}

/** What a storey is taken to be high before it was ever drawn. */
const USUAL_HEIGHT = 620;

const pick = (onSelect: StoreyProps['onSelect']) => (item: Selection | null) =>
  onSelect(item && { kind: item.kind, id: item.id });

/** One array as a storey of the drawing: its level line, and on it drives, groups, pools, volumes and ports. */
export function Storey({
  head,
  array,
  onSight,
  row,
  visible,
  marker,
  onSelect,
  onlyMarked,
  volumesHeight,
  drawn,
  sparing,
}: StoreyProps) {
  const [folded, setFolded] = useState(false);
  const room = useRef<HTMLDivElement>(null);
  const carries = marker.chain?.array.includes(head.id) ?? false;
  const { near, height } = useNear(room, sparing);
  const shown = drawn && (near || carries);
  const open = shown && !folded;
  useEffect(() => {
    onSight(head.id, open);
    return () => onSight(head.id, false);
  }, [onSight, head.id, open]);
  const last = Math.max(...visible.filter((n) => n <= 5).map((n) => gridColumn(visible, n)), 1);
  const down = head.controllers.filter((controller) => !controller.up);
  return (
    <>
      {sparing && (
        // Holds the place of a storey that is too far away to be drawn.
        <div
          ref={room}
          aria-hidden="true"
          style={{
            gridColumn: `1 / ${last + 1}`,
            gridRow: row + 1,
            minHeight: (shown && array) || folded ? undefined : height,
          }}
        />
      )}
      <div
        className="flex items-end gap-2 border-b border-ink pt-1 pb-0.5 whitespace-nowrap"
        style={{ gridColumn: `1 / ${last + 1}`, gridRow: row }}
      >
        <button
          type="button"
          aria-expanded={!folded}
          aria-label={`${folded ? 'Unfold' : 'Fold'} ${head.name}`}
          onClick={() => setFolded(!folded)}
          className="grid size-6 cursor-pointer place-items-center self-center"
        >
          <span className={folded ? '-rotate-90' : ''}>
            <Datum />
          </span>
        </button>
        <button
          type="button"
          data-node={head.id}
          data-on={marker.on.has(head.id) || undefined}
          aria-pressed={marker.selected === head.id}
          data-selected={marker.selected === head.id || undefined}
          className="span-item name flex-none! cursor-pointer font-bold! [font-stretch:84%]"
          onClick={() => onSelect(marker.selected === head.id ? null : { kind: 'array', id: head.id })}
        >
          {head.name}
        </button>
        {head.post !== 'stands' && <StatePost post={head.post} />}
        <span className="narrow min-w-0 flex-1 overflow-hidden text-ellipsis text-ink2">
          {head.model} at {head.site},{' '}
          {down.length > 0 ? (
            <span className="fell-short">controller {down.map((controller) => controller.name).join(', ')} down</span>
          ) : (
            `${head.controllers.length} controllers`
          )}
          {head.outside ? '; outside array: only what it shows is known' : `, ${head.drives} drives`}
        </span>
      </div>
      {open && !array && (
        <p className="narrow py-1 text-ink2" role="status" style={{ gridColumn: `1 / ${last + 1}`, gridRow: row + 1 }}>
          Reading what stands on {head.name} …
        </p>
      )}
      {open && array && (
        <Columns
          array={array}
          row={row}
          visible={visible}
          marker={marker}
          onSelect={onSelect}
          onlyMarked={onlyMarked}
          volumesHeight={volumesHeight}
        />
      )}
    </>
  );
}

/** What stands on an array, column by column. */
function Columns({
  array,
  row,
  visible,
  marker,
  onSelect,
  onlyMarked,
  volumesHeight,
}: Pick<StoreyProps, 'row' | 'visible' | 'marker' | 'onSelect' | 'onlyMarked' | 'volumesHeight'> & {
  array: SpanArray;
}) {
  const keep = <T extends { id: string }>(rows: readonly T[]) =>
    onlyMarked ? rows.filter((one) => marker.on.has(one.id)) : rows;
  const at = (n: number) => ({ gridColumn: gridColumn(visible, n), gridRow: row + 1 });
  const has = (n: number) => visible.includes(n);
  const groups = keep(array.groups).map((group) => ({ ...group, kind: 'raidGroup' as const }));
  const pools = keep(array.pools).map((pool) => ({ ...pool, kind: 'pool' as const }));
  // Where the ports beside them are more, there is room for as many volumes.
  const tallest = Math.max(volumesHeight, array.ports.length * 26);
  const volumes = keep(array.volumes).map((volume) => ({ ...volume, kind: 'volume' as const }));
  const shared = { marker, onSelect: pick(onSelect) };
  return (
    <>
      {has(1) && (
        <div style={at(1)} className="min-w-0 py-0.5">
          {array.enclosures.map((enclosure) => (
            <Shelf key={enclosure.id} arrayName={array.name} enclosure={enclosure} {...shared} />
          ))}
        </div>
      )}
      {has(2) && (
        <div style={at(2)} className="min-w-0 py-0.5">
          <Listbox
            label={`RAID groups of ${array.name}`}
            column={2}
            items={groups}
            rowHeight={45}
            describe={(group) => `${group.name}, ${group.label}, ${formatBytes(group.usable)}, ${group.post}`}
            render={(group) => <GroupRow group={group} />}
            {...shared}
          />
          {array.outside && (
            <p className="narrow py-1 text-ink2">
              Nobody looks inside.{' '}
              <Link className="verb" href="/moves?part=outside">
                Its LUNs
              </Link>
            </p>
          )}
          {array.groups.length === 0 && !array.outside && (
            <Empty text="Bare drives." verb="Carve a RAID group" sheet="raid-group.create" array={array.name} />
          )}
        </div>
      )}
      {has(3) && (
        <div style={at(3)} className="min-w-0 py-0.5">
          <Listbox
            label={`Pools of ${array.name}`}
            column={3}
            items={pools}
            rowHeight={61}
            describe={(pool) => `${pool.name}, ${percentUsed(pool.used, pool.size)} % filled, ${pool.post}`}
            render={(pool) => <PoolRow pool={pool} />}
            {...shared}
          />
          {array.pools.length === 0 && array.groups.length > 0 && (
            <Empty text="No pool yet." verb="Make one" sheet="pool.create" array={array.name} />
          )}
        </div>
      )}
      {has(4) && (
        <div style={at(4)} className="min-w-0 py-0.5">
          <Listbox
            label={`Volumes of ${array.name}`}
            column={4}
            items={volumes}
            rowHeight={26}
            {...(volumes.length * 26 > tallest ? { maxHeight: tallest } : {})}
            describe={(volume) =>
              `${volume.name}, ${formatBytes(volume.size)}, ${volume.post}, ${volume.hosts === 0 ? 'not mapped' : `${volume.paths.usable} of ${volume.paths.expected} paths`}`
            }
            render={(volume) => <VolumeRow volume={volume} />}
            {...shared}
          />
          {array.volumes.length === 0 && array.pools.length > 0 && (
            <Empty text="No volume yet." verb="Carve one" sheet="volume.create" array={array.name} />
          )}
        </div>
      )}
      {has(5) && (
        <div style={at(5)} className="min-w-0 py-0.5">
          <Ports array={array} ports={array.ports} {...shared} />
        </div>
      )}
    </>
  );
}

/** An empty place says what is not there, and the one thing to do about it. */
function Empty({ text, verb, sheet, array }: { text: string; verb: string; sheet: string; array: string }) {
  const { open } = usePlace();
  return (
    <p className="narrow py-1 text-ink2">
      {text}{' '}
      <button type="button" className="verb" onClick={() => open(sheet, { array })}>
        {verb}
      </button>
    </p>
  );
}

/** One decimal, cut off: usable is never shown larger than it is. The unit stands in the column's head. */
const tebibytes = (bytes: number): string => (Math.floor((bytes / TIB) * 10) / 10).toFixed(1);

/** Rounded up: what is used is never shown smaller than it is. */
const tebibytesUsed = (bytes: number): string => (Math.ceil((bytes / TIB) * 10 - 1e-9) / 10).toFixed(1);

function GroupRow({ group }: { group: SpanGroup }) {
  const clock = useClock();
  const share =
    group.job && clock
      ? Math.min(1, Math.max(0, (clock.now - group.job.startedAt) / (group.job.finishesAt - group.job.startedAt)))
      : null;
  return (
    <div className="h-[45px] pt-[4px]">
      <div className="flex h-[17px] items-center gap-[5px] text-[12.5px] whitespace-nowrap">
        <StatePost post={group.post} />
        <span className="name">{group.name}</span>
        <span className="sub overflow-hidden text-ellipsis [font-stretch:80%]">
          {share === null ? group.label : `${Math.floor(share * 100)} % ${workWords[group.job!.kind].share}`}
        </span>
        <span className="flex-1" />
        <span className="num">{tebibytes(group.usable)}</span>
      </div>
      <div className="mt-[4px] overflow-hidden">
        <RaidStrip data={group.data} redundancy={group.redundancy} mirror={group.mirror} />
      </div>
    </div>
  );
}

function PoolRow({ pool }: { pool: SpanPool }) {
  const filled = percentUsed(pool.used, pool.size);
  const promised = percentUsed(pool.promised, pool.size);
  return (
    <div className="h-[61px] pt-[4px]">
      <div className="flex h-[17px] items-center gap-[5px]">
        <StatePost post={pool.post} />
        <span className="name min-w-0 flex-1 truncate" title={pool.name}>
          {pool.name}
        </span>
        <b className="num font-[640]">{filled} %</b>
      </div>
      <Beam filled={pool.filled} subscribed={pool.subscribed} label={`${filled} % filled, ${promised} % promised`} />
      <div className="sub num flex justify-between text-[11.5px] leading-[14px] [font-stretch:78%]">
        <span>
          {tebibytesUsed(pool.used)} of {tebibytes(pool.size)} TiB
        </span>
        <span>{pool.direct ? 'carved straight' : `promised ${promised} %`}</span>
      </div>
    </div>
  );
}

/** How much is asked, against the volume that is asked most. */
function LoadBar({ figure }: { figure: LoadFigure | undefined }) {
  return (
    <span className="inline-block h-[7px] w-[34px] flex-none border-b border-field" aria-hidden>
      <span
        className={`block h-full ${figure?.hot ? 'bg-red' : 'bg-ink'}`}
        style={{ width: `${Math.round((figure?.share ?? 0) * 100)}%` }}
      />
    </span>
  );
}

function VolumeRow({ volume }: { volume: SpanVolume }) {
  const load = useLoadFigure(volume.id);
  const short = volume.hosts > 0 && volume.paths.usable < volume.paths.expected;
  return (
    <div className="flex h-[26px] items-center gap-[5px] whitespace-nowrap">
      <StatePost post={volume.post} />
      <span className="name min-w-0 flex-1 overflow-hidden text-ellipsis">{volume.name}</span>
      {load === null ? (
        <>
          <VolumeBar share={volume.written / volume.size} thin={volume.thin} />
          <span className="num w-[32px] text-right [font-stretch:84%]">
            {percentUsed(volume.written, volume.size)} %
          </span>
          <span className="num w-[50px] text-right [font-stretch:84%]">{formatBytes(volume.size, 'used', 1)}</span>
        </>
      ) : (
        <>
          <LoadBar figure={load} />
          <span className="num w-[40px] text-right [font-stretch:84%]">
            {load?.iops == null ? '–' : rateText(load.iops)}
          </span>
          <span className={`num w-[50px] text-right [font-stretch:84%] ${load?.hot ? 'fell-short' : ''}`}>
            {waitText(load?.p95S ?? null)}
          </span>
        </>
      )}
      <span className={`num w-[26px] text-right ${short ? 'fell-short' : 'sub'}`}>
        {volume.hosts === 0 ? '' : `${volume.paths.usable}/${volume.paths.expected}`}
      </span>
    </div>
  );
}

/** The speed gives way where load needs its room. */
function PortSpeed({ speed }: { speed: number }) {
  return useByLoad() ? null : <span className="sub narrow">{speed}G</span>;
}

/** Logins, or how busy the port was. */
function PortFigure({ port }: { port: SpanPort }) {
  const load = useLoadFigure(port.id);
  if (load === null) return <span className="num">{port.tag === '' ? '' : port.logins}</span>;
  return (
    <span className={`num ${load?.hot ? 'fell-short' : ''}`}>{load?.rho == null ? '' : percentText(load.rho)}</span>
  );
}

/** Portals stand one by one; ports that serve nothing here are summed up until they are unfolded. */
function Ports({
  array,
  ports,
  marker,
  onSelect,
}: {
  array: SpanArray;
  ports: readonly SpanPort[];
  marker: Marker;
  onSelect: (item: Selection | null) => void;
}) {
  const [unfolded, setUnfolded] = useState(false);
  const portals = ports.filter(
    (port) => port.tag === 'IS' || port.logins > 0 || port.post !== 'stands' || marker.on.has(port.id),
  );
  const others = ports.filter((port) => !portals.includes(port));
  const items = (unfolded ? ports : portals).map((port) => ({ ...port, kind: 'port' as const }));
  const fc = others.filter((port) => port.tag !== '').length;
  return (
    <>
      <Listbox
        label={`Ports of ${array.name}`}
        column={5}
        items={items}
        marker={marker}
        onSelect={onSelect}
        rowHeight={26}
        describe={(port) =>
          `${port.name}, ${{ FC: 'Fibre Channel', IS: 'iSCSI', NV: 'NVMe/TCP', '': 'no role' }[port.tag]}, ${port.logins} logins, ${port.post}`
        }
        render={(port) => (
          <div className="flex h-[26px] items-center gap-[5px] whitespace-nowrap">
            <StatePost post={port.post} />
            <span className="name w-[18px]">{port.name}</span>
            <Tag tag={port.tag} />
            <PortSpeed speed={port.speed} />
            <span className="flex-1" />
            <PortFigure port={port} />
          </div>
        )}
      />
      {others.length > 0 && (
        <button
          type="button"
          className="verb narrow text-left text-ink2"
          aria-expanded={unfolded}
          onClick={() => setUnfolded(!unfolded)}
        >
          {unfolded
            ? 'Only those at work'
            : `${[fc > 0 ? `${fc} idle` : '', others.length - fc > 0 ? `${others.length - fc} without role` : ''].filter(Boolean).join(', ')}`}
        </button>
      )}
    </>
  );
}

/** Whether a storey is in sight or nearly so, and how tall it last was. All are near where none are left out. */
function useNear(room: React.RefObject<HTMLDivElement | null>, watch: boolean): { near: boolean; height: number } {
  const [state, setState] = useState({ near: false, height: USUAL_HEIGHT });
  useEffect(() => {
    const element = room.current;
    if (!watch || !element) return;
    const seen = new IntersectionObserver(
      ([entry]) =>
        setState((was) => ({
          near: entry!.isIntersecting,
          height: entry!.isIntersecting ? was.height : entry!.boundingClientRect.height || was.height,
        })),
      { root: element.closest('.scroller'), rootMargin: '700px 0px' },
    );
    seen.observe(element);
    return () => seen.disconnect();
  }, [room, watch]);
  return watch ? state : { near: true, height: 0 };
}
