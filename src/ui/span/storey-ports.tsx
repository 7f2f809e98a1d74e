'use client';
import { useState } from 'react';
import type { Selection } from '@/core/span/chain';
import type { SpanArray, SpanPort } from '@/core/span/model';
import { Tag } from '../look/marks';
import { StatePost } from '../look/post';
import { percentText } from '../load/words';
import { useByLoad, useLoadFigure } from './by-load';
import { Listbox } from './listbox';
import type { Marker } from './use-marker';

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
export function Ports({
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
