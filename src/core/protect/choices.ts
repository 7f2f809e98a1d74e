import { DAY, MINUTE, SECOND } from '../units/duration';

/** What is ours to choose about copies in time (protect.md: "choice"), in one place. */
export const protectChoices = {
  /** Quiescing: how long an application may take to freeze, writes may be held, and a thaw may take; inclusive. */
  freezeTimeout: 20 * SECOND,
  holdMax: 5 * SECOND,
  thawTimeout: 15 * SECOND,
  /** A late run this old or younger is caught up. */
  grace: 4 * 60 * MINUTE,
  /** Runway below which a pool warns, and is critical. */
  poolWarns: 14 * DAY,
  poolCritical: 3 * DAY,
  /** How long a validation proves. */
  provenFor: 30 * DAY,
  /** Content of snapshots beside the size of their volume from which on it is much. */
  snapshotsLarge: 0.3,
  /** Kept by hand without an end, and held after its verdict, from which on somebody should look. */
  forgottenAfter: 90 * DAY,
  heldLong: 14 * DAY,
  /** A clock further off than this jumped. */
  clockJump: 300 * SECOND,
  /** Extents by which changes are counted, bytes. */
  changeExtent: 64 * 1024,
} as const;

/** Two moments closer than this are one, seconds. */
export const INSTANT = 1e-9;
