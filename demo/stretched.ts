import type { OperationDocument } from '@/core/change/registry';
import { MINUTE } from '@/core/units/duration';
import { lines, stretch, witness } from './elsewhere';
import { stage, type Stage } from './protected';
import { elsewhere } from './replicated';
import { inUse, join, server } from './servers';

/** Machines of a cluster on one volume: one server at each harbour, and lines to the head office. */
const machines: OperationDocument[] = [
  { do: 'workload.create', name: 'Virtual deck' },
  { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'stores', size: '200 GiB', workload: 'Virtual deck' },
  { do: 'volume.activity', array: 'lintel-1', volumes: ['stores'], kind: 'machines' },
  server('deck-1', 'hypervisor', 'Nordkai', 'deck'),
  server('deck-3', 'hypervisor', 'Molenhaven', 'deck'),
  ...['deck-1', 'deck-3'].flatMap((host) => join(host, 'lintel-1', ['a2', 'b2'], ['a3', 'b3'])),
  ...['deck-1', 'deck-3'].flatMap((host) => join(host, 'lintel-2', ['a2', 'b2'], ['a3', 'b3'])),
  { do: 'mapping.create', cluster: 'deck', array: 'lintel-1', volumes: ['stores'] },
  ...inUse('deck-1', 'stores', 'gfs2', '/stores/deck'),
  { do: 'host.rescan', host: 'deck-3' },
  ...lines.filter((line) => String(line.name).endsWith('to Oever')),
  witness,
];

export { stretch } from './elsewhere';

/** Both servers see both legs. */
export const uniform: OperationDocument[] = [
  { do: 'mapping.create', cluster: 'deck', array: 'lintel-2', volumes: ['stores-leg'] },
];

/** What stands before anything is stretched. For tests. */
export const deckStage = (...more: OperationDocument[]): Stage => stage(...elsewhere, ...machines, ...more);

/** A stretched volume, whole, that two servers reach at both sites. For tests. */
export function stretched(...more: OperationDocument[]): Stage {
  const at = deckStage(stretch, ...uniform, ...more);
  at.pass(10 * MINUTE);
  return at;
}
