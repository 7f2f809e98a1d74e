import { z } from 'zod';
import { id } from './fields';
import { goesWith, kind, type RowOf } from './kind';

/** A host was told to log in here: at the target named, else at all that it is offered. */
export const loginKind = kind({
  words: ['login', 'logins'],
  prefix: 'log',
  path: 'logins',
  row: z.object({ id, host: id, array: id, target: id.nullable().default(null) }),
  refers: {
    host: goesWith('host'),
    array: goesWith('array'),
    target: goesWith('target'),
  },
  unique: [{ fields: ['host', 'array', 'target'], by: 'host' }],
});
export type Login = RowOf<typeof loginKind>;
