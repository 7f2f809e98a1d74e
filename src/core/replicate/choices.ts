import { MINUTE, SECOND } from '../units/duration';

/** What a cycle costs before the first byte: cutting, reading the map, agreeing with the other side (a choice). */
export const FIXED = 5 * SECOND;
/** Sessions between two arrays, and the window of each (choices). */
export const SESSIONS = 8;
export const WINDOW = 4 * 2 ** 20;
/** Share of a line that is left for data beside headers. */
export const EFFICIENCY = 0.94;
/** How long a cycle that failed is left alone before it is tried again (choices: 10 s … 5 min). */
export const AGAIN = 5 * MINUTE;
/** Cycles that are remembered of one replication. */
export const CYCLES_KEPT = 300;

/** Seconds by which clocks of partners may differ, and protocol versions that arrays speak. */
export const PEER_SKEW = 60;
export const PEER_VERSIONS: readonly number[] = [1, 2, 3];
