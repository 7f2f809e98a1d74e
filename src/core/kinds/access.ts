import { z } from 'zod';
import { accessLevels, id } from './fields';
import { goesWith, kind, type RowOf } from './kind';

/** What an array grants an initiator beyond the usual read-write. */
export const accessKind = kind({
  words: ['access', 'access'],
  prefix: 'acc',
  path: 'access',
  row: z.object({ id, array: id, initiator: id, level: z.enum(accessLevels) }),
  refers: {
    array: goesWith('array'),
    initiator: goesWith('initiator'),
  },
  unique: [{ fields: ['array', 'initiator'], by: 'initiator' }],
});
export type Access = RowOf<typeof accessKind>;
