import { z } from 'zod';
import { id, name } from './fields';
import { kind, to, type RowOf } from './kind';

/** Members are written `wwpn:…`, `wwnn:…`, `port:domain,port` or `alias:name`. */
export const aliasKind = kind({
  words: ['alias', 'aliases'],
  prefix: 'ali',
  path: 'aliases',
  row: z.object({ id, fabric: id, name, members: z.array(z.string()) }),
  refers: {
    fabric: to('fabric'),
  },
  named: 'fabric',
  searched: {},
});
export type Alias = RowOf<typeof aliasKind>;
