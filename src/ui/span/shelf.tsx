'use client';
import { useId, useState } from 'react';
import type { Selection } from '@/core/span/chain';
import type { SpanDrive, SpanEnclosure } from '@/core/span/model';
import { focusSibling, focusSideways } from './columns-keys';
import type { Marker } from './use-marker';

const WIDTH = 150;
const HEIGHT = 14;

/** An enclosure as a shelf: one post a slot, a bracket a RAID group. */
export function Shelf({
  arrayName,
  enclosure,
  marker,
  onSelect,
}: {
  arrayName: string;
  enclosure: SpanEnclosure;
  marker: Marker;
  onSelect: (item: Selection | null) => void;
}) {
  const base = useId();
  const [active, setActive] = useState(0);
  // Wide posts for disks, narrow ones for flash; a shelf of many slots gets several boards.
  const perBoard = Math.min(enclosure.slots, enclosure.flash ? 24 : 20);
  const pitch = Math.min(enclosure.flash ? 6 : 12, (WIDTH - 4) / perBoard);
  const boards: SpanDrive[][] = [];
  for (let k = 0; k < enclosure.drives.length; k += perBoard) boards.push(enclosure.drives.slice(k, k + perBoard));
  const select = (drive: SpanDrive) => onSelect(drive.id === marker.selected ? null : { kind: 'drive', id: drive.id });
  const onKeyDown = (event: React.KeyboardEvent<HTMLDivElement>) => {
    const last = enclosure.drives.length - 1;
    const keys: Record<string, () => void> = {
      ArrowDown: () => (active < last ? setActive(active + 1) : void focusSibling(event.currentTarget, 1)),
      ArrowUp: () => (active > 0 ? setActive(active - 1) : void focusSibling(event.currentTarget, -1)),
      Home: () => setActive(0),
      End: () => setActive(last),
      ArrowRight: () => focusSideways(event.currentTarget, 1),
      ArrowLeft: () => focusSideways(event.currentTarget, -1),
      Enter: () => select(enclosure.drives[active]!),
      ' ': () => select(enclosure.drives[active]!),
    };
    const act = keys[event.key];
    if (!act) return;
    event.preventDefault();
    act();
  };
  return (
    <div className="pt-1" data-node={enclosure.id}>
      <div className="narrow flex justify-between leading-[15px] whitespace-nowrap">
        <span className="overflow-hidden text-ellipsis">
          <b className="font-[560]">Enclosure {enclosure.number}</b>{' '}
          <span className="text-ink2">{enclosure.label}</span>
        </span>
        <span className="pl-1 text-ink2">{enclosure.free} free</span>
      </div>
      <div
        role="listbox"
        aria-label={`Drives in enclosure ${enclosure.number} of ${arrayName}`}
        aria-activedescendant={`${base}-${active}`}
        tabIndex={0}
        data-column={1}
        className="listbox"
        onKeyDown={onKeyDown}
        onFocus={() => {
          const marked = enclosure.drives.findIndex((drive) => drive.id === marker.selected);
          if (marked >= 0) setActive(marked);
        }}
      >
        {boards.map((board, b) => (
          <div key={b} role="presentation" className="pt-[2px]">
            <div
              role="presentation"
              className="relative flex"
              style={{ width: WIDTH, paddingLeft: 3, height: HEIGHT + 4 }}
            >
              {board.map((drive, k) => {
                const at = b * perBoard + k;
                return (
                  <span
                    key={drive.id}
                    id={`${base}-${at}`}
                    role="option"
                    aria-selected={drive.id === marker.selected}
                    data-selected={drive.id === marker.selected || undefined}
                    aria-label={`Slot ${drive.slot}, ${roleOf(drive)}, ${drive.post}`}
                    title={`${enclosure.number}:${drive.slot}`}
                    data-on={marker.on.has(drive.id) || undefined}
                    data-active={at === active || undefined}
                    data-post={drive.post}
                    className="slot inline-block"
                    style={{ width: pitch }}
                    onClick={(event) => {
                      event.stopPropagation();
                      setActive(at);
                      select(drive);
                    }}
                  >
                    <DrivePost drive={drive} width={pitch} />
                  </span>
                );
              })}
              <svg className="absolute inset-x-0 bottom-0 text-ink2" width={WIDTH} height="6" aria-hidden="true">
                <path d="M.5 0v5.5h149V0" fill="none" stroke="currentColor" />
              </svg>
            </div>
            <Brackets
              enclosure={enclosure}
              from={b * perBoard}
              to={b * perBoard + board.length - 1}
              pitch={pitch}
              marker={marker}
            />
          </div>
        ))}
      </div>
    </div>
  );
}

