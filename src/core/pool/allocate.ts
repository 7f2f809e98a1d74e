import type { ExtentRun, Pool } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { extentsOf, groupsOf } from './usage';

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
  const byRemainder = [...shares].sort((a, b) =>
    a.remainder === b.remainder ? a.bin - b.bin : a.remainder > b.remainder ? -1 : 1,
  );
  for (const { bin } of byRemainder) {
    if (left === 0) break;
    result[bin]! += 1;
    left -= 1;
  }
  return result;
}

/**
 * Finds room for `wanted` extents of a pool, spread over its groups in proportion to what each has free, first fit inside a group.
 * The caller has made sure that they fit; the reserve may be touched only by asking for it.
 */
export function placeExtents(view: EstateView, pool: Pool, wanted: number): Placement[] {
  const groups = groupsOf(view, pool.id).map((group) => {
    const capacity = extentsOf(group.usable, pool.extentSize);
    return { id: group.id, capacity, free: capacity - view.occupancy.used(group.id) };
  });
  const shares = shareByRoom(
    wanted,
    groups.map((group) => group.free),
  );
  return groups.flatMap((group, k) =>
    view.occupancy.firstFree(group.id, shares[k]!, group.capacity).map((run) => ({ raidGroup: group.id, ...run })),
  );
}
