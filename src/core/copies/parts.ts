import { bytesIn } from '../estate/runs';
import { mappedRuns } from '../content/weave';
import type { Snapshot, Volume } from '../estate/entities';
import type { Bytes } from '../units/bytes';

/** The parts of a volume's bytes that hosts rewrite differently: often, now and then, never. */
export const PARTS = [0, 1, 2] as const;

/** Shares of a volume's bytes by the ends of its first two parts. */
export const sharesOf = ([hot = 0, warm = 0]: readonly number[]): readonly number[] => [
  hot,
  Math.max(0, warm - hot),
  Math.max(0, 1 - Math.max(hot, warm)),
];

/** Bytes that a volume, or a copy of one, shows. */
export const shownBytes = (one: Pick<Volume | Snapshot, 'written' | 'holes'>): Bytes =>
  one.holes.length === 0 ? one.written : bytesIn(mappedRuns(one));

/** Nothing has been overwritten yet. */
export const ALL_STANDS: readonly number[] = [1, 1, 1];

/** What stands of what stood, part by part, after two stretches that follow one another. */
export const standsOfBoth = (first: readonly number[], then: readonly number[]): number[] =>
  PARTS.map((part) => first[part]! * then[part]!);

/** The bytes of `base` that `present` still shows. */
export function sharedBytes(
  base: Pick<Snapshot, 'written' | 'holes'>,
  present: Pick<Volume | Snapshot, 'written' | 'holes' | 'stands'>,
  parts: readonly number[],
): number {
  const [had, has] = [shownBytes(base), shownBytes(present)];
  return sharesOf(parts).reduce(
    (sum, share, part) => sum + Math.min(has * share, had * share * present.stands[part]!),
    0,
  );
}

/** The fields of a volume that shows fewer bytes from now on, by blocks given back: what its copies show goes on being kept, for them alone. */
export function showingFewer(
  before: Pick<Volume, 'written' | 'holes' | 'stands' | 'base'>,
  after: Pick<Volume, 'written' | 'holes'>,
): Pick<Volume, 'stands'> | object {
  const [had, has] = [shownBytes(before), shownBytes(after)];
  if (before.base === null || has >= had) return {};
  return { stands: before.stands.map((share) => (had === 0 ? share : (share * has) / had)) };
}