function DrivePost({ drive, width }: { drive: SpanDrive; width: number }) {
  return (
    <svg width={width} height={HEIGHT} viewBox={`0 0 ${width} ${HEIGHT}`} aria-hidden="true">
      <PostShape drive={drive} width={width} post={Math.max(3, width - (width > 8 ? 4 : 2))} />
    </svg>
  );
}

/** A drive as a post of a width: as it stands, leans, is broken, missing, half of it spare, or at work. */
function PostShape({ drive, width, post }: { drive: SpanDrive; width: number; post: number }) {
  if (drive.post === 'broken')
    return (
      <>
        <path d={`M0 ${HEIGHT}V8l${post} 2v${HEIGHT - 10}Z`} fill="currentColor" />
        <path d={`M${width - post} 0H${width}v7l${-post}-2Z`} fill="currentColor" />
      </>
    );
  if (drive.post === 'leans')
    return <path d={`M0 ${HEIGHT}h${post - 1}L${width} 0h${1 - post}Z`} fill="currentColor" />;
  if (drive.post === 'absent')
    return <path d={`M0 ${HEIGHT - 3}h${post}`} stroke="currentColor" strokeDasharray="1.5 1.5" />;
  if (drive.spare && drive.group === null && drive.post === 'stands')
    return <rect x="0" y={HEIGHT / 2} width={post} height={HEIGHT / 2} fill="currentColor" />;
  return (
    <>
      <rect
        x=".5"
        y=".5"
        width={post - 1}
        height={HEIGHT - 1}
        fill={drive.group && drive.post === 'stands' ? 'currentColor' : 'none'}
        stroke="currentColor"
      />
      {drive.post === 'in work' && (
        <rect x=".5" y={HEIGHT / 2} width={post - 1} height={HEIGHT / 2} fill="currentColor" />
      )}
    </>
  );
}

/** What a slot holds: a member of a group, a spare, or a drive that is free. */
const roleOf = ({ group, spare }: SpanDrive): string => {
  if (group) return 'member';
  return spare ? 'spare' : 'free';
};

function Brackets({
  enclosure,
  from,
  to,
  pitch,
  marker,
}: {
  enclosure: SpanEnclosure;
  from: number;
  to: number;
  pitch: number;
  marker: Marker;
}) {
  const shown = enclosure.brackets.filter((bracket) => bracket.to >= from && bracket.from <= to);
  if (shown.length === 0) return null;
  return (
    <svg className="text-ink2" width={WIDTH} height="14" aria-hidden="true">
      {shown.map((bracket) => {
        const left = 3 + (Math.max(bracket.from, from) - from) * pitch;
        const right = 3 + (Math.min(bracket.to, to) - from + 1) * pitch - 2;
        const on = marker.on.has(bracket.group);
        return (
          <g key={`${bracket.group} ${bracket.from}`} className={on ? 'text-ink' : ''}>
            <path d={`M${left + 0.5} 1v4.5H${right}V1`} fill="none" stroke="currentColor" />
            {right - left >= 16 && (
              <text
                x={(left + right) / 2}
                y="13"
                textAnchor="middle"
                fontSize="11"
                fontWeight={on ? 700 : 560}
                fill="currentColor"
                stroke="var(--paper)"
                strokeWidth="3"
                paintOrder="stroke"
                style={{ fontStretch: '80%' }}
              >
                {bracket.name}
              </text>
            )}
          </g>
        );
      })}
    </svg>
  );
}
