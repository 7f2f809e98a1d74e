import { GIB, type Bytes } from '../units/bytes';

/** Free design decisions of what hosts ask of RAID groups, in one place. */

/** Cache of a controller, and the most of the reads it answers. */
export const CACHE: Bytes = 4 * GIB;
export const CACHE_HITS = 0.95;
/** Reads that go on from one to the next are read ahead. */
export const READ_AHEAD_HITS = 0.9;
/** Overwrites in the hot part that meet before they are destaged. */
export const MERGED_WRITES = 0.2;
/** Of writes from end to end, the share that fills whole stripes. */
export const FULL_STRIPES = 0.9;
