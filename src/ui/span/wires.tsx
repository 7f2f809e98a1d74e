'use client';
import { useEffect, useState, type RefObject } from 'react';
import type { Marker } from './use-marker';
import type { DrawnSpan } from './use-span';

interface Link {
  from: string;
  to: string;
  broken?: boolean;
}
/** How a line is drawn: Fibre Channel and what lies within an array solid, iSCSI dashed, NVMe/TCP dotted. */
type Protocol = '' | 'iscsi' | 'nvme';
interface Drawn {
  d: string;
  broken: boolean;
  protocol: Protocol;
  key: string;
}
interface Box {
  left: number;
  right: number;
  y: number;
}

/** Beyond this many lines in a gutter they share one bus. */
const MOST_LANES = 16;
const CHAMFER = 4;

/** What joins what when nothing is marked: the bare structure. */
function restLinks(model: DrawnSpan): Link[] {
  const links: Link[] = [];
  for (const { storey: array } of model.arrays) {
    if (!array) continue;
    for (const group of array.groups) {
      for (const enclosure of group.enclosures) links.push({ from: enclosure, to: group.id });
      if (group.pool) links.push({ from: group.id, to: group.pool });
    }
    for (const volume of array.volumes) links.push({ from: volume.pool, to: volume.id });
    for (const port of array.ports) for (const network of port.networks) links.push({ from: port.id, to: network });
  }
  for (const host of model.hosts)
    for (const row of host.interfaces ?? [])
      for (const network of row.networks) links.push({ from: network, to: row.id });
  return links;
}

/** Where the rows in sight stand, relative to the drawing; rows scrolled out of their pane are left out. Only those that lines end at count. */
function boxes(body: HTMLElement, ends: ReadonlySet<string>): Map<string, Box> {
  const origin = body.getBoundingClientRect();
  const edges = new Map<Element, DOMRect>();
  const edgeOf = (pane: Element): DOMRect => {
    let edge = edges.get(pane);
    if (!edge) edges.set(pane, (edge = pane.getBoundingClientRect()));
    return edge;
  };
  const found = new Map<string, Box>();
  for (const element of body.querySelectorAll<HTMLElement>('[data-node]')) {
    if (!ends.has(element.dataset.node!)) continue;
    const box = element.getBoundingClientRect();
    const pane = element.closest('.scroller');
    if (pane && pane !== body.parentElement) {
      const edge = edgeOf(pane);
      if (box.top < edge.top - 4 || box.bottom > edge.bottom + 4) continue;
    }
    // A host's row carries its site's heading on top: the line meets the row itself, at its foot.
    const y =
      box.height > 48 && element.getAttribute('role') === 'option' && element.closest('[data-column="7"]')
        ? box.bottom - 12
        : box.top + box.height / 2;
    found.set(element.dataset.node!, {
      left: box.left - origin.left,
      right: box.right - origin.left,
      y: y - origin.top,
    });
  }
  return found;
}

/** An orthogonal line with cut corners through a lane at `x`. */
function line(from: Box, to: Box, x: number): string {
  const start = from.right + 3;
  const end = to.left - 4;
  const fall = to.y - from.y;
  if (Math.abs(fall) < 1) return `M${start} ${from.y}H${end}`;
  const c = Math.min(CHAMFER, Math.abs(fall) / 2, Math.max(0, x - start), Math.max(0, end - x)) * Math.sign(fall);
  const a = Math.abs(c);
  return `M${start} ${from.y}H${x - a}L${x} ${from.y + c}V${to.y - c}L${x + a} ${to.y}H${end}`;
}

/** A broken way leaves its port apart, with a gap and two slashes on its run. */
function brokenLine(from: Box, to: Box, x: number): string {
  const middle = from.y + (to.y - from.y) * 0.42;
  const start = from.right + 3;
  const end = to.left - 4;
  if (Math.abs(to.y - from.y) < 14) {
    const cut = (start + end) / 2;
    return `M${start} ${from.y}H${cut - 5}M${cut - 6} ${from.y + 4}l4-8M${cut + 2} ${from.y + 4}l4-8M${cut + 5} ${from.y}H${end}V${to.y}`;
  }
  const step = Math.sign(to.y - from.y) * 5;
  return `M${start} ${from.y}H${x}V${middle - step}M${x - 5} ${middle - step + 2}l10-4M${x - 5} ${middle + step + 2}l10-4M${x} ${middle + step}V${to.y}H${end}`;
}

