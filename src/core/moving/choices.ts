import { DAY, HOUR, MINUTE, SECOND, type Milliseconds } from '../units/duration';

/** What cutting over takes at the least: writes held, both sides compared, identity and paths switched. */
export const BARRIER: Milliseconds = SECOND;
/** Rounds of one copy before a person is asked, and the share of what it copied that a round may leave without counting as a stall. */
export const MOST_ROUNDS = 24;
export const STALL_RATIO = 0.9;
export const STALLS = 2;
/** A volume that waits for its cut is kept in step at least so often. */
export const LONGEST_DELTA: Milliseconds = 5 * MINUTE;
/** A delta may fill so much of what the pause has room for. */
export const DELTA_SHARE = 0.5;
/** What keeps in step takes the room it needs at its target so often, all moves at the same moments. */
export const SETTLED: Milliseconds = HOUR;
/** One that finds no room, or does not converge, goes on after so long. */
export const AGAIN: Milliseconds = 5 * MINUTE;
/** Paths that every host should find at the other array. */
export const LEAST_PATHS = 2;
/** Moves without a plan at once on one array. */
export const USUAL_SLOTS = 4;
/** Taking paths and records of an old copy away. */
export const CLEANING: Milliseconds = MINUTE;
/** A volume that waits longer for a person is told of. */
export const LONG_WAIT: Milliseconds = 3 * DAY;
export const LONG_PROOF: Milliseconds = 7 * DAY;
