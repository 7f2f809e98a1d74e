'use client';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import type { Post } from '@/core/span/model';
import type { Mark, Topology as Model, TopologyEdge, TopologyNode } from '@/core/trace/topology';
import { formatRate } from '@/core/units/rate';
import { api, failedQuery } from '../api/client';
import { StatePost } from '../look/post';
import { usePlace } from '../shell/place';
import { layOut, type Placed } from './lay-out';

/** Hosts, switches, networks and arrays as they are joined. What the sheet beside it is about is laid over: a trace, or what-if. */
export function Topology() {
  const { sheet, given } = usePlace();
  const [busy, setBusy] = useState(false);
  const query =
    sheet === 'trace' && typeof given.host === 'string' && typeof given.volume === 'string'
      ? `host=${encodeURIComponent(given.host)}&volume=${encodeURIComponent(given.volume)}`
      : sheet === 'what-if' && Array.isArray(given.failed)
        ? failedQuery(given.failed as string[])
        : '';
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
          {sheet === 'trace'
            ? 'The way of the trace is marked.'
            : sheet === 'what-if'
              ? 'What is taken as failed, and whom it hurts, is drawn broken.'
              : 'Solid: Fibre Channel. Dashed: IP networks.'}
        </span>
      </div>
      {error && <p className="refusal">The topology was asked for. {error.message}</p>}
      {data && <Drawing model={data} busy={busy} />}
    </section>
  );
}

function Drawing({ model, busy }: { model: Model; busy: boolean }) {
  const drawn = useMemo(() => layOut(model), [model]);
  const marked = model.edges.some((edge) => edge.mark) || model.nodes.some((node) => node.mark);
  return (
    <div
      className="scroller relative overflow-auto"
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
          {drawn.edges.map(({ edge, at: [x, y] }) => (
            <text
              key={`text ${edge.id}`}
              x={x}
              y={y}
              textAnchor={edge.kind === 'array-port' ? 'end' : 'start'}
              className="topo-text num"
              data-down={edge.up < edge.count || edge.mark === 'failed' || undefined}
            >
              {edgeText(edge, busy)}
            </text>
          ))}
        </svg>
        {drawn.nodes.map((placed) => (
          <Box key={placed.node.id} placed={placed} faded={marked && !placed.node.mark} />
        ))}
      </div>
    </div>
  );
}

function edgeText(edge: TopologyEdge, busy: boolean): string {
  const down =
    edge.mark === 'failed'
      ? ', taken as failed'
      : edge.up < edge.count
        ? `, ${edge.count === 1 ? 'down' : `${edge.count - edge.up} of ${edge.count} down`}`
        : '';
  if (!busy) return `${edge.label}${down}`;
  if (edge.rate === 0) return '';
  const share = edge.rate / edge.capacity;
  return `${formatRate(edge.rate)}, ${share < 0.01 ? 'under 1' : Math.round(share * 100)} %${down}`;
}

const posts: Record<Mark, Post> = { trace: 'stands', failed: 'broken', lost: 'broken', hurt: 'leans' };
const told: Record<Mark, string> = {
  trace: '',
  failed: 'taken as failed',
  lost: 'loses every path',
  hurt: 'loses paths',
};

function Box({ placed: { node, x, y, width, height }, faded }: { placed: Placed; faded: boolean }) {
  const { open, select } = usePlace();
  const post: Post = node.mark && node.mark !== 'trace' ? posts[node.mark] : node.up ? 'stands' : 'broken';
  const note = node.mark && told[node.mark] ? told[node.mark] : node.up ? node.detail : 'down';
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
      <span className={`name truncate ${faded ? 'text-ink3' : ''}`}>{node.name}</span>
      <span
        className={`narrow ml-auto truncate text-[11px] ${note !== node.detail && note ? 'text-red' : 'text-ink3'}`}
      >
        {note}
      </span>
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
