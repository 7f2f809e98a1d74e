import { Graph, layout, type GraphLabel, type NodeLabel } from '@dagrejs/dagre';
import type { Topology, TopologyEdge, TopologyNode } from '@/core/trace/topology';

export interface Placed {
  node: TopologyNode;
  x: number;
  y: number;
  width: number;
  height: number;
}
export interface Drawn {
  width: number;
  height: number;
  nodes: Placed[];
  edges: { edge: TopologyEdge; path: string; at: [number, number] }[];
}

const WIDTH = { host: 150, hosts: 170, switch: 132, network: 132, array: 140 } as const;
const HEIGHT = 27;
const CHAMFER = 4;

/**
 * Hosts at the left, switches and networks in the middle, arrays at the right: ranks and order come from the layout library, lines run
 * at right angles in lanes. Links between switches do not push them apart: they are drawn beside their column.
 */
export function layOut({ nodes, edges }: Topology): Drawn {
  const graph = new Graph<GraphLabel, NodeLabel>({ multigraph: true });
  const at = (id: string) => graph.node(id) as { x: number; y: number };
  graph.setGraph({ rankdir: 'LR', nodesep: 9, ranksep: 210, marginx: 4, marginy: 8 });
  graph.setDefaultEdgeLabel(() => ({}));
  for (const node of nodes) graph.setNode(node.id, { width: WIDTH[node.kind], height: HEIGHT });
  for (const edge of edges) if (edge.kind !== 'isl') graph.setEdge(edge.from, edge.to, { weight: edge.count }, edge.id);
  layout(graph);
  const column = { host: 0, hosts: 0, switch: 1, network: 1, array: 2 } as const;
  // What nothing hangs on stands in its own column all the same.
  const middles = [0, 1, 2].map((rank) => {
    const own = nodes.filter((node) => column[node.kind] === rank && graph.nodeEdges(node.id)?.length);
    return own.length > 0 ? Math.max(...own.map((node) => at(node.id).x)) : rank * 350 + 80;
  });
  const placed = new Map<string, Placed>();
  for (const node of nodes) {
    placed.set(node.id, {
      node,
      x: middles[column[node.kind]]! - WIDTH[node.kind] / 2,
      y: at(node.id).y - HEIGHT / 2,
      width: WIDTH[node.kind],
      height: HEIGHT,
    });
  }
  spread([...placed.values()], column);
  const drawn = edges.map((edge) => ({ edge, from: placed.get(edge.from)!, to: placed.get(edge.to)! }));
  const lanes = laneOf(drawn.filter(({ edge }) => edge.kind !== 'isl'));
  const links = drawn.filter(({ edge }) => edge.kind === 'isl');
  return {
    width: Math.max(...[...placed.values()].map((one) => one.x + one.width)) + 6,
    height: Math.max(...[...placed.values()].map((one) => one.y + one.height)) + 8,
    nodes: [...placed.values()],
    edges: [
      ...drawn
        .filter(({ edge }) => edge.kind !== 'isl')
        .map(({ edge, from, to }): Drawn['edges'][number] => {
          const [x1, x2] = [from.x + from.width, to.x];
          const [y1, y2] = [exit(from, to, drawn), entry(to, from, drawn)];
          const lane = lanes.get(edge.id)!;
          const x = edge.kind === 'host-port' ? x1 + 34 + lane : x2 - 40 - lane;
          return {
            edge,
            path: bent(x1, y1, x, x2, y2),
            at: edge.kind === 'host-port' ? [x1 + 4, y1 - 2] : [x2 - 4, y2 - 2],
          };
        }),
      ...links.map(({ edge, from, to }, k): Drawn['edges'][number] => {
        const [upper, lower] = from.y < to.y ? [from, to] : [to, from];
        const x = upper.x + upper.width + 16 + 14 * (k % 2) + 40 * Math.floor(k / 2);
        const [y1, y2] = [upper.y + 8 + 8 * (k % 2), lower.y + 8 + 8 * (k % 2)];
        return {
          edge,
          path: `M${upper.x + upper.width} ${y1}H${x - CHAMFER}L${x} ${y1 + CHAMFER}V${y2 - CHAMFER}L${x - CHAMFER} ${y2}H${lower.x + lower.width}`,
          at: [x + 4, (y1 + y2) / 2 + 12 * (k % 2)],
        };
      }),
    ],
  };
}

/** No two boxes of a column touch, in the order the library found. */
function spread(all: readonly Placed[], column: Record<TopologyNode['kind'], number>): void {
  for (const rank of [0, 1, 2]) {
    const own = all.filter((one) => column[one.node.kind] === rank).sort((a, b) => a.y - b.y);
    const gap = rank === 0 ? 5 : 22;
    own.forEach((one, k) => {
      if (k > 0) one.y = Math.max(one.y, own[k - 1]!.y + HEIGHT + gap);
    });
  }
}

type Line = { edge: TopologyEdge; from: Placed; to: Placed };

/** Lines of one node leave it one below the other, in the order of where they go. */
const fanned = (own: readonly Line[], edge: TopologyEdge, end: Placed): number => {
  const place = own.findIndex((line) => line.edge.id === edge.id);
  const step = Math.min(7, (end.height - 8) / Math.max(1, own.length - 1));
  return end.y + end.height / 2 + (place - (own.length - 1) / 2) * step;
};
const exit = (from: Placed, to: Placed, all: readonly Line[]): number => {
  const own = all.filter((line) => line.from === from && line.edge.kind !== 'isl').sort((a, b) => a.to.y - b.to.y);
  return fanned(own, own.find((line) => line.to === to)!.edge, from);
};
const entry = (to: Placed, from: Placed, all: readonly Line[]): number => {
  const own = all.filter((line) => line.to === to && line.edge.kind !== 'isl').sort((a, b) => a.from.y - b.from.y);
  return fanned(own, own.find((line) => line.from === from)!.edge, to);
};

/** Lines to one hub share a lane, so that each hub has its trunk. */
function laneOf(lines: readonly Line[]): Map<string, number> {
  const hubs = new Map<string, number>();
  const lanes = new Map<string, number>();
  const hubOf = ({ edge, from, to }: Line) => (edge.kind === 'host-port' ? to : from);
  for (const line of [...lines].sort((a, b) => hubOf(a).y - hubOf(b).y)) {
    const key = `${line.edge.kind} ${hubOf(line).node.id}`;
    if (!hubs.has(key)) hubs.set(key, [...hubs.keys()].filter((other) => other.startsWith(line.edge.kind)).length);
    lanes.set(line.edge.id, 13 * hubs.get(key)!);
  }
  return lanes;
}

/** Right, up or down, right again, with cut corners. */
function bent(x1: number, y1: number, x: number, x2: number, y2: number): string {
  const cut = Math.min(CHAMFER, Math.abs(y2 - y1) / 2);
  const way = Math.sign(y2 - y1);
  return cut < 0.5
    ? `M${x1} ${y1}H${x2}`
    : `M${x1} ${y1}H${x - cut}L${x} ${y1 + way * cut}V${y2 - way * cut}L${x + cut} ${y2}H${x2}`;
}
