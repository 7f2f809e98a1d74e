/**
 * What copies of one origin hold, without a list of their versions. Hosts overwrite at random: of the bytes that stand at some moment, e^(−Δ)
 * still stand when Δ = bytes overwritten / working set has passed. So a copy needs two figures only, the bytes it shows and what share of the copy
 * it comes from still stands in it, and every sum over copies follows. Copies, clones, views and the volumes themselves are nodes of a tree: going back to a copy,
 * or cloning it, begins a branch there.
 */
export interface LineageNode {
  id: string;
  /** The node it was cut from, or went back to; null for the first. */
  parent: string | null;
  /** The share of the parent's bytes that still stands here: e^(−Δ) where they were overwritten at random. */
  stands: number;
  /** Bytes it shows. */
  bytes: number;
  /** Whether somebody can still read it; one that is deleted is remembered only while branches part there. */
  kept: boolean;
}

export interface LineageSpace {
  /** Bytes that all kept nodes take together. */
  bytes: number;
  /** By kept node: what only it shows, and what its going would give back. */
  unique: Map<string, number>;
}

interface Branch {
  node: LineageNode;
  parent: Branch | null;
  children: Branch[];
  /** Bytes that it shows and its parent does not. */
  fresh: number;
  /** Of its bytes, the share that still stands from its parent's. */
  survives: number;
  /** How likely one of its bytes is shown by a kept node of its subtree. */
  shown: number;
}

/** @throws Error where a parent is missing: nodes of one lineage come together, parents first. */
function grown(nodes: readonly LineageNode[]): Branch[] {
  const byId = new Map<string, Branch>();
  return nodes.map((node) => {
    const parent = node.parent === null ? null : byId.get(node.parent);
    if (parent === undefined) throw new Error(`${node.id} comes from ${node.parent}, which is not there.`);
    const inherited = parent ? Math.min(node.bytes, parent.node.bytes * node.stands) : 0;
    const survives = inherited > 0 ? inherited / parent!.node.bytes : 0;
    const branch: Branch = { node, parent, children: [], fresh: node.bytes - inherited, survives, shown: 0 };
    parent?.children.push(branch);
    byId.set(node.id, branch);
    return branch;
  });
}

/** How likely a byte of a node is shown by none of these of its children. */
const lostTo = (children: readonly Branch[], but?: Branch): number =>
  children.reduce((lost, child) => (child === but ? lost : lost * (1 - child.survives * child.shown)), 1);

/** What the kept nodes of a lineage take together and each alone; nodes come with their parents first. */
export function lineageSpace(nodes: readonly LineageNode[]): LineageSpace {
  const branches = grown(nodes);
  for (const branch of branches.toReversed()) branch.shown = branch.node.kept ? 1 : 1 - lostTo(branch.children);
  let bytes = 0;
  const unique = new Map<string, number>();
  /** Bytes of a node that nothing outside its subtree shows. */
  const alone = new Map<string, number>();
  for (const branch of branches) {
    const { node, parent, fresh, shown, survives, children } = branch;
    bytes += fresh * shown;
    const remembered = parent && !parent.node.kept;
    const fromAbove = remembered ? alone.get(parent.node.id)! * survives * lostTo(parent.children, branch) : 0;
    alone.set(node.id, fresh + fromAbove);
    if (node.kept) unique.set(node.id, alone.get(node.id)! * lostTo(children));
  }
  return { bytes, unique };
}

/**
 * The lineage without a node: it goes at once where at most one branch goes on from it, and else stays remembered, so that its branches still
 * share what they have of it.
 */
export function withoutNode(nodes: readonly LineageNode[], id: string): LineageNode[] {
  let left = nodes.map((node) => (node.id === id ? { ...node, kept: false } : node));
  for (;;) {
    const idle = left.find((node) => !node.kept && isSpare(node, left));
    if (!idle) return left;
    left = left
      .filter((node) => node !== idle)
      .map((node) =>
        node.parent === idle.id ? { ...node, parent: idle.parent, stands: joinedStand(idle, node) } : node,
      );
  }
}

const isSpare = ({ id }: LineageNode, nodes: readonly LineageNode[]): boolean =>
  nodes.filter((node) => node.parent === id).length <= 1;

/** Without a parent nothing is shared above; else the two stretches follow one another. */
const joinedStand = (gone: LineageNode, child: LineageNode): number =>
  gone.parent === null ? 1 : gone.stands * child.stands;
