'use client';
import { useMemo } from 'react';
import type { Selection } from '@/core/span/chain';
import type { SpanHost, SpanModel } from '@/core/span/model';
import { Datum, Tag } from '../look/marks';
import { StatePost } from '../look/post';
import { usePlace } from '../shell/place';
import { Listbox } from './listbox';
import type { Marker } from './use-marker';

interface HostItem {
  kind: 'host';
  id: string;
  host: SpanHost;
  heading: string | null;
}
interface InterfaceItem {
  kind: 'interface';
  id: string;
  host: SpanHost;
  row: SpanHost['interfaces'][number];
}
type Item = HostItem | InterfaceItem;

const HEADING = 26;
const heightOf = (item: Item): number => (item.kind === 'interface' ? 18 : 24 + (item.heading ? HEADING : 0));

/** Hosts by site, each with its interfaces. */
export function HostsColumn({
  hosts,
  marker,
  onlyMarked,
  height,
  onSelect,
}: {
  hosts: SpanModel['hosts'];
  marker: Marker;
  onlyMarked: boolean;
  height: number;
  onSelect: (selection: Selection | null) => void;
}) {
  const { open } = usePlace();
  const items = useMemo(() => {
    const kept = onlyMarked ? hosts.filter((host) => marker.on.has(host.id)) : hosts;
    const sites = [...new Set(kept.map((host) => host.site))].sort();
    return sites.flatMap((site) => {
      let heading: string | null = site;
      return kept.flatMap((host): Item[] => {
        if (host.site !== site) return [];
        const first: Item = { kind: 'host', id: host.id, host, heading };
        heading = null;
        return [first, ...host.interfaces.map((row): Item => ({ kind: 'interface', id: row.id, host, row }))];
      });
    });
  }, [hosts, marker, onlyMarked]);
  if (hosts.length === 0)
    return (
      <p className="narrow py-1 text-ink2">
        No host yet.{' '}
        <button type="button" className="verb" onClick={() => open('host.create')}>
          Register one
        </button>{' '}
        or{' '}
        <button type="button" className="verb" onClick={() => open('hosts')}>
          import a list
        </button>
        .
      </p>
    );
  const total = items.reduce((sum, item) => sum + heightOf(item), 0);
  return (
    <Listbox
      label="Hosts"
      column={7}
      items={items}
      marker={marker}
      onSelect={(item) => onSelect(item && { kind: item.kind, id: item.id })}
      rowHeight={heightOf}
      {...(total > height ? { maxHeight: height } : {})}
      describe={(item) =>
        item.kind === 'interface'
          ? `${item.host.name} ${item.row.name}, ${item.row.address}, ${item.row.post}`
          : `${item.host.name}, ${item.host.mapped} volumes, ${item.host.paths.usable} of ${item.host.paths.expected} paths, ${item.host.post}`
      }
      render={(item) => (item.kind === 'interface' ? <InterfaceRow item={item} /> : <HostRow item={item} />)}
    />
  );
}

function HostRow({ item: { host, heading } }: { item: HostItem }) {
  const short = host.mapped > 0 && host.paths.usable < host.paths.expected;
  return (
    <>
      {heading && (
        <div
          className="relative -mx-[6px] flex items-end gap-1.5 bg-paper px-[6px] text-ink2"
          style={{ height: HEADING }}
        >
          <span className="narrow flex flex-1 items-center gap-1.5 border-b border-ink pb-px leading-4">
            <Datum />
            {heading}
          </span>
        </div>
      )}
      <div className="flex h-[24px] items-center gap-[5px] whitespace-nowrap">
        <StatePost post={host.post} />
        <span className="name overflow-hidden text-ellipsis">{host.name}</span>
        {host.tags.map((tag) => (
          <Tag key={tag} tag={tag} />
        ))}
        <span className="flex-1" />
        <span className={`num ${short ? 'fell-short' : 'font-[640]'}`}>
          {host.mapped === 0 ? '–' : `${host.paths.usable}/${host.paths.expected}`}
        </span>
      </div>
    </>
  );
}

function InterfaceRow({ item: { row } }: { item: InterfaceItem }) {
  return (
    <div className="flex h-[18px] items-center gap-[5px] text-[12px] whitespace-nowrap">
      {row.post === 'stands' ? <span className="w-3 flex-none" /> : <StatePost post={row.post} />}
      <span>{row.name}</span>
      <span className="flex-1" />
      <span className="mono sub">{row.address.replace(/\/\d+/g, '')}</span>
    </div>
  );
}
