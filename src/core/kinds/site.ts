import { z } from 'zod';
import { id, name } from './fields';
import { kind, type RowOf } from './kind';

export const siteKind = kind({
  words: ['site', 'sites'],
  prefix: 'site',
  path: 'sites',
  row: z.object({ id, name, purpose: z.string() }),
  named: '',
});
export type Site = RowOf<typeof siteKind>;
