import type { Pool, RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { groupHealth } from '../raid/health';
import type { Bytes } from '../units/bytes';
import { RESERVE_EXTENTS, RESERVE_SHARE } from './choices';

/** Extents in a group of `usable` bytes; the rest below one extent stays unused. */
export const extentsOf = (usable: Bytes, extentSize: Bytes): number => Math.floor(usable / extentSize);

export const reserveOf = (extents: number): number =>
  Math.min(extents, Math.max(Math.ceil(extents * RESERVE_SHARE), RESERVE_EXTENTS));

export interface PoolUsage {
  /** In extents. */
  capacity: number;
  used: number;
  reserve: number;
  /** What can still be given out: free less the reserve. */
  available: number;
  /** In bytes. */
  size: Bytes;
  usedBytes: Bytes;
  availableBytes: Bytes;
  promised: Bytes;
  /** Left over in the groups below one extent. */
  slack: Bytes;
  groups: { group: RaidGroup; capacity: number; used: number }[];
}

export const groupsOf = (view: EstateView, pool: string): readonly RaidGroup[] =>
  [...view.table('raidGroup').by('pool', pool)].sort((a, b) => (a.id < b.id ? -1 : 1));

/** What a pool holds, in extents and bytes. Reads only the groups and what is counted of them. */
export function poolUsage(view: EstateView, pool: Pool): PoolUsage {
  const groups = groupsOf(view, pool.id).map((group) => ({
    group,
    capacity: extentsOf(group.usable, pool.extentSize),
    used: view.occupancy.used(group.id),
  }));
  const capacity = groups.reduce((sum, group) => sum + group.capacity, 0);
  const used = groups.reduce((sum, group) => sum + group.used, 0);
  const reserve = reserveOf(capacity);
  const available = Math.max(0, capacity - used - reserve);
  return {
    capacity,
    used,
    reserve,
    available,
    size: capacity * pool.extentSize,
    usedBytes: used * pool.extentSize,
    availableBytes: available * pool.extentSize,
    promised: view.occupancy.promised(pool.id),
    slack: groups.reduce((sum, { group, capacity: extents }) => sum + group.usable - extents * pool.extentSize, 0),
    groups,
  };
}

/** Extents that can be given out. */
export const availableExtents = (view: EstateView, pool: Pool): number => poolUsage(view, pool).available;

export type Availability = 'ok' | 'degraded' | 'lost';

/** A pool is as safe as its worst group. */
export function poolState(view: EstateView, pool: string): Availability {
  const states = view
    .table('raidGroup')
    .by('pool', pool)
    .map((group) => groupHealth(view, group).state);
  if (states.includes('lost')) return 'lost';
  return states.includes('degraded') ? 'degraded' : 'ok';
}
