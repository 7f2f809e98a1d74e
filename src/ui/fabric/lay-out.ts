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
  /** Whether boxes have room for details. */
  wide: boolean;
  nodes: Placed[];
  /** `turned`: its name is written along it, upwards. */
  edges: { edge: TopologyEdge; path: string; at: [number, number]; turned?: true }[];
}

/** Beside a sheet there is less room: boxes then hold the name, and a note only where something is the matter. */
const WIDE = { host: 168, hosts: 190, switch: 190, network: 214, array: 130 } as const;
const NARROW = { host: 146, hosts: 146, switch: 122, network: 122, array: 84 } as const;
const WIDE_FROM = 820;
const LEAST_BETWEEN = 138;
const LEAST_HEIGHT = 27;
/** An array's model stands below its name, where there is room for it. */
const LEAST_OF_ARRAY = 42;
/** Between the lines of one box, so that each has room for its name. */
const STEP = 13;
const CHAMFER = 4;
/** Beside the arrays, for links between sites and their names. */
const LINE_ROOM = 116;
/** The same where names are written along the lines. */
const LINE_ROOM_NARROW = 44;
const LANE = { wide: 12, narrow: 18 } as const;

/** Lines within a column push nothing apart: they are drawn beside it. */
const isBeside = ({ kind }: TopologyEdge): boolean => kind === 'isl' || kind === 'line';

/**
 * Hosts at the left, switches and networks in the middle, arrays at the right: ranks and order come from the layout library, lines run
 * at right angles in lanes. Links between switches do not push them apart: they are drawn beside their column.
 */
export function layOut({ nodes, edges }: Topology, room: number): Drawn {
  const widths = room < WIDE_FROM ? NARROW : WIDE;
  const wide = widths === WIDE;
  const lineRoom = wide ? LINE_ROOM : LINE_ROOM_NARROW;
  const beside = edges.some(({ kind }) => kind === 'line') ? lineRoom : 0;
  const between = Math.max(
    LEAST_BETWEEN,
    Math.min(300, (room - widths.host - Math.max(widths.switch, widths.network) - widths.array - beside - 16) / 2),
  );
  const graph = new Graph<GraphLabel, NodeLabel>({ multigraph: true });
  const at = (id: string) => graph.node(id) as { x: number; y: number };
  graph.setGraph({ rankdir: 'LR', nodesep: 9, ranksep: between, marginx: 4, marginy: 8 });
  graph.setDefaultEdgeLabel(() => ({}));
  const lines = new Map<string, number>();
  for (const edge of edges) {
    if (isBeside(edge)) continue;
    // Boxes grow with the lines at the side where they are named.
    const named = edge.kind === 'host-port' ? edge.from : edge.to;
    lines.set(named, (lines.get(named) ?? 0) + 1);
  }
  const heightOf = ({ id, kind }: TopologyNode) =>
    Math.max(wide && kind === 'array' ? LEAST_OF_ARRAY : LEAST_HEIGHT, 6 + STEP * (lines.get(id) ?? 0));
  for (const node of nodes) graph.setNode(node.id, { width: widths[node.kind], height: heightOf(node) });
  for (const edge of edges) if (!isBeside(edge)) graph.setEdge(edge.from, edge.to, { weight: edge.count }, edge.id);
  layout(graph);
  const column = { host: 0, hosts: 0, switch: 1, network: 1, array: 2 } as const;
  // What nothing hangs on stands in its own column all the same.
  const middles = [0, 1, 2].map((rank) => {
    const own = nodes.filter((node) => column[node.kind] === rank && graph.nodeEdges(node.id)?.length);
    return own.length > 0 ? Math.max(...own.map((node) => at(node.id).x)) : rank * (between + widths.switch) + 80;
  });
  const placed = new Map<string, Placed>();
  for (const node of nodes) {
    placed.set(node.id, {
      node,
      x: middles[column[node.kind]]! - widths[node.kind] / 2,
      y: at(node.id).y - heightOf(node) / 2,
      width: widths[node.kind],
      height: heightOf(node),
    });
  }
  spread([...placed.values()], column);
  const drawn = edges.map((edge) => ({ edge, from: placed.get(edge.from)!, to: placed.get(edge.to)! }));
  const lanes = laneOf(drawn.filter(({ edge }) => !isBeside(edge)));
  const links = drawn.filter(({ edge }) => edge.kind === 'isl');
  return {
    width: Math.max(...[...placed.values()].map((one) => one.x + one.width)) + 6 + beside,
    height: Math.max(...[...placed.values()].map((one) => one.y + one.height)) + 8,
    wide,
    nodes: [...placed.values()],
    edges: [
      ...drawn
        .filter(({ edge }) => !isBeside(edge))
        .map(({ edge, from, to }): Drawn['edges'][number] => {
          const [x1, x2] = [from.x + from.width, to.x];
          const [y1, y2] = [exit(from, to, drawn), entry(to, from, drawn)];
          const lane = lanes.get(edge.id)!;
          const x = edge.kind === 'host-port' ? x1 + 46 + lane : x2 - 64 - lane;
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
          at: [x + 4, y1 + 24 + 12 * (k % 2)],
        };
      }),
      ...drawn.filter(({ edge }) => edge.kind === 'line').map((line, k, all) => lineBeside(line, k, all.length, wide)),
    ],
  };
}

