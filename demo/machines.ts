import type { OperationDocument } from '@/core/change/registry';

const team = { cluster: 'deck', allotment: 'Virtual deck team', array: 'lintel-1', pool: 'hold' };

/** Machines of the Virtual deck team: two with volumes of their own, one that lies on the cluster's store with others. */
export const machines: OperationDocument[] = [
  { do: 'machine.make', name: 'deck-web', ...team, disks: ['40 GiB', '120 GiB'] },
  { do: 'machine.make', name: 'deck-till', ...team, disks: ['60 GiB'] },
  { do: 'machine.create', name: 'deck-sign', cluster: team.cluster, allotment: team.allotment },
  { do: 'machine.add-disk', machine: 'deck-sign', array: 'lintel-1', volume: 'stores-1', size: '30 GiB' },
];
