import type { Topology } from '@/core/trace/topology';

const escaped = (text: string): string =>
  text.replace(/[&<>"']/g, (sign) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&apos;' })[sign]!);

const nodeKeys = ['kind', 'name', 'detail', 'site', 'up'] as const;
const edgeKeys = ['label', 'kind', 'over', 'count', 'up', 'rate', 'capacity'] as const;
const types: Record<string, string> = { up: 'boolean', count: 'int', rate: 'double', capacity: 'double' };

/** The topology as GraphML (graphml.graphdrawing.org, 1.0): nodes and edges with their facts as typed data. Rates in bytes a second. */
export function graphml({ nodes, edges }: Topology): string {
  const key = (of: 'node' | 'edge', name: string) =>
    `  <key id="${of}-${name}" for="${of}" attr.name="${name}" attr.type="${of === 'edge' && name === 'up' ? 'int' : (types[name] ?? 'string')}"/>`;
  const data = (of: 'node' | 'edge', name: string, value: unknown) =>
    `<data key="${of}-${name}">${escaped(String(value))}</data>`;
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    '<graphml xmlns="http://graphml.graphdrawing.org/xmlns">',
    ...nodeKeys.map((name) => key('node', name)),
    ...edgeKeys.map((name) => key('edge', name)),
    '  <graph id="topology" edgedefault="undirected">',
    ...nodes.map(
      (node) =>
        `    <node id="${escaped(node.id)}">${nodeKeys.map((name) => data('node', name, node[name])).join('')}</node>`,
    ),
    ...edges.map(
      (edge) =>
        `    <edge id="${escaped(edge.id)}" source="${escaped(edge.from)}" target="${escaped(edge.to)}">${edgeKeys.map((name) => data('edge', name, edge[name])).join('')}</edge>`,
    ),
    '  </graph>',
    '</graphml>',
    '',
  ].join('\n');
}
