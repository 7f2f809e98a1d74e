import { z } from 'zod';
import { id, instant } from './fields';
import { kind, type RowOf } from './kind';

/** A finding that somebody has looked at and does not want to see for a while. */
export const muteKind = kind({
  words: ['muted finding', 'muted findings'],
  prefix: 'mute',
  path: 'mutes',
  row: z.object({ id, check: z.string(), subject: z.string(), reason: z.string(), until: instant }),
  indexes: {
    check: (r) => [r.check],
  },
});
export type Mute = RowOf<typeof muteKind>;
