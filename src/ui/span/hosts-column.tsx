'use client';
import { useMemo } from 'react';
import type { Selection } from '@/core/span/chain';
import type { SpanHost } from '@/core/span/model';
import { Datum, Tag } from '../look/marks';
import { StatePost } from '../look/post';
import { usePlace } from '../shell/place';
import { Listbox } from './listbox';
import type { Marker } from './use-marker';
import type { DrawnHost } from './use-span';
import { rateText } from '../load/words';
import { useLoadFigure } from './by-load';

interface HostItem {
  kind: 'host';
  id: string;
  host: DrawnHost;
  heading: string | null;
}
interface InterfaceItem {
  kind: 'interface';
  id: string;
  host: DrawnHost;
  /** Null while it is not known yet. */
  row: SpanHost['interfaces'][number] | null;
}
type Item = HostItem | InterfaceItem;

/** Ports of a host; their places only while they are not known. */
const portsOf = (host: DrawnHost): InterfaceItem[] =>
  host.interfaces?.map((row) => ({ kind: 'interface', id: row.id, host, row })) ??
  Array.from({ length: host.ports }, (_, k) => ({ kind: 'interface', id: `${host.id} ${k}`, host, row: null }));

const HEADING = 26;
const heightOf = (item: Item): number => (item.kind === 'interface' ? 18 : 24 + (item.heading ? HEADING : 0));

/** Hosts by site, each with its interfaces. */
export function HostsColumn({
  hosts,
  marker,
  onlyMarked,
  height,
  onSelect,
  onSight,
}: {
  hosts: readonly DrawnHost[];
  marker: Marker;
  onlyMarked: boolean;
  height: number;
  onSelect: (selection: Selection | null) => void;
  /** Told which hosts are in sight. */
  onSight: (hosts: readonly string[]) => void;
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
        return [first, ...portsOf(host)];
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
      onSelect={(item) =>
        onSelect(item && (item.kind === 'host' || item.row) ? { kind: item.kind, id: item.id } : null)
      }
      onSight={(shown) => onSight([...new Set(shown.map(({ host }) => host.id))])}
      rowHeight={heightOf}
      {...(total > height ? { maxHeight: height } : {})}
      describe={(item) =>
        item.kind === 'interface'
          ? item.row
            ? `${item.host.name} ${item.row.name}, ${item.row.address}, ${item.row.post}`
            : `${item.host.name}, a port that is being read`
          : `${item.host.name}, ${item.host.mapped} volumes, ${item.host.paths.usable} of ${item.host.paths.expected} paths, ${item.host.post}`
      }
      render={(item) => (item.kind === 'interface' ? <InterfaceRow item={item} /> : <HostRow item={item} />)}
    />
  );
}

function HostRow({ item: { host, heading } }: { item: HostItem }) {
  const load = useLoadFigure(host.id);
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
        {load === null ? (
          <span className={`num ${short ? 'fell-short' : 'font-[640]'}`}>
            {host.mapped === 0 ? '–' : `${host.paths.usable}/${host.paths.expected}`}
          </span>
        ) : (
          <span className="num font-[640]">{load?.iops == null ? '–' : rateText(load.iops)}</span>
        )}
      </div>
    </>
  );
}

function InterfaceRow({ item: { row } }: { item: InterfaceItem }) {
  if (!row) return <div className="h-[18px] text-[12px] text-ink3">…</div>;
  return (
    <div className="flex h-[18px] items-center gap-[5px] text-[12px] whitespace-nowrap">
      {row.post === 'stands' ? <span className="w-3 flex-none" /> : <StatePost post={row.post} />}
      <span>{row.name}</span>
      <span className="flex-1" />
      <span className="mono sub">{row.address.replace(/\/\d+/g, '')}</span>
    </div>
  );
}
