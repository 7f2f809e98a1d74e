'use client';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { Post } from '@/core/span/model';
import type { Mark, Topology as Model, TopologyEdge, TopologyNode } from '@/core/trace/topology';
import { formatRate } from '@/core/units/rate';
import { api, failedQuery } from '../api/client';
import { StatePost } from '../look/post';
import { usePlace } from '../shell/place';
import { layOut, type Placed } from './lay-out';

/** What is laid over by the sheet beside it. */
const says: { readonly [sheet: string]: string } = {
  trace: 'The way of the trace is marked.',
  'what-if': 'What is taken as failed, and whom it hurts, is drawn broken.',
};

/** What the sheet beside the drawing is about, as the drawing is asked for. */
function laidOver(sheet: string | null, given: Readonly<Record<string, unknown>>): string {
  if (sheet === 'trace' && typeof given.host === 'string' && typeof given.volume === 'string')
    return `host=${encodeURIComponent(given.host)}&volume=${encodeURIComponent(given.volume)}`;
  return sheet === 'what-if' && Array.isArray(given.failed) ? failedQuery(given.failed as string[]) : '';
}

/** Hosts, switches, networks and arrays as they are joined. What the sheet beside it is about is laid over: a trace, or what-if. */
export function Topology() {
  const { sheet, given } = usePlace();
  const [busy, setBusy] = useState(false);
  const query = laidOver(sheet, given);
  const { data, error } = useQuery({
    queryKey: ['topology', query],
    queryFn: () => api.topology(query),
    placeholderData: keepPreviousData,
  });
  return (
    <section aria-label="Topology" className="pt-2">
      <div className="flex items-baseline gap-4 pb-2">
        <button
          type="button"
          className={`verb ${busy ? 'font-[700]' : ''}`}
          aria-pressed={busy}
          onClick={() => setBusy(!busy)}
        >
          Utilisation
        </button>
        <a className="verb" href="/api/v1/topology?format=graphml" download>
          Export as GraphML
        </a>
        <span className="text-ink2">
          {says[sheet ?? ''] ?? 'Solid: Fibre Channel. Dashed: IP networks, and links between sites at the right.'}
        </span>
      </div>
      {error && <p className="refusal">The topology was asked for. {error.message}</p>}
      {data && <Drawing model={data} busy={busy} />}
    </section>
  );
}

function Drawing({ model, busy }: { model: Model; busy: boolean }) {
  const frame = useRef<HTMLDivElement>(null);
  const room = useRoom(frame);
  const drawn = useMemo(() => layOut(model, room), [model, room]);
  const marked = model.edges.some((edge) => edge.mark) || model.nodes.some((node) => node.mark);
  return (
    <div
      ref={frame}
      className="scroller relative min-w-0 overflow-auto"
      tabIndex={0}
      role="group"
      aria-label={`${model.nodes.length} things, ${model.edges.length} connections`}
    >
      <div className="relative" style={{ width: drawn.width, height: drawn.height }}>
        <svg className="absolute inset-0" width={drawn.width} height={drawn.height} aria-hidden="true">
          {drawn.edges.map(({ edge, path }) => (
            <path key={`under ${edge.id}`} d={path} className="topo-under" data-mark={edge.mark ?? ''} />
          ))}
          {drawn.edges.map(({ edge, path }) => (
            <path
              key={edge.id}
              d={path}
              className="topo-line"
              data-over={edge.over}
              data-mark={edge.mark ?? (marked ? 'faded' : '')}
              data-down={edge.up < edge.count || undefined}
            />
          ))}
          {drawn.edges.map(({ edge, at: [x, y], turned }) => (
            <text
              key={`text ${edge.id}`}
              x={x}
              y={y}
              {...(turned ? { transform: `rotate(-90 ${x} ${y})` } : {})}
              textAnchor={edge.kind === 'array-port' ? 'end' : 'start'}
              className="topo-text num"
              data-down={edge.up < edge.count || edge.mark === 'failed' || undefined}
            >
              {edgeText(edge, busy, drawn.wide)}
            </text>
          ))}
        </svg>
        {drawn.nodes.map((placed) => (
          <Box key={placed.node.id} placed={placed} wide={drawn.wide} faded={marked && !placed.node.mark} />
        ))}
      </div>
    </div>
  );
}

function downText({ mark, up, count }: TopologyEdge): string {
  if (mark === 'failed') return ' fails';
  if (up >= count) return '';
  return count === 1 ? ', down' : `, ${count - up} of ${count} down`;
}

function edgeText(edge: TopologyEdge, busy: boolean, wide: boolean): string {
  const down = downText(edge);
  // Beside a sheet there is no room for what an inter-switch link runs over.
  const label = edge.kind === 'isl' && !wide ? edge.label.replace(/ over .*$/, '') : edge.label;
  if (!busy) return `${label}${down}`;
  if (edge.rate === 0) return '';
  const share = edge.rate / edge.capacity;
  return `${formatRate(edge.rate)}, ${share < 0.01 ? 'under 1' : Math.round(share * 100)} %${down}`;
}

const posts: Record<Mark, Post> = { trace: 'stands', failed: 'broken', lost: 'broken', hurt: 'leans' };
const told: Record<Mark, string> = {
  trace: '',
  failed: 'fails',
  lost: 'no path left',
  hurt: 'loses paths',
};

/** The width there is for the drawing, in steps, so that it is not laid out anew at every pixel. */
function useRoom(frame: React.RefObject<HTMLDivElement | null>): number {
  const [room, setRoom] = useState(1000);
  useEffect(() => {
    if (!frame.current) return;
    const watch = new ResizeObserver(([entry]) => setRoom(Math.floor(entry!.contentRect.width / 20) * 20));
    watch.observe(frame.current);
    return () => watch.disconnect();
  }, [frame]);
  return room;
}

function Box({
  placed: { node, x, y, width, height },
  wide,
  faded,
}: {
  placed: Placed;
  wide: boolean;
  faded: boolean;
}) {
  const { open, select } = usePlace();
  const still: Post = node.up ? 'stands' : 'broken';
  const post = node.mark && node.mark !== 'trace' ? posts[node.mark] : still;
  const note = (node.mark && told[node.mark]) || (node.up ? node.detail : 'down');
  const plain = node.mark ? 'text-ink2' : 'text-ink3';
  return (
    <button
      type="button"
      className="topo-box"
      data-mark={node.mark ?? ''}
      data-kind={node.kind}
      style={{ left: x, top: y, width, height }}
      aria-label={`${node.kind} ${node.name}${note ? `, ${note}` : ''}`}
      title={`${node.name}, ${node.detail}${node.site ? `, ${node.site}` : ''}`}
      onClick={() => act(node, open, select)}
    >
      <StatePost post={post} />
      <span className={`name flex-none ${faded ? 'text-ink3' : ''}`}>{node.name}</span>
      {(wide || note !== node.detail) && (
        <span
          className={`narrow truncate text-[11px] ${node.kind === 'array' ? 'ml-[18px]' : 'ml-auto'} ${note !== node.detail ? 'text-red' : plain}`}
        >
          {note}
        </span>
      )}
    </button>
  );
}

function act(
  node: TopologyNode,
  open: ReturnType<typeof usePlace>['open'],
  select: ReturnType<typeof usePlace>['select'],
): void {
  if (node.kind === 'host') open('host', { host: node.name });
  else if (node.kind === 'switch') open('what-if', { failed: [node.name] });
  else if (node.kind === 'array') open('target.configure', { array: node.name });
  else if (node.kind === 'network') select({ kind: 'network', id: node.id });
}
