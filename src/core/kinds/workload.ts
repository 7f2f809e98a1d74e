import { z } from 'zod';
import { id, name } from './fields';
import { kind, type RowOf } from './kind';

export const workloadKind = kind({
  words: ['workload', 'workloads'],
  prefix: 'work',
  path: 'workloads',
  row: z.object({ id, name, notes: z.string().default('') }),
  named: '',
  searched: {},
});
export type Workload = RowOf<typeof workloadKind>;
