/** What keeps data from moving back and forth (choices of space.md I). */
export const HYSTERESIS = { delta: 0.25, epsilon: 1, residency: 2, keptFree: 0.02 } as const;

export interface TieredExtent {
  id: string;
  heat: number;
  /** 0 is the fastest. */
  tier: number;
  policy: string;
  /** Epochs since it was moved last; more than the residency where it never was. */
  epochsHere?: number;
  pinned?: boolean;
}

export interface TierMove {
  id: string;
  from: number;
  to: number;
}

/**
 * Moves between two neighbouring tiers, the hottest of the slow one first: into free room where it is at least ε hot, else in exchange with the
 * coldest of the fast one, if hi ≥ (1 + δ)·hj + ε. An exchange is two moves of the budget; bounds of policies hold for both, pinned extents and
 * those moved within the residency stay.
 */
export function exchanges({
  fast,
  extents,
  room,
  most,
  budget = Infinity,
  delta = HYSTERESIS.delta,
  epsilon = HYSTERESIS.epsilon,
  residency = HYSTERESIS.residency,
}: {
  /** The faster of the two tiers; the other is the next. */
  fast: number;
  extents: readonly TieredExtent[];
  /** Extents that are free in the fast tier for this. */
  room: number;
  /** Most extents of a policy in each tier. */
  most: Readonly<Record<string, readonly number[]>>;
  budget?: number;
  delta?: number;
  epsilon?: number;
  residency?: number;
}): TierMove[] {
  const slow = fast + 1;
  const counts = new Map<string, number>();
  const key = (policy: string, tier: number) => `${tier} ${policy}`;
  for (const { policy, tier } of extents) counts.set(key(policy, tier), (counts.get(key(policy, tier)) ?? 0) + 1);
  const has = (policy: string, tier: number) => counts.get(key(policy, tier)) ?? 0;
  const free = (policy: string, tier: number) => has(policy, tier) < (most[policy]?.[tier] ?? Infinity);
  const movable = extents.filter(({ pinned = false, epochsHere = Infinity }) => !pinned && epochsHere >= residency);
  const byId = (a: TieredExtent, b: TieredExtent) => (a.id < b.id ? -1 : 1);
  const rising = movable.filter(({ tier }) => tier === slow).sort((a, b) => b.heat - a.heat || byId(a, b));
  const falling = movable.filter(({ tier }) => tier === fast).sort((a, b) => a.heat - b.heat || byId(a, b));
  const moves: TierMove[] = [];
  const put = (one: TieredExtent, to: number) => {
    counts.set(key(one.policy, one.tier), has(one.policy, one.tier) - 1);
    counts.set(key(one.policy, to), has(one.policy, to) + 1);
    moves.push({ id: one.id, from: one.tier, to });
  };
  let left = room;
  let next = 0;
  for (const hot of rising) {
    if (hot.heat < epsilon) break;
    if (left > 0) {
      if (moves.length + 1 > budget) break;
      if (!free(hot.policy, fast)) continue;
      put(hot, fast);
      left -= 1;
      continue;
    }
    const cold = falling[next];
    if (!cold || moves.length + 2 > budget || hot.heat < (1 + delta) * cold.heat + epsilon) break;
    // Of one policy the exchange leaves the counts alone; else both must have room at the other side.
    if (hot.policy !== cold.policy && !(free(hot.policy, fast) && free(cold.policy, slow))) continue;
    put(cold, slow);
    put(hot, fast);
    next += 1;
  }
  return moves;
}

/** Of extents that moved, the share that moved at least twice within the last epochs; `moved` lists the epochs in which each moved. */
export const thrash = ({
  moved,
  extents,
  now,
  epochs = 3,
}: {
  moved: readonly (readonly number[])[];
  extents: number;
  now: number;
  epochs?: number;
}): number =>
  extents === 0 ? 0 : moved.filter((each) => each.filter((at) => at > now - epochs).length >= 2).length / extents;
