import type { Snapshot } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, volumeOf } from '../estate/relations';
import type { Milliseconds } from '../units/duration';
import { effectiveNow } from './lock';

/** The time by which an array judges its locks: what has passed in the lab, and never more than its own clock says. */
export const lockTime = ({ clockOff }: { clockOff: Milliseconds }, now: Milliseconds): Milliseconds =>
  effectiveNow({ lastTrusted: now, elapsed: 0, systemClock: now + clockOff });

/** Whether nobody can delete a copy yet. */
export const isLocked = (view: EstateView, copy: Snapshot, now: Milliseconds): boolean =>
  copy.lockedUntil !== null && copy.lockedUntil > lockTime(arrayOf(view, volumeOf(view, copy)), now);

/** Until when the last of some copies is locked; null where none is. */
export function lockedUntil(view: EstateView, copies: readonly Snapshot[], now: Milliseconds): Milliseconds | null {
  const ends = copies.flatMap((copy) => (isLocked(view, copy, now) ? [copy.lockedUntil!] : []));
  return ends.length === 0 ? null : Math.max(...ends);
}
