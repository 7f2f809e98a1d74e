/** Timers of a stretched pair, seconds (choices of protect.md L). */
export const HEARTBEAT_S = 0.5;
/** A site may serve as one of both for so long after its last heartbeat that the other acknowledged. */
export const LEASE_S = 3;
/** Clocks may drift against each other by so much: nobody goes on alone before the other's lease is surely over. */
export const DRIFT = 1.01;
/** After so long of silence paths say that they are unavailable. */
export const HOLD_MAX_S = 25;
/** The site that is not preferred waits so much longer before it asks the witness. */
export const PREFERENCE_DELAY_S = 2;
/** When neither site sees the witness for so long, the preferred one may go on without asking. */
export const WITNESS_LOST_S = 20;
/** Asking and storing on the way to going on alone. */
const TURN_S = 0.1;

/** Seconds without I/O until a site goes on alone, with a round trip to the witness. */
export const resumesAfterS = (preferred: boolean, witnessRttS: number): number =>
  LEASE_S * DRIFT + (preferred ? 0 : PREFERENCE_DELAY_S) + witnessRttS + TURN_S;
