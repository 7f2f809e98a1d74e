import { z } from 'zod';
import { id, name, sealed, upDown } from './fields';
import { kind, type RowOf } from './kind';

/** Judges logins for arrays that ask it. */
export const authServerKind = kind({
  words: ['authentication server', 'authentication servers'],
  prefix: 'auth',
  path: 'authentication-servers',
  row: z.object({
    id,
    name,
    ip: z.string(),
    state: upDown,
    /** Shared with the arrays that ask. */
    secret: sealed,
    accounts: z.array(z.object({ name: z.string(), secret: z.string() })).default([]),
  }),
  named: '',
});
export type AuthServer = RowOf<typeof authServerKind>;
