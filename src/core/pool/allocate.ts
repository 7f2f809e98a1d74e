import type { ExtentRun, MediaClass, Pool } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { mediaFigures } from '../raid/media';
import { poolUsage, tiersOf, type GroupUsage, type PoolUsage } from './usage';

/** Where new extents come to lie. */
export type Placement = Pick<ExtentRun, 'raidGroup' | 'start' | 'count'>;

/**
 * Shares `wanted` units over bins in proportion to their free room, by largest remainder: each bin gets ⌊wanted·free/Σfree⌋, what is left
 * goes one by one to the largest remainders, ties to the earlier bin. Never more than a bin has; `wanted` ≤ Σfree.
 */
export function shareByRoom(wanted: number, free: readonly number[]): number[] {
  const total = free.reduce((sum, room) => sum + BigInt(room), 0n);
  if (total === 0n) return free.map(() => 0);
  const shares = free.map((room, bin) => {
    const product = BigInt(wanted) * BigInt(room);
    return { bin, whole: Number(product / total), remainder: product % total };
  });
  let left = wanted - shares.reduce((sum, share) => sum + share.whole, 0);
  const result = shares.map((share) => share.whole);
  const byRemainder = [...shares].sort(
    (a, b) => Number(b.remainder > a.remainder) - Number(a.remainder > b.remainder) || a.bin - b.bin,
  );
  for (const { bin } of byRemainder) {
    if (left === 0) break;
    result[bin]! += 1;
    left -= 1;
  }
  return result;
}

/** Tiers in the order in which they are filled: the one to start with, then slower ones, then faster ones from the nearest; those of `last` at the end. */
function tierOrder(usage: PoolUsage, start: MediaClass | null, last: ReadonlySet<MediaClass>): GroupUsage[][] {
  if (usage.groups.length === 1) return [usage.groups];
  const tiers = tiersOf(usage);
  const rank = start === null ? -1 : mediaFigures[start].rank;
  const slower = tiers.filter((tier) => mediaFigures[tier.media].rank >= rank);
  const faster = tiers.filter((tier) => mediaFigures[tier.media].rank < rank).reverse();
  const order = [...slower, ...faster];
  return [...order.filter(({ media }) => !last.has(media)), ...order.filter(({ media }) => last.has(media))].map(
    (tier) => tier.groups,
  );
}

/** Room without a pool is given out in whole runs: the first that is long enough, else whatever there is, from the longest on. */
function placeRun(view: EstateView, pool: Pool, wanted: number, avoid: ReadonlySet<string>): Placement[] {
  const [one] = poolUsage(view, pool).groups;
  if (!one || avoid.has(one.group.id) || one.group.draining) return [];
  const runs = view.occupancy.firstFree(one.group.id, one.capacity, one.capacity);
  const whole = runs.find((run) => run.count >= wanted);
  if (whole) return [{ raidGroup: one.group.id, start: whole.start, count: wanted }];
  let left = wanted;
  return [...runs]
    .sort((a, b) => b.count - a.count || a.start - b.start)
    .flatMap((run) => {
      const count = Math.min(left, run.count);
      left -= count;
      return count > 0 ? [{ raidGroup: one.group.id, start: run.start, count }] : [];
    });
}

/** The longest run of free extents of a RAID group from which volumes are carved straight. */
export function longestRun(view: EstateView, raidGroup: string, capacity: number): number {
  return Math.max(0, ...view.occupancy.firstFree(raidGroup, capacity, capacity).map((run) => run.count));
}

/**
 * Finds room for `wanted` extents of a pool: in the tier to start with, spread over its groups in proportion to what each has free, first fit
 * inside a group; what does not fit there spills to the next slower tier, then to faster ones, and at last to classes that it should not lie on.
 * Groups in `avoid` are left out. Gives fewer where there is no more room; the reserve may be touched only by asking for it.
 */
export function placeExtents(
  view: EstateView,
  pool: Pool,
  wanted: number,
  start: MediaClass | null = null,
  avoid: ReadonlySet<string> = new Set(),
  last: ReadonlySet<MediaClass> = new Set(),
): Placement[] {
  if (pool.direct) return placeRun(view, pool, wanted, avoid);
  const found: Placement[] = [];
  let left = wanted;
  for (const tier of tierOrder(poolUsage(view, pool), start, last)) {
    if (left === 0) break;
    const groups = tier.filter((one) => !avoid.has(one.group.id));
    const free = groups.map((one) => one.free);
    const here = Math.min(
      left,
      free.reduce((sum, room) => sum + room, 0),
    );
    shareByRoom(here, free).forEach((share, k) => {
      const { group, capacity } = groups[k]!;
      for (const run of view.occupancy.firstFree(group.id, share, capacity))
        found.push({ raidGroup: group.id, ...run });
    });
    left -= here;
  }
  return found;
}
