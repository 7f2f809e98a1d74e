import { z } from 'zod';
import { id } from './fields';
import { goesWith, kind, type RowOf } from './kind';

/** The tier policy that a volume is under; it has one at most. */
export const tierUseKind = kind({
  words: ['use of a tier policy', 'uses of tier policies'],
  prefix: 'tuse',
  path: 'tier-uses',
  row: z.object({ id, tierPolicy: id, volume: id }),
  refers: { tierPolicy: goesWith('tierPolicy'), volume: goesWith('volume') },
  once: ['volume'],
});
export type TierUse = RowOf<typeof tierUseKind>;
