import type { OperationDocument } from '@/core/change/registry';
import { lines, partners } from './elsewhere';
import { slots } from './names';
import { stage, type Stage } from './protected';

/** A pool at the other site, and the fibre that leads there. */
export const elsewhere: OperationDocument[] = [
  { do: 'raid-group.create', array: 'lintel-2', name: 'rg-1', level: 'raid6', drives: slots(0, 0, 9) },
  { do: 'pool.create', array: 'lintel-2', name: 'quay', raidGroups: ['rg-1'] },
  ...lines.filter((line) => line.name === 'dark fibre'),
  ...partners,
];

/** A workload copied there every five minutes. */
export const replicate = {
  do: 'replication.create',
  workload: 'Ticketing',
  to: 'lintel-2',
  pool: 'quay',
  link: 'dark fibre',
  rpo: '10 min',
  interval: '5 min',
} satisfies OperationDocument;

export { yard } from './elsewhere';

/** The stage of protection, with its workload copied to another site. For tests. */
export const copying = (...more: OperationDocument[]): Stage => stage(...elsewhere, replicate, ...more);
