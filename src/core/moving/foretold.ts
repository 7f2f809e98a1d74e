import { shownBytes } from '../copies/parts';
import type { Move, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { Bytes } from '../units/bytes';
import { SECOND, type Milliseconds } from '../units/duration';
import type { BytesPerSecond } from '../units/rate';
import { changedSince, pauseFor } from './changes';
import { MOST_ROUNDS, STALL_RATIO, STALLS } from './choices';

/** How the copy of a move goes at a rate, as far as can be told. */
export interface ForetoldCopy {
  outcome: 'converged' | 'not-converging' | 'round-limit';
  rounds: { bytes: Bytes; took: Milliseconds }[];
  left: Bytes;
  pause: Milliseconds;
  /** From now until it is whole. */
  takes: Milliseconds;
}

/** Rounds as `roundOver` judges them, by what the volume's own activity changes in each: at least one, for the other side holds nothing yet. */
export function foretoldCopy(
  view: EstateView,
  row: Pick<Move, 'mode' | 'pauseMax'>,
  volume: Volume,
  rate: BytesPerSecond,
  now: Milliseconds,
): ForetoldCopy {
  const rounds: ForetoldCopy['rounds'] = [];
  const had = shownBytes(volume);
  let [left, at, stalls] = [had, now, 0];
  const end = (outcome: ForetoldCopy['outcome']): ForetoldCopy => ({
    outcome,
    rounds,
    left,
    pause: pauseFor(left, rate),
    takes: at - now,
  });
  if (rate <= 0) return end('round-limit');
  for (;;) {
    if (rounds.length > 0 && pauseFor(left, rate) <= row.pauseMax) return end('converged');
    if (stalls >= STALLS) return end('not-converging');
    if (rounds.length >= MOST_ROUNDS) return end('round-limit');
    const took = Math.ceil((left / rate) * SECOND);
    rounds.push({ bytes: left, took });
    const changed = changedSince(view, row, volume, had, at, at + took);
    stalls = changed > STALL_RATIO * left ? stalls + 1 : 0;
    at += took;
    left = changed;
  }
}
