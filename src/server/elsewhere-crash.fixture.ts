import type { OperationDocument } from '@/core/change/registry';
import type { FaultKind } from '@/core/lab/fault-kinds';
import { tonight } from '../../demo/night';
import { openTrabes } from './instance';
import { changeFault } from './lab';

/** A process of its own in which something happens between two sites, and that is killed in the middle: it tells each moment on standard output. */
const [file = '', scene = ''] = process.argv.slice(2);
const trabes = openTrabes(file, 'demo');
trabes.clock.setSpeed(0);

const scenes: Readonly<Record<string, { faults: [FaultKind, string][]; operations: OperationDocument[] }>> = {
  switch: {
    faults: [],
    operations: [
      { do: 'host-device.unmount', host: 'ledger-1', device: 'ledger' },
      { do: 'replication.switch', replication: 'Accounts', stopped: true },
    ],
  },
  failover: {
    faults: [['array-down', 'lintel-2']],
    operations: [{ do: 'replication.failover', replication: 'Accounts', confirm: 'Accounts', fence: 'array-off' }],
  },
  'first copy': { faults: [], operations: [] },
  cut: { faults: [], operations: [{ do: 'move.confirm', moves: ['stowage'] }] },
  'way back': { faults: [], operations: [{ do: 'move.roll-back', moves: ['manifests'] }] },
  'clean up': { faults: [], operations: [{ do: 'move.accept', moves: ['manifests'] }] },
  'by night': {
    faults: [],
    operations: ['a', 'b', 'c', 'd'].map((letter) => ({
      do: 'volume.create',
      array: 'lintel-1',
      pool: 'quay',
      name: `night-${letter}`,
      size: '1 GiB',
      count: 1,
    })),
  },
  'bring in': {
    faults: [],
    operations: [{ do: 'storage.bring-in', array: 'lintel-1', luns: ['corbel-9:0'], pool: 'hold' }],
  },
  parting: { faults: [['site-down', 'Nordkai']], operations: [] },
};

const { faults, operations } = scenes[scene]!;
for (const [kind, component] of faults) changeFault(trabes.plant, kind, component, false);
trabes.clock.advance(10);
if (operations.length > 0) {
  const change = await trabes.changes.prepare(scene, operations, 'test');
  if (scene === 'by night')
    await trabes.changes.night.approve(change.id, { ...tonight.terms, fromHour: null, untilHour: null });
  else await trabes.changes.run(change.id);
}
setInterval(() => {
  trabes.clock.advance(500);
  process.stdout.write(`${trabes.plant.lab.now}\n`);
}, 1);
