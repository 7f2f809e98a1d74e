import { DAY } from '../units/duration';
import { MIB } from '../units/bytes';

/** Free design decisions of pools, in one place. */
export const DEFAULT_EXTENT = '64 MiB';
export const MIN_EXTENT = 4 * MIB;
export const MAX_EXTENT = 1024 * MIB;
/** Most extents that a pool's map has room for: what the extent size means for the largest pool. */
export const MOST_EXTENTS = 4_194_304;
/** Kept of every pool for metadata, snapshots and emptying groups: this share unless another is set, and at least so many extents. */
export const RESERVE_PERCENT = 1;
export const RESERVE_EXTENTS = 4;
/** A mark is lifted again so many points below it. */
export const MARK_HYSTERESIS = 2;
/** Promised bytes over usable ones, from which on carving thin volumes is warned about. */
export const SUBSCRIPTION_NOTICE = 2;
/** Groups of a tier that differ by more than this many points of fill are unbalanced; a rebalance stops below the second. */
export const UNBALANCED_POINTS = 10;
export const BALANCED_POINTS = 2;
/** Share of a pool that must be free before reduction is switched on: room to work in and for its maps. */
export const REDUCTION_HEADROOM = 0.05;
/** Controller memory for the map of each GiB kept in reduced form, and what reduction adds to a small I/O. */
export const MAP_MEMORY_PER_GIB = 5 * MIB;
export const DEDUPE_DELAY_MS = 0.15;
export const COMPRESSION_DELAY_MS = 0.1;
export const ENCRYPTION_DELAY_MS = 0.01;
/** Share of the controllers' time that each costs at full load. */
export const DEDUPE_LOAD = 0.15;
export const COMPRESSION_LOAD = 0.2;
export const ENCRYPTION_LOAD = 0.03;
/** How long a retired volume is kept while there is room. */
export const KEEP_DAYS = 7;
/** Days from an order of drives to their delivery. */
export const DELIVERY_DAYS = 30;
/** A scheduled dedupe begins so long after midnight. */
export const NIGHT_WORK = 0.0625 * DAY;
