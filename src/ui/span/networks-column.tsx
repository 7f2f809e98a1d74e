'use client';
import type { Selection } from '@/core/span/chain';
import type { SpanModel } from '@/core/span/model';
import { Tag } from '../look/marks';
import { StatePost } from '../look/post';
import { Listbox } from './listbox';
import type { Marker } from './use-marker';

/** The networks that portals and interfaces share. */
export function NetworksColumn({
  networks,
  marker,
  onlyMarked,
  onSelect,
}: {
  networks: SpanModel['networks'];
  marker: Marker;
  onlyMarked: boolean;
  onSelect: (selection: Selection | null) => void;
}) {
  const items = networks.filter((network) => !onlyMarked || marker.on.has(network.id));
  if (networks.length === 0) return <p className="narrow py-1 text-ink2">No network or fabric yet.</p>;
  return (
    <Listbox
      label="Fabrics and networks"
      column={6}
      items={items}
      marker={marker}
      onSelect={(item) => onSelect(item && { kind: item.kind, id: item.id })}
      rowHeight={42}
      describe={(network) =>
        `${network.name}, ${network.detail}, ${network.mtu === null ? 'fabric' : `MTU ${network.mtu}`}, ${network.members} members, ${network.post}`
      }
      render={(network) => (
        <div className="h-[42px] pt-[3px]">
          <div className="flex h-[20px] items-center gap-[5px] whitespace-nowrap">
            <StatePost post={network.post} />
            <span className="name overflow-hidden text-ellipsis">{network.name}</span>
            <span className="flex-1" />
            {network.tags.map((tag) => (
              <Tag key={tag} tag={tag} />
            ))}
          </div>
          <div className="mono sub flex justify-between">
            <span>{network.detail}</span>
            <span>{network.members}</span>
          </div>
        </div>
      )}
    />
  );
}
