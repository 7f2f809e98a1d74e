import { MIB } from '../units/bytes';

/** Free design decisions of pools, in one place. */
export const DEFAULT_EXTENT = '64 MiB';
export const MIN_EXTENT = 4 * MIB;
export const MAX_EXTENT = 1024 * MIB;
/** Kept of every pool for metadata and for emptying groups: this share, and at least so many extents. */
export const RESERVE_SHARE = 0.01;
export const RESERVE_EXTENTS = 4;
/** Fill marks, per cent. */
export const FILL_MARKS = [75, 90] as const;
/** Promised bytes over usable ones, from which on carving thin volumes is warned about. */
export const SUBSCRIPTION_NOTICE = 2;
