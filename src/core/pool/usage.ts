import type { MediaClass, Pool, RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { groupHealth } from '../raid/health';
import { mediaFigures } from '../raid/media';
import type { Bytes } from '../units/bytes';
import { keptForCopies } from './kept';
import { RESERVE_EXTENTS, RESERVE_PERCENT } from './choices';

/** Extents in a group of `usable` bytes; the rest below one extent stays unused. */
export const extentsOf = (usable: Bytes, extentSize: Bytes): number => Math.floor(usable / extentSize);

export const reserveOf = (extents: number, percent = RESERVE_PERCENT): number =>
  Math.min(extents, Math.max(Math.ceil((extents * percent) / 100), RESERVE_EXTENTS));

export interface GroupUsage {
  group: RaidGroup;
  media: MediaClass;
  /** In extents. A group that is being emptied has nothing free to give. */
  capacity: number;
  used: number;
  free: number;
}

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
  reserveBytes: Bytes;
  availableBytes: Bytes;
  promised: Bytes;
  /** Left over in the groups below one extent. */
  slack: Bytes;
  groups: GroupUsage[];
}

export const groupsOf = (view: EstateView, pool: string): readonly RaidGroup[] =>
  [...view.table('raidGroup').by('pool', pool)].sort((a, b) => (a.id < b.id ? -1 : 1));

/** The class a group runs at. */
export function mediaOf(view: EstateView, group: RaidGroup): MediaClass {
  const drives = view.table('drive');
  let slowest: MediaClass = 'ssd-nvme';
  for (const id of group.drives) {
    const media = drives.get(id)?.media;
    if (media !== undefined && mediaFigures[media].rank > mediaFigures[slowest].rank) slowest = media;
  }
  return slowest;
}

/** What a pool of so many extents keeps back. */
const reserveIn = (view: EstateView, pool: Pool, capacity: number): number =>
  pool.direct ? 0 : reserveOf(capacity, pool.reserve) + keptForCopies(view, pool.id, capacity);

/** What a pool holds, in extents and bytes. Reads only the groups and what is counted of them. */
export function poolUsage(view: EstateView, pool: Pool): PoolUsage {
  const groups = groupsOf(view, pool.id).map((group): GroupUsage => {
    const capacity = extentsOf(group.usable, pool.extentSize);
    const used = view.occupancy.used(group.id);
    return {
      group,
      get media() {
        return mediaOf(view, group);
      },
      capacity,
      used,
      free: group.draining ? 0 : capacity - used,
    };
  });
  const sum = (of: (one: GroupUsage) => number) => groups.reduce((total, one) => total + of(one), 0);
  const capacity = sum((one) => one.capacity);
  const used = sum((one) => one.used);
  const reserve = reserveIn(view, pool, capacity);
  const available = Math.max(0, sum((one) => one.free) - reserve);
  return {
    capacity,
    used,
    reserve,
    available,
    size: capacity * pool.extentSize,
    usedBytes: used * pool.extentSize,
    reserveBytes: reserve * pool.extentSize,
    availableBytes: available * pool.extentSize,
    promised: view.occupancy.promised(pool.id),
    slack: groups.reduce((total, { group, capacity: extents }) => total + group.usable - extents * pool.extentSize, 0),
    groups,
  };
}

/**
 * What would not fit if hosts filled all thin volumes: Σ(size − what is taken for it already) − free. A volume in reduced form has taken what was
 * reduced of it.
 */
export function poolExposure(view: EstateView, pool: Pool, usage: PoolUsage = poolUsage(view, pool)): Bytes {
  let unbacked = 0;
  for (const volume of view.table('volume').by('pool', pool.id))
    if (volume.provisioning === 'thin' && volume.deletedAt === null)
      unbacked += Math.max(
        0,
        volume.size -
          (volume.origin === null ? volume.reducedTo : volume.written) -
          view.occupancy.allocated(volume.id) * pool.extentSize,
      );
  return Math.max(0, unbacked - usage.groups.reduce((sum, one) => sum + one.free, 0) * pool.extentSize);
}

/** Extents that can be given out: `available` of its usage, for those who ask nothing else. */
export function availableExtents(view: EstateView, pool: Pool): number {
  let capacity = 0;
  let free = 0;
  for (const group of view.table('raidGroup').by('pool', pool.id)) {
    const extents = extentsOf(group.usable, pool.extentSize);
    capacity += extents;
    if (!group.draining) free += extents - view.occupancy.used(group.id);
  }
  return Math.max(0, free - reserveIn(view, pool, capacity));
}

/** The media tiers of a pool, from the fastest: what each has and holds, in extents. */
export function tiersOf(
  usage: PoolUsage,
): { media: MediaClass; capacity: number; used: number; groups: GroupUsage[] }[] {
  const tiers = new Map<MediaClass, { media: MediaClass; capacity: number; used: number; groups: GroupUsage[] }>();
  for (const one of usage.groups) {
    const tier = tiers.get(one.media) ?? { media: one.media, capacity: 0, used: 0, groups: [] };
    tier.capacity += one.capacity;
    tier.used += one.used;
    tier.groups.push(one);
    tiers.set(one.media, tier);
  }
  return [...tiers.values()].sort((a, b) => mediaFigures[a.media].rank - mediaFigures[b.media].rank);
}

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

/** Pages of its volumes are kept in a reduced store: at once, or when the job comes round. */
export const reducesAtOnce = (pool: Pool): boolean =>
  pool.dedupe === 'inline' || (pool.compression && pool.dedupe !== 'scheduled');
export const reduces = (pool: Pool): boolean => pool.compression || pool.dedupe !== 'off';
