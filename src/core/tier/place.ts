import { byHeat } from './by-heat';
import { feasible, type TierPolicy, type TierRefusal, type TierRoom } from './bounds';

/** Extents to be placed: their heats, and the policy they belong to by its place in `policies`. */
export interface Heats {
  heat: Float64Array | readonly number[];
  policy: Uint16Array | readonly number[];
}

/** What a policy bounds, without how much it has. */
export type Bounds = Pick<TierPolicy, 'percent' | 'least'>;

export type Placement =
  | {
      ok: true;
      /** The tier of each extent, 0 the fastest. */
      tier: Uint8Array;
      /** Σ heat × service. */
      cost: number;
      /** Σ heat·service / Σ heat; without heat null, and the plain mean stands in `plainService`. */
      meanService: number | null;
      plainService: number;
      how: 'greedy' | 'optimal';
    }
  | { ok: false; refusal: TierRefusal };

/**
 * Places extents by heat (space.md I): the hottest first, ties by place, each to the fastest tier with room and bound left after which the rest
 * can still be placed. Optimal for two tiers, and where no bound of a policy binds.
 */
export function placeByHeat({
  tiers,
  policies,
  extents,
}: {
  tiers: readonly TierRoom[];
  policies: Readonly<Record<string, Bounds>>;
  extents: Heats;
}): Placement {
  const names = Object.keys(policies);
  const size = extents.heat.length;
  const counts = new Float64Array(names.length);
  for (let k = 0; k < size; k++) counts[extents.policy[k]!]! += 1;
  const whole = Object.fromEntries(names.map((name, p) => [name, { ...policies[name]!, extents: counts[p]! }]));
  const able = feasible({ tiers, policies: whole });
  if (!able.ok) return able;
  const K = tiers.length;
  const rooms = Float64Array.from(tiers, ({ capacity }) => capacity);
  const left = Float64Array.from(counts);
  const most = names.map((name) => Float64Array.from(able.most[name]!));
  const least = names.map((name) => Float64Array.from(able.least[name]!));
  const fixed = Float64Array.from(least, (one) => one.reduce((sum, held) => sum + held, 0));
  /** What must lie in a set of tiers: kept up to date, so that a question costs 2^K. */
  const sets = 2 ** K;
  const over = (of: (k: number) => number, within: boolean) =>
    Float64Array.from({ length: sets }, (_, set) => {
      let sum = 0;
      for (let k = 0; k < K; k++) if (((set >> k) & 1) === Number(within)) sum += of(k);
      return sum;
    });
  const outside = names.map((_, p) => over((k) => most[p]![k]! - least[p]![k]!, false));
  const held = names.map((_, p) => over((k) => least[p]![k]!, true));
  const need = new Float64Array(sets);
  const room = new Float64Array(sets);
  const needOf = (p: number, set: number) => held[p]![set]! + Math.max(0, left[p]! - fixed[p]! - outside[p]![set]!);
  for (let set = 1; set < sets; set++) {
    for (let k = 0; k < K; k++) if ((set >> k) & 1) room[set]! += rooms[k]!;
    for (let p = 0; p < names.length; p++) need[set]! += needOf(p, set);
  }
  /** By tier: at least so many places were left in every set with it beside what must lie there; and how many were taken since. */
  const spare = new Float64Array(K);
  let since = 0;
  const look = () => {
    since = 0;
    spare.fill(Infinity);
    for (let set = 1; set < sets; set++)
      for (let k = 0; k < K; k++) if ((set >> k) & 1) spare[k] = Math.min(spare[k]!, room[set]! - need[set]!);
  };
  /** Whether one more extent of `p` in tier `k` leaves the rest placeable. */
  const fits = (p: number, k: number): boolean => {
    const owed = least[p]![k]! > 0 ? 1 : 0;
    const rest = left[p]! - 1 - (fixed[p]! - owed);
    if (rest < 0) return false;
    // One extent never takes more than one place of a set.
    if (spare[k]! - since >= 1) return true;
    for (let set = 1; set < sets; set++) {
      const inside = (set >> k) & 1;
      const after =
        held[p]![set]! - (inside & owed) + Math.max(0, rest - (outside[p]![set]! - (inside || owed ? 0 : 1)));
      if (need[set]! - needOf(p, set) + after > room[set]! - inside) return false;
    }
    return true;
  };
  const take = (p: number, k: number) => {
    const owed = least[p]![k]! > 0 ? 1 : 0;
    since += 1;
    for (let set = 1; set < sets; set++) {
      need[set]! -= needOf(p, set);
      const inside = (set >> k) & 1;
      if (inside) held[p]![set]! -= owed;
      else if (!owed) outside[p]![set]! -= 1;
      room[set]! -= inside;
    }
    left[p]! -= 1;
    fixed[p]! -= owed;
    least[p]![k]! -= owed;
    rooms[k]! -= 1;
    most[p]![k]! -= 1;
    for (let set = 1; set < sets; set++) need[set]! += needOf(p, set);
  };
  /** What lies in tiers already and is not in the sums of the sets yet, by policy and tier. */
  const taken = new Float64Array(names.length * K);
  let open = false;
  const settle = () => {
    if (!open) return;
    open = false;
    taken.forEach((count, at) => {
      if (count === 0) return;
      const [p, k] = [Math.floor(at / K), at % K];
      for (let set = 1; set < sets; set++)
        if ((set >> k) & 1) room[set]! -= count;
        else outside[p]![set]! -= count;
    });
    taken.fill(0);
    for (let set = 1; set < sets; set++) need[set] = names.reduce((sum, _, p) => sum + needOf(p, set), 0);
  };
  /** Where the next of a policy goes as long as there is room and bound; -1 where every one has to be looked at. */
  const usual = new Int8Array(names.length).fill(-1);
  const tier = new Uint8Array(size);
  let bound = false;
  for (const e of byHeat(extents.heat)) {
    const p = extents.policy[e]!;
    const known = usual[p]!;
    if (known >= 0 && spare[known]! - since >= 1 && rooms[known]! > 0 && most[p]![known]! > 0) {
      rooms[known]! -= 1;
      most[p]![known]! -= 1;
      left[p]! -= 1;
      taken[p * K + known]! += 1;
      open = true;
      since += 1;
      tier[e] = known;
      continue;
    }
    settle();
    look();
    let k = 0;
    let refused = false;
    for (; k < K; k++) {
      if (rooms[k]! <= 0) continue;
      if (most[p]![k]! > 0 && fits(p, k)) break;
      if (most[p]![k]! > 0) refused = true;
      bound = true;
    }
    // What was full or forbidden stays so; what was kept for others may come free.
    usual[p] = refused || fixed[p]! > 0 ? -1 : k;
    take(p, k);
    tier[e] = k;
  }
  return placedAs(tier, tiers, extents, K <= 2 || !bound || names.length <= 1 ? 'optimal' : 'greedy');
}

/** What a placement comes to. */
export function placedAs(
  tier: Uint8Array,
  tiers: readonly TierRoom[],
  { heat }: Heats,
  how: 'greedy' | 'optimal',
): Extract<Placement, { ok: true }> {
  let [cost, all, services] = [0, 0, 0];
  for (let e = 0; e < tier.length; e++) {
    const { service } = tiers[tier[e]!]!;
    cost += heat[e]! * service;
    all += heat[e]!;
    services += service;
  }
  return {
    ok: true,
    tier,
    cost,
    meanService: all === 0 ? null : cost / all,
    plainService: tier.length === 0 ? 0 : services / tier.length,
    how,
  };
}
