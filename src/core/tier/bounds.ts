/** A tier, from the fastest: room in extents, and how long it takes to serve one access (ms, or any one unit). */
export interface TierRoom {
  capacity: number;
  service: number;
}

/** What may lie where: extents that share bounds, and the most per cent of them in each tier. */
export interface TierPolicy {
  extents: number;
  percent: readonly number[];
  /** The least per cent in each tier; none unless said. */
  least?: readonly number[];
}

export type TierRefusal =
  | { code: 'bound-out-of-range'; policy: string; message: string }
  | { code: 'bounds-below-100'; policy: string; message: string }
  | { code: 'bounds-cross'; policy: string; tier: number; message: string }
  | { code: 'bounds-above-100'; policy: string; message: string }
  | { code: 'tiers-too-small'; tiers: number[]; excess: number; message: string };

const wrongPercent = (one: number): boolean => !Number.isInteger(one) || one < 0 || one > 100;

/** Most and least extents of a policy in each tier, or why its bounds cannot be met. What is left by rounding goes to the slowest it may use. */
export function boundsOf(
  id: string,
  { extents, percent, least = [] }: TierPolicy,
): { ok: true; most: number[]; least: number[] } | { ok: false; refusal: TierRefusal } {
  const refuse = <R extends TierRefusal>(refusal: R) => ({ ok: false as const, refusal });
  const wrong = [...percent, ...least].find(wrongPercent);
  if (wrong !== undefined)
    return refuse({
      code: 'bound-out-of-range',
      policy: id,
      message: `${id} sets a bound of ${wrong} %; whole per cents from 0 to 100 can be set.`,
    });
  const sum = percent.reduce((all, one) => all + one, 0);
  if (sum < 100)
    return refuse({
      code: 'bounds-below-100',
      policy: id,
      message: `${id} lets ${sum} % be placed in all; some of it would lie nowhere.`,
    });
  const crossed = percent.findIndex((one, k) => (least[k] ?? 0) > one);
  if (crossed >= 0)
    return refuse({
      code: 'bounds-cross',
      policy: id,
      tier: crossed,
      message: `${id} wants at least ${least[crossed]} % where it lets at most ${percent[crossed]} % be placed.`,
    });
  const wanted = least.reduce((all, one) => all + one, 0);
  if (wanted > 100)
    return refuse({
      code: 'bounds-above-100',
      policy: id,
      message: `${id} wants at least ${wanted} % placed in all; there is 100 %.`,
    });
  const most = percent.map((one) => Math.floor((one * extents) / 100));
  const lack = extents - most.reduce((all, one) => all + one, 0);
  const slowest = percent.findLastIndex((one) => one > 0);
  if (lack > 0) most[slowest]! += lack;
  return { ok: true, most, least: percent.map((_, k) => Math.floor(((least[k] ?? 0) * extents) / 100)) };
}

/**
 * The tiers that lack most room, and how much, or null where everything fits: for every subset X of tiers
 * Σ_p max(0, N_p − Σ_{k∉X} b_{p,k}) ≤ Σ_{k∈X} C_k (Gale; space.md I). What must lie in a tier at least is taken off first.
 */
export function tightest(
  rooms: readonly number[],
  policies: readonly { extents: number; most: readonly number[]; least?: readonly number[] }[],
): { tiers: number[]; excess: number } | null {
  let worst: { tiers: number[]; excess: number } | null = null;
  for (let set = 1; set < 2 ** rooms.length; set++) {
    let excess = 0;
    for (const { extents, most, least = [] } of policies) {
      let [bound, fixed, elsewhere] = [0, 0, 0];
      for (let k = 0; k < rooms.length; k++) {
        const held = least[k] ?? 0;
        fixed += held;
        if ((set >> k) & 1) bound += held;
        else elsewhere += most[k]! - held;
      }
      excess += bound + Math.max(0, extents - fixed - elsewhere);
    }
    for (let k = 0; k < rooms.length; k++) if ((set >> k) & 1) excess -= rooms[k]!;
    if (excess > 0 && (worst === null || excess > worst.excess))
      worst = { tiers: rooms.flatMap((_, k) => ((set >> k) & 1 ? [k] : [])), excess };
  }
  return worst;
}

/** Whether policies can be placed at all, with what they may have where. */
export function feasible({
  tiers,
  policies,
}: {
  tiers: readonly TierRoom[];
  policies: Readonly<Record<string, TierPolicy>>;
}):
  { ok: true; most: Record<string, number[]>; least: Record<string, number[]> } | { ok: false; refusal: TierRefusal } {
  const most: Record<string, number[]> = {};
  const least: Record<string, number[]> = {};
  for (const [id, policy] of Object.entries(policies)) {
    const bounds = boundsOf(id, policy);
    if (!bounds.ok) return bounds;
    most[id] = bounds.most;
    least[id] = bounds.least;
  }
  const short = tightest(
    tiers.map(({ capacity }) => capacity),
    Object.entries(policies).map(([id, { extents }]) => ({ extents, most: most[id]!, least: least[id]! })),
  );
  if (!short) return { ok: true, most, least };
  const names = short.tiers.map((k) => k + 1).join(' and ');
  return {
    ok: false,
    refusal: {
      code: 'tiers-too-small',
      ...short,
      message: `What must lie in tier ${names} is ${short.excess} extents more than there is room for.`,
    },
  };
}
