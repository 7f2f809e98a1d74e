import type { ContentProfile, Volume } from '../estate/entities';
import type { Milliseconds } from '../units/duration';
import { partsOf, standsAfter } from './activity';
import { ALL_STANDS, sharesOf, shownBytes } from './parts';

/**
 * What stands on a volume after hosts have rewritten it within [from, to) by its activity: a page that is written over is no zero and no page of a
 * template any more, but one of the volume's own. Of each part of the bytes the share e^(−Δ) is as it was first written; new data comes fresh. An
 * expectation, in whole places of a weave. Null where nothing moves.
 */
export function wornContent(
  volume: Pick<Volume, 'activity' | 'content' | 'written' | 'holes'>,
  from: Milliseconds,
  to: Milliseconds,
): ContentProfile | null {
  const { activity, content } = volume;
  if (activity === null || content.zero + content.common === 0) return null;
  const bytes = shownBytes(volume);
  const before = content.worn ?? { zero: content.zero, common: content.common, fresh: [...ALL_STANDS], of: bytes };
  const parts = partsOf(activity);
  const grown = bytes > before.of ? before.of / bytes : 1;
  const fresh = standsAfter(
    activity,
    { bytes, parts, stands: before.fresh.map((share) => share * grown + (1 - grown)) },
    from,
    to,
  );
  const still = sharesOf(parts).reduce((sum, share, part) => sum + share * fresh[part]!, 0);
  if (!content.worn && still === 1) return null;
  return {
    ...content,
    zero: Math.round(before.zero * still),
    common: Math.round(before.common * still),
    worn: { ...before, fresh, of: bytes },
  };
}
