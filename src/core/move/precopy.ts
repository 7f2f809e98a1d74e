import { changedBytes, firstFailure, type WriteClass } from '../protect/changed-bytes';
import { formatWait } from '../units/figures';
import { parsed, type Parsed } from '../units/parsed';
import { refuse } from './refusal';

export type PrecopyOutcome = 'converged' | 'not-converging' | 'round-limit';

export interface Precopy {
  outcome: PrecopyOutcome;
  /** What each round copies, and how long it takes. */
  rounds: { bytes: number; seconds: number }[];
  /** What is left for the pause, and how long the pause is with it. */
  cutBytes: number;
  pauseS: number;
  /** Rounds and pause together; null unless it converges. */
  totalS: number | null;
}

/** Two rounds that leave nearly as much as they copied are one too many. */
const STALLS = 2;

/**
 * Rounds of copying while hosts write: each copies what changed in the one before, until what is left fits the pause (move.md B). Bytes, bytes a
 * second, seconds. Reasons: move-pause-below-barrier, and those of `uniqueChanged`.
 */
export function precopy({
  allocatedBytes,
  copyBytesPerS,
  classes,
  barrierS,
  pauseMaxS,
  maxRounds = 24,
  stallRatio = 0.9,
}: {
  allocatedBytes: number;
  copyBytesPerS: number;
  classes: readonly WriteClass[];
  barrierS: number;
  pauseMaxS: number;
  maxRounds?: number;
  stallRatio?: number;
}): Parsed<Precopy> {
  if (barrierS >= pauseMaxS) return belowBarrier(barrierS, pauseMaxS);
  const failure = firstFailure(classes);
  if (failure) return failure;
  const timeOf = (bytes: number) => (bytes === 0 ? 0 : bytes / copyBytesPerS);
  const rounds: Precopy['rounds'] = [];
  let left = allocatedBytes;
  let stalls = 0;
  for (;;) {
    const pauseS = barrierS + timeOf(left);
    const end = (outcome: PrecopyOutcome, totalS: number | null) =>
      parsed({ outcome, rounds, cutBytes: left, pauseS, totalS });
    if (pauseS <= pauseMaxS)
      return end(
        'converged',
        rounds.reduce((sum, { seconds }) => sum + seconds, pauseS),
      );
    if (stalls >= STALLS) return end('not-converging', null);
    if (rounds.length >= maxRounds) return end('round-limit', null);
    const seconds = timeOf(left);
    rounds.push({ bytes: left, seconds });
    const changed = changedBytes(classes, seconds);
    stalls = changed > stallRatio * left ? stalls + 1 : 0;
    left = changed;
  }
}

const belowBarrier = (barrierS: number, pauseMaxS: number) =>
  refuse('move-pause-below-barrier', formatWait(barrierS), formatWait(pauseMaxS));

/**
 * The most that hosts may write so that copying ends within so many rounds: C·(budget/V)^(1/n), budget = (pause − barrier)·C (move.md B). Bytes a
 * second. Reasons: move-pause-below-barrier.
 */
export function throttleToConverge({
  allocatedBytes,
  copyBytesPerS,
  writeBytesPerS,
  barrierS,
  pauseMaxS,
  roundsAllowed,
}: {
  allocatedBytes: number;
  copyBytesPerS: number;
  writeBytesPerS: number;
  barrierS: number;
  pauseMaxS: number;
  roundsAllowed: number;
}): Parsed<{ writeBytesPerS: number; throttled: boolean }> {
  const budget = (pauseMaxS - barrierS) * copyBytesPerS;
  if (budget <= 0) return belowBarrier(barrierS, pauseMaxS);
  if (allocatedBytes <= budget) return parsed({ writeBytesPerS, throttled: false });
  const most = copyBytesPerS * (budget / allocatedBytes) ** (1 / roundsAllowed);
  return parsed({ writeBytesPerS: Math.min(writeBytesPerS, most), throttled: writeBytesPerS > most });
}
