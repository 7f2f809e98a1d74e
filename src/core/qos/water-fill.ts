import { bisected } from '../units/bisect';

export interface Claim {
  id: string;
  weight: number;
  floor?: number;
  limit?: number;
  demand?: number;
  group?: string;
}

export type FillRefusal = { code: 'qos-weight-not-positive' | 'qos-floor-above-limit'; message: string; id: string };

export type Filled =
  | { ok: true; alloc: Record<string, number>; theta: number | null; floorsFit: boolean }
  | { ok: false; refusal: FillRefusal };

interface End {
  id: string;
  weight: number;
  low: number;
  high: number;
  group: string | null;
}

const SLACK = 1e-12;
const given = (one: End, theta: number) => Math.min(one.high, Math.max(one.low, one.weight * theta));

/** θ with Σ clamp(w·θ, low, high) = `sum`, or ∞ where all reach their ends first. The sum rises in straight pieces between the ends. */
function level(items: readonly End[], sum: number, most: (one: End) => number = () => Infinity): number {
  const at = (theta: number) => items.reduce((all, one) => all + given(one, Math.min(theta, most(one))), 0);
  const tops = items.map((one) => Math.min(most(one), one.high / one.weight)).filter((top) => top < Infinity);
  const highest = tops.length === items.length ? Math.max(0, ...tops) : Infinity;
  if (highest < Infinity && at(highest) <= sum * (1 + SLACK)) return Infinity;
  let high = 1;
  while (at(high) < sum) high *= 2;
  const found = bisected((theta) => at(theta) - sum, 0, high);
  // The piece it lies on is straight: solved there, the answer keeps its last digits.
  const free = items.filter(
    (one) => found < most(one) && one.weight * found > one.low && one.weight * found < one.high,
  );
  const weight = free.reduce((all, one) => all + one.weight, 0);
  if (weight === 0) return found;
  const fixed = items.reduce((all, one) => all + (free.includes(one) ? 0 : given(one, Math.min(found, most(one)))), 0);
  const exact = (sum - fixed) / weight;
  return Math.abs(exact - found) <= 1e-9 * Math.max(1, found) ? exact : found;
}

/**
 * Shares of a capacity by weight, within floors and limits, groups under limits of their own (load.md I): x = clamp(w·min(θ, θg), f, c), with
 * θg where the group's limit is reached and θ where the capacity is. Floors that do not fit are scaled down in proportion (`floorsFit` false).
 */
export function waterFill({
  capacity,
  items,
  groups = {},
}: {
  capacity: number;
  items: readonly Claim[];
  groups?: Readonly<Record<string, number>>;
}): Filled {
  const ends: End[] = [];
  for (const { id, weight, floor = 0, limit = Infinity, demand = Infinity, group } of items) {
    if (!(weight > 0))
      return {
        ok: false,
        refusal: { code: 'qos-weight-not-positive', id, message: `The weight of ${id} must be above 0.` },
      };
    if (floor > limit)
      return {
        ok: false,
        refusal: {
          code: 'qos-floor-above-limit',
          id,
          message: `${id} has a floor of ${floor} but is limited to ${limit}.`,
        },
      };
    const high = Math.min(limit, demand);
    ends.push({ id, weight, low: Math.min(floor, high), high, group: group ?? null });
  }
  let floorsFit = true;
  const scaled = (some: readonly End[], room: number) => {
    const floors = some.reduce((sum, one) => sum + one.low, 0);
    if (floors <= room * (1 + SLACK)) return;
    floorsFit = false;
    for (const one of some) one.low *= room / floors;
  };
  const most = new Map<string, number>();
  for (const [name, limit] of Object.entries(groups))
    scaled(
      ends.filter((one) => one.group === name),
      limit,
    );
  scaled(ends, capacity);
  for (const [name, limit] of Object.entries(groups)) {
    const members = ends.filter((one) => one.group === name);
    if (members.length > 0) most.set(name, level(members, limit));
  }
  const upTo = (one: End) => (one.group === null ? Infinity : (most.get(one.group) ?? Infinity));
  const theta = level(ends, capacity, upTo);
  return {
    ok: true,
    alloc: Object.fromEntries(ends.map((one) => [one.id, given(one, Math.min(theta, upTo(one)))])),
    theta: theta === Infinity ? null : theta,
    floorsFit,
  };
}