/** Which protocol runs between two rows: told by the port, the host's names, or the network they share. */
function protocols(model: DrawnSpan): (link: Link) => Protocol {
  const known = new Map<string, Protocol>();
  const words = { FC: '', IS: 'iscsi', NV: 'nvme', '': 'iscsi' } as const;
  for (const { storey } of model.arrays) for (const port of storey?.ports ?? []) known.set(port.id, words[port.tag]);
  for (const network of model.networks)
    known.set(
      network.id,
      network.kind === 'fabric' ? '' : network.tags.length === 1 ? words[network.tags[0]!] : 'iscsi',
    );
  return ({ from, to }) =>
    known.get(from.startsWith('port_') || from.startsWith('net_') ? from : to) ?? known.get(from) ?? '';
}

/** Links by the row they end at: with rows by the thousand only those in sight are looked at. */
function byEnd(links: readonly Link[]): Map<string, Link[]> {
  const found = new Map<string, Link[]>();
  for (const link of links) {
    const known = found.get(link.to);
    if (known) known.push(link);
    else found.set(link.to, [link]);
  }
  return found;
}

function draw(
  links: ReadonlyMap<string, readonly Link[]>,
  places: Map<string, Box>,
  protocolOf: (link: Link) => Protocol,
): Drawn[] {
  const gutters = new Map<string, { link: Link; from: Box; to: Box }[]>();
  for (const [end, to] of places)
    for (const link of links.get(end) ?? []) {
      const from = places.get(link.from);
      if (!from || to.left < from.right) continue;
      const key = `${Math.round(from.right / 8)} ${Math.round(to.left / 8)}`;
      const known = gutters.get(key);
      if (known) known.push({ link, from, to });
      else gutters.set(key, [{ link, from, to }]);
    }
  const drawn: Drawn[] = [];
  for (const [key, edges] of gutters) {
    const sources = [...new Set(edges.map((edge) => edge.link.from))].sort(
      (a, b) => places.get(a)!.y - places.get(b)!.y,
    );
    const targets = [...new Set(edges.map((edge) => edge.link.to))];
    // One lane a source, unless several sources meet in fewer targets: then one a target.
    const bySource = sources.length <= targets.length;
    const lanes = bySource ? sources : targets.sort((a, b) => places.get(a)!.y - places.get(b)!.y);
    const bus = edges.length > MOST_LANES && lanes.length > 4;
    for (const { link, from, to } of edges) {
      const lane = bus ? 0.5 : (lanes.indexOf(bySource ? link.from : link.to) + 1) / (lanes.length + 1);
      const x = Math.round(from.right + 3 + (to.left - from.right - 7) * lane) + 0.5;
      const broken = link.broken === true;
      drawn.push({
        d: broken ? brokenLine(from, to, x) : line(from, to, x),
        broken,
        protocol: protocolOf(link),
        key: `${key} ${link.from} ${link.to}`,
      });
    }
  }
  return drawn;
}

/** One layer behind the lists draws every line; it is worked out anew when anything moves. */
export function Wires({
  body,
  model,
  marker,
}: {
  body: RefObject<HTMLElement | null>;
  model: DrawnSpan;
  marker: Marker;
}) {
  const [drawn, setDrawn] = useState<Drawn[]>([]);
  const { chain, selected } = marker;

  useEffect(() => {
    const element = body.current;
    if (!element) return;
    let frame = 0;
    const protocolOf = protocols(model);
    const atRest = selected ? [] : restLinks(model);
    const all = chain ? chain.links : atRest;
    const links = byEnd(all);
    const ends = new Set(all.flatMap((one) => [one.from, one.to]));
    const recompute = () => {
      cancelAnimationFrame(frame);
      frame = requestAnimationFrame(() => setDrawn(draw(links, boxes(element, ends), protocolOf)));
    };
    recompute();
    const resized = new ResizeObserver(recompute);
    resized.observe(element);
    const mutated = new MutationObserver(recompute);
    mutated.observe(element, { childList: true, subtree: true });
    element.addEventListener('scroll', recompute, { capture: true, passive: true });
    return () => {
      resized.disconnect();
      mutated.disconnect();
      element.removeEventListener('scroll', recompute, { capture: true });
      cancelAnimationFrame(frame);
    };
  }, [body, model, chain, selected]);

  return (
    <svg className="wires" width="1" height="1" aria-hidden="true">
      {chain &&
        drawn.filter((one) => !one.broken).map((one) => <path key={`rib ${one.key}`} className="rib" d={one.d} />)}
      {drawn.map((one) => (
        <path
          key={one.key}
          d={one.d}
          className={one.broken ? 'broken' : `${chain ? 'line' : 'hair'} ${one.protocol}`}
        />
      ))}
    </svg>
  );
}
