import { z } from 'zod';
import { id, instant, name } from '@/core/kinds/fields';
import { goesWith, kind, to, type RowOf } from '@/core/kinds/kind';

/** A label that somebody has stuck on a host's rack. */
export const labelKind = kind({
  words: ['label', 'labels'],
  prefix: 'lab',
  path: 'labels',
  row: z.object({
    id,
    name,
    site: id,
    host: id.nullable().default(null),
    stuckAt: instant.default(0),
  }),
  refers: { site: to('site'), host: goesWith('host') },
  named: 'site',
  indexes: {
    /** On no host yet. */
    loose: (label) => (label.host === null ? [label.site] : []),
  },
  searched: {},
});
export type Label = RowOf<typeof labelKind>;
