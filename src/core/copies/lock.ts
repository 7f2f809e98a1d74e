import { dateText } from '../units/date';
import type { Milliseconds } from '../units/duration';
import { notParsed, parsed, type Parsed } from '../units/parsed';

/** A strict lock is only ever lengthened; a dual one may be shortened by two people together. */
export const lockModes = ['strict', 'dual'] as const;
export type LockMode = (typeof lockModes)[number];

/** A lock as somebody wishes it; `wantedUntil` null is its release. */
export interface LockWish {
  now: Milliseconds;
  mode: LockMode;
  currentUntil: Milliseconds | null;
  wantedUntil: Milliseconds | null;
  approvers?: readonly string[];
}

/**
 * Until when a copy is locked after a wish (protect.md C). All instants are trusted time. Reasons: lock-in-the-past, lock-cannot-shorten,
 * lock-needs-two-people.
 */
export function lockChange({
  now,
  mode,
  currentUntil,
  wantedUntil,
  approvers = [],
}: LockWish): Parsed<{ lockedUntil: Milliseconds | null }> {
  const active = currentUntil !== null && currentUntil > now;
  if (!active)
    return wantedUntil !== null && wantedUntil <= now
      ? notParsed('lock-in-the-past', `The lock would already be over: it ends ${dateText(wantedUntil)}.`)
      : parsed({ lockedUntil: wantedUntil });
  if (wantedUntil !== null && wantedUntil >= currentUntil) return parsed({ lockedUntil: wantedUntil });
  if (mode === 'strict')
    return notParsed(
      'lock-cannot-shorten',
      `A strict lock can only be lengthened; this one lasts until ${dateText(currentUntil)}.`,
    );
  const people = new Set(approvers);
  if (people.size < 2) {
    const [who] = people;
    return notParsed('lock-needs-two-people', `A second person must approve${who ? `; ${who} already did` : ''}.`);
  }
  return parsed({ lockedUntil: wantedUntil });
}

/**
 * The time by which locks and retention are judged: what has passed since the last trusted moment, and never more than the clock says. A clock
 * that is pushed forward frees nothing (protect.md C).
 */
export const effectiveNow = ({
  lastTrusted,
  elapsed,
  systemClock,
}: {
  lastTrusted: Milliseconds;
  elapsed: Milliseconds;
  systemClock: Milliseconds;
}): Milliseconds => Math.min(systemClock, lastTrusted + elapsed);
