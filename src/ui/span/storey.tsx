'use client';
import Link from 'next/link';
import { useEffect, useRef, useState } from 'react';
import type { Selection } from '@/core/span/chain';
import type { SpanArray, SpanHead } from '@/core/span/model';
import { formatBytes, percentUsed } from '@/core/units/bytes';
import { Datum } from '../look/marks';
import { StatePost } from '../look/post';
import { usePlace } from '../shell/place';
import { gridColumn } from './layout';
import { Listbox } from './listbox';
import { Shelf } from './shelf';
import { Ports } from './storey-ports';
import { GroupRow, PoolRow, VolumeRow } from './storey-rows';
import type { Marker } from './use-marker';

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
