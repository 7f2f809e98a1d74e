import { SECOND } from '../units/duration';

/** How long a site may serve as one of both after the other last acknowledged it (protect.md L, as all of these). */
export const LEASE = 3 * SECOND;
/** Clocks of both may drift against each other: nobody goes on alone before. */
export const LEASE_SURELY_OVER = Math.round(LEASE * 1.01);
/** The site that is not preferred leaves the other a start. */
export const PREFERENCE_DELAY = 2 * SECOND;
/** How long silence looks like a pause to hosts before paths say that they are unavailable. */
export const HOLD_MAX = 25 * SECOND;
/** How long neither sees the witness before both agree to do without it. */
export const BLIND = 20 * SECOND;
