import { feasible, type TierRoom } from './bounds';
import { byHeat } from './by-heat';
import { placeByHeat, placedAs, type Bounds, type Heats, type Placement } from './place';

/** Differences of cost below this share of the whole are rounding. */
const ROUNDING = 1e-12;
/** Cycles after which it is left as good as it is, and called greedy. */
const MOST_CYCLES = 20_000;

/**
 * Places extents at the least cost Σ heat × service that rooms and bounds allow (space.md I): greedy first, then exchanges along negative cycles
 * of the graph whose nodes are the tiers and what each policy has in them, until there is none (minimum cost flow). Within one policy hotter is
 * never slower, so the counts of each policy in each tier say all. 'greedy' where it gave up.
 */
export function placeAtLeastCost(asked: {
  tiers: readonly TierRoom[];
  policies: Readonly<Record<string, Bounds>>;
  extents: Heats;
}): Placement {
  const greedy = placeByHeat(asked);
  return greedy.ok && greedy.how === 'greedy' ? repaired(asked, greedy) : greedy;
}

function repaired(
  { tiers, policies, extents }: Parameters<typeof placeAtLeastCost>[0],
  greedy: Extract<Placement, { ok: true }>,
): Placement {
  const names = Object.keys(policies);
  const [P, K] = [names.length, tiers.length];
  const order = byHeat(extents.heat);
  const sorted = names.map((): number[] => []);
  for (const e of order) sorted[extents.policy[e]!]!.push(e);
  /** Sums of the hottest n of each policy. */
  const sums = sorted.map((own) => {
    const sum = new Float64Array(own.length + 1);
    own.forEach((e, n) => (sum[n + 1] = sum[n]! + extents.heat[e]!));
    return sum;
  });
  const counts = names.map(() => new Array<number>(K).fill(0));
  greedy.tier.forEach((k, e) => (counts[extents.policy[e]!]![k]! += 1));
  const able = feasible({
    tiers,
    policies: Object.fromEntries(names.map((name, p) => [name, { ...policies[name]!, extents: sorted[p]!.length }])),
  });
  if (!able.ok) return able;
  const most = names.map((name) => able.most[name]!);
  const least = names.map((name) => able.least[name]!);
  const used = tiers.map((_, k) => counts.reduce((sum, own) => sum + own[k]!, 0));
  const costOf = (p: number, own: readonly number[]): number => {
    let [cost, from] = [0, 0];
    for (let k = 0; k < K; k++) {
      cost += tiers[k]!.service * (sums[p]![from + own[k]!]! - sums[p]![from]!);
      from += own[k]!;
    }
    return cost;
  };
  const whole = Math.max(
    1,
    counts.reduce((sum, own, p) => sum + Math.abs(costOf(p, own)), 0),
  );
  const gain = whole * ROUNDING;
  let how: 'greedy' | 'optimal' = 'greedy';
  for (let round = 0; round < MOST_CYCLES; round++) {
    const cycle = negativeCycle(arcs(), P * K + K + 1, gain);
    if (!cycle) {
      how = 'optimal';
      break;
    }
    const step = counts.map(() => new Array<number>(K).fill(0));
    for (const { p, from, to } of cycle) {
      step[p]![from]! -= 1;
      step[p]![to]! += 1;
    }
    const times = lastGain(step);
    if (times === 0) break;
    step.forEach((own, p) =>
      own.forEach((by, k) => {
        counts[p]![k]! += by * times;
        used[k]! += by * times;
      }),
    );
  }
  const tier = new Uint8Array(greedy.tier.length);
  sorted.forEach((own, p) => {
    let at = 0;
    counts[p]!.forEach((count, k) => {
      for (const end = at + count; at < end; at++) tier[own[at]!] = k;
    });
  });
  return placedAs(tier, tiers, extents, how);

  /** Nodes: what policy p has in tier k is p·K + k; tier k is P·K + k; the last takes what tiers have free. */
  function arcs(): Arc[] {
    const all: Arc[] = [];
    const free = P * K + K;
    for (let p = 0; p < P; p++) {
      let at = 0;
      for (let k = 0; k < K; k++) {
        const here = counts[p]![k]!;
        const node = p * K + k;
        if (here > 0) {
          const hottest = extents.heat[sorted[p]![at]!]!;
          const coldest = extents.heat[sorted[p]![at + here - 1]!]!;
          for (let to = 0; to < K; to++)
            if (to !== k)
              all.push({
                from: node,
                to: p * K + to,
                cost: (to < k ? hottest : coldest) * (tiers[to]!.service - tiers[k]!.service),
                move: { p, from: k, to },
              });
        }
        if (here < most[p]![k]!) all.push({ from: node, to: P * K + k, cost: 0, move: null });
        if (here > least[p]![k]!) all.push({ from: P * K + k, to: node, cost: 0, move: null });
        at += here;
      }
    }
    for (let k = 0; k < K; k++) {
      if (used[k]! < tiers[k]!.capacity) all.push({ from: P * K + k, to: free, cost: 0, move: null });
      if (used[k]! > 0) all.push({ from: free, to: P * K + k, cost: 0, move: null });
    }
    return all;
  }

  /** How many times a step can be taken with each time gaining; the cost is convex along it. */
  function lastGain(step: readonly (readonly number[])[]): number {
    let limit = Infinity;
    for (let k = 0; k < K; k++) {
      let all = 0;
      for (let p = 0; p < P; p++) {
        const by = step[p]![k]!;
        all += by;
        if (by < 0) limit = Math.min(limit, Math.floor((counts[p]![k]! - least[p]![k]!) / -by));
        if (by > 0) limit = Math.min(limit, Math.floor((most[p]![k]! - counts[p]![k]!) / by));
      }
      if (all > 0) limit = Math.min(limit, Math.floor((tiers[k]!.capacity - used[k]!) / all));
    }
    const costAt = (times: number) =>
      counts.reduce(
        (sum, own, p) =>
          step[p]!.every((by) => by === 0)
            ? sum
            : sum +
              costOf(
                p,
                own.map((count, k) => count + step[p]![k]! * times),
              ),
        0,
      );
    const gains = (times: number) => costAt(times) < costAt(times - 1) - gain / 2;
    if (!Number.isFinite(limit) || limit < 1 || !gains(1)) return 0;
    let [low, high] = [1, limit];
    while (low < high) {
      const middle = Math.ceil((low + high) / 2);
      if (gains(middle)) low = middle;
      else high = middle - 1;
    }
    return low;
  }
}

interface Arc {
  from: number;
  to: number;
  cost: number;
  move: { p: number; from: number; to: number } | null;
}

/** The moves along a cycle whose cost is below zero, or null (Bellman–Ford). */
function negativeCycle(arcs: readonly Arc[], nodes: number, gain: number): NonNullable<Arc['move']>[] | null {
  const distance = new Float64Array(nodes);
  const by = new Array<Arc | null>(nodes).fill(null);
  let last = -1;
  for (let round = 0; round < nodes; round++) {
    last = -1;
    for (const arc of arcs)
      if (distance[arc.from]! + arc.cost < distance[arc.to]! - gain) {
        distance[arc.to] = distance[arc.from]! + arc.cost;
        by[arc.to] = arc;
        last = arc.to;
      }
    if (last < 0) return null;
  }
  for (let k = 0; k < nodes; k++) last = by[last]!.from;
  const moves: NonNullable<Arc['move']>[] = [];
  let node = last;
  do {
    const arc = by[node]!;
    if (arc.move) moves.push(arc.move);
    node = arc.from;
  } while (node !== last);
  return moves;
}
