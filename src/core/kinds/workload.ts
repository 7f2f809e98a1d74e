import { z } from 'zod';
import { id, name } from './fields';
import { kind, to, type RowOf } from './kind';

export const workloadKind = kind({
  words: ['workload', 'workloads'],
  prefix: 'work',
  path: 'workloads',
  row: z.object({ id, name, notes: z.string().default(''), plan: id.nullable().default(null) }),
  refers: { plan: to('plan') },
  named: '',
  searched: {},
});
export type Workload = RowOf<typeof workloadKind>;