/** A link between sites, at the right of the arrays at its ends. */
function lineBeside({ edge, from, to }: Line, k: number, count: number, wide: boolean): Drawn['edges'][number] {
  const [upper, lower] = from.y < to.y ? [from, to] : [to, from];
  const right = upper.x + upper.width;
  const x = right + 14 + (wide ? LANE.wide : LANE.narrow) * k;
  const [y1, y2] = [upper.y + upper.height / 2 + 6 * k, lower.y + lower.height / 2 + 6 * k];
  const path = `M${right} ${y1}H${x - CHAMFER}L${x} ${y1 + CHAMFER}V${y2 - CHAMFER}L${x - CHAMFER} ${y2}H${lower.x + lower.width}`;
  if (!wide) return { edge, path, at: [x - 4, (y1 + y2) / 2 + 28], turned: true };
  // Their names stand beyond all of them, the inmost first.
  return { edge, path, at: [right + LANE.wide * count + 8, (y1 + y2) / 2 + 14 * k] };
}

/** Columns are drawn together as far as their boxes allow, in the order the library found. */
function spread(all: readonly Placed[], column: Record<TopologyNode['kind'], number>): void {
  const own = (rank: number) => all.filter((one) => column[one.node.kind] === rank).sort((a, b) => a.y - b.y);
  const gaps = [6, 12, 26];
  const tall = (rank: number) => own(rank).reduce((sum, one) => sum + one.height + gaps[rank]!, 0);
  const whole = Math.max(...all.map((one) => one.y + one.height));
  const scale = Math.min(1, Math.max(...[0, 1, 2].map(tall)) / whole);
  for (const rank of [0, 1, 2]) {
    let floor = 8;
    for (const one of own(rank)) {
      one.y = Math.max(one.y * scale, floor);
      floor = one.y + one.height + gaps[rank]!;
    }
  }
}

type Line = { edge: TopologyEdge; from: Placed; to: Placed };

/** Lines of one node leave it one below the other, in the order of where they go. */
const fanned = (own: readonly Line[], edge: TopologyEdge, end: Placed): number => {
  const place = own.findIndex((line) => line.edge.id === edge.id);
  const step = Math.min(STEP, (end.height - 8) / Math.max(1, own.length - 1));
  return end.y + end.height / 2 + (place - (own.length - 1) / 2) * step;
};
const exit = (from: Placed, to: Placed, all: readonly Line[]): number => {
  const own = all.filter((line) => line.from === from && !isBeside(line.edge)).sort((a, b) => a.to.y - b.to.y);
  return fanned(own, own.find((line) => line.to === to)!.edge, from);
};
const entry = (to: Placed, from: Placed, all: readonly Line[]): number => {
  const own = all.filter((line) => line.to === to && !isBeside(line.edge)).sort((a, b) => a.from.y - b.from.y);
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
    lanes.set(line.edge.id, 9 * hubs.get(key)!);
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
