import { z } from 'zod';
import { id, name } from './fields';
import { kind, type RowOf } from './kind';

export const clusterKind = kind({
  words: ['host cluster', 'host clusters'],
  prefix: 'clu',
  path: 'clusters',
  row: z.object({ id, name }),
  named: '',
  searched: {},
});
export type Cluster = RowOf<typeof clusterKind>;
