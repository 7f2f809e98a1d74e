import fc from 'fast-check';
import { lineageSpace, withoutNode, type LineageNode } from './lineage';
import { snapshotSpace, type Version } from './versions';

/** Nodes with parents before children; at each step so much is overwritten and so many bytes are added. */
const lineage = (most: number) =>
  fc
    .array(
      fc.record({
        from: fc.nat(100),
        stands: fc.double({ min: 0, max: 1, noNaN: true }),
        more: fc.nat(1000),
        kept: fc.boolean(),
      }),
      { minLength: 1, maxLength: most },
    )
    .map((steps) => {
      const nodes: LineageNode[] = [];
      for (const [k, { from, stands, more, kept }] of steps.entries()) {
        const parent = k === 0 ? null : nodes[from % k]!;
        nodes.push({ id: `n${k}`, parent: parent?.id ?? null, stands, bytes: (parent?.bytes ?? 0) + more, kept });
      }
      return nodes;
    });

/** Every way in which a byte born at a node may live on along the edges below it: slow, and without a formula. */
function byEveryWay(nodes: readonly LineageNode[]) {
  const byId = new Map(nodes.map((node) => [node.id, node]));
  const survives = ({ parent, stands }: LineageNode) => (parent === null ? 0 : stands);
  let bytes = 0;
  const unique = new Map(nodes.filter((node) => node.kept).map((node) => [node.id, 0]));
  for (const born of nodes) {
    const fresh = born.bytes - (born.parent === null ? 0 : byId.get(born.parent)!.bytes * survives(born));
    const below = nodes.filter((node) => {
      for (let up = node.parent; up !== null; up = byId.get(up)!.parent) if (up === born.id) return true;
      return false;
    });
    for (let way = 0; way < 2 ** below.length; way++) {
      const lives = new Map(below.map((node, k) => [node.id, (way & (1 << k)) !== 0]));
      const share = below.reduce(
        (product, node) => product * (lives.get(node.id) ? survives(node) : 1 - survives(node)),
        1,
      );
      const showing = new Set([born.id]);
      for (const node of below) if (lives.get(node.id) && showing.has(node.parent!)) showing.add(node.id);
      const kept = [...showing].filter((id) => byId.get(id)!.kept);
      if (kept.length > 0) bytes += fresh * share;
      if (kept.length === 1) unique.set(kept[0]!, unique.get(kept[0]!)! + fresh * share);
    }
  }
  return { bytes, unique };
}

const close = (a: number, b: number) => expect(Math.abs(a - b)).toBeLessThan(1e-6 * (1 + Math.abs(a)));

test('a copy of what was hardly touched costs little', () => {
  const nodes = [
    { id: 'night', parent: null, stands: 1, bytes: 1000, kept: true },
    { id: 'now', parent: 'night', stands: 0.5, bytes: 1000, kept: true },
  ];
  const { bytes, unique } = lineageSpace(nodes);
  close(bytes, 1500);
  close(unique.get('night')!, 500);
  expect(lineageSpace(withoutNode(nodes, 'night')).bytes).toBe(1000);
});

test('trees come out as every way of each byte adds up', () => {
  fc.assert(
    fc.property(lineage(7), (nodes) => {
      const [ours, theirs] = [lineageSpace(nodes), byEveryWay(nodes)];
      close(ours.bytes, theirs.bytes);
      for (const [id, bytes] of theirs.unique) close(ours.unique.get(id)!, bytes);
    }),
  );
});

test('a row of copies comes out as its versions do', () => {
  fc.assert(
    fc.property(
      fc.array(fc.record({ stands: fc.double({ min: 0, max: 1, noNaN: true }), more: fc.nat(500) }), {
        minLength: 2,
        maxLength: 12,
      }),
      fc.integer({ min: 0, max: 4095 }),
      (steps, mask) => {
        let bytes = 0;
        const nodes = steps.map(({ stands, more }, k): LineageNode => {
          bytes += more;
          const live = k === steps.length - 1;
          return {
            id: String(k),
            parent: k === 0 ? null : String(k - 1),
            stands,
            bytes,
            kept: live || (mask & (1 << k)) !== 0,
          };
        });
        const last = nodes.length - 1;
        const versions: Version[] = nodes.flatMap((node, born) => {
          let left = node.bytes - (born === 0 ? 0 : nodes[born - 1]!.bytes * node.stands);
          const dying = nodes.slice(born + 1).map((next, k): Version => {
            const gone = left * (1 - next.stands);
            left -= gone;
            return { born, died: born + 1 + k, bytes: gone };
          });
          return [...dying, { born, died: null, bytes: left }];
        });
        const snapshots = nodes.slice(0, last).flatMap((node, k) => (node.kept ? [k] : []));
        const space = snapshotSpace({ snapshots, versions });
        const ours = lineageSpace(nodes);
        close(ours.bytes, space.usedBytes);
        for (const [epoch, unique] of space.uniqueBytes) close(ours.unique.get(String(epoch))!, unique);
      },
    ),
  );
});

describe('when a node goes', () => {
  test('what it alone showed comes back, and nothing else changes', () => {
    fc.assert(
      fc.property(lineage(9), fc.nat(100), (nodes, which) => {
        const kept = nodes.filter((node) => node.kept);
        if (kept.length === 0) return;
        const going = kept[which % kept.length]!;
        const before = lineageSpace(nodes);
        const left = withoutNode(nodes, going.id);
        const after = lineageSpace(left);
        close(before.bytes - after.bytes, before.unique.get(going.id)!);
        // Only what branches part at is remembered.
        for (const node of left)
          if (!node.kept) expect(left.filter((one) => one.parent === node.id).length).toBeGreaterThan(1);
      }),
    );
  });

  test('in whatever order they go, the last takes all of it back', () => {
    fc.assert(
      fc.property(lineage(9), fc.array(fc.nat(100), { maxLength: 20 }), (nodes, order) => {
        let left: LineageNode[] = nodes;
        for (const which of [...order, ...Array<number>(10).fill(0)]) {
          const kept = left.filter((node) => node.kept);
          if (kept.length > 0) left = withoutNode(left, kept[which % kept.length]!.id);
        }
        expect(left.filter((node) => node.kept)).toEqual([]);
        expect(lineageSpace(left).bytes).toBe(0);
      }),
    );
  });
});
