import { planChange } from '@/core/change/plan';
import { compacted } from '@/core/estate/effects';
import { Estate } from '@/core/estate/estate';
import { newIds } from '@/core/estate/new-ids';
import { writeTraffic } from '@/core/lab/traffic';
import { movedBy, nextMove } from '@/core/moving/pass';
import { movesView } from '@/core/moving/view';
import { GIB } from '@/core/units/bytes';
import { DAY, type Milliseconds } from '@/core/units/duration';
import { writeUpTo } from '@/core/volume/grow';
import { bareHardware, LAB_START } from '../demo/hardware';
import { server } from '../demo/servers';
import { slots } from '../demo/names';
import { carryOut } from '../demo/workbench';
import type { LoadTask } from './loading';

const COUNT = 200;
const volumes = Array.from({ length: COUNT }, (_, k) => `vol-${String(k + 1).padStart(3, '0')}`);

/** Two pools of one array, and volumes in one of them that hosts rewrite. */
function busyEstate(): Estate {
  const estate = new Estate();
  estate.apply(bareHardware());
  carryOut(estate, [
    ...[0, 1].map((k) => ({
      do: 'raid-group.create',
      array: 'lintel-1',
      name: `rg-${k}`,
      level: 'raid6',
      drives: slots(0, k * 10, k * 10 + 9),
    })),
    { do: 'pool.create', array: 'lintel-1', name: 'quay', raidGroups: ['rg-0'] },
    { do: 'pool.create', array: 'lintel-1', name: 'hold', raidGroups: ['rg-1'] },
    { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'vol-###', size: '100 GiB', count: COUNT },
    { do: 'volume.activity', array: 'lintel-1', volumes, kind: 'database' },
    server('cargo-db-1', 'linux', 'Nordkai'),
    ...['A', 'B'].map((fabric) => ({ do: 'zoning.join', fabric, host: 'cargo-db-1', array: 'lintel-1' })),
    { do: 'mapping.create', host: 'cargo-db-1', array: 'lintel-1', volumes },
    { do: 'host.rescan', host: 'cargo-db-1' },
    ...volumes.map((device) => ({
      do: 'host-device.format',
      host: 'cargo-db-1',
      device,
      fileSystem: 'xfs',
      mountPoint: `/srv/${device}`,
    })),
  ]);
  const newId = newIds('bench moves');
  for (const volume of [...estate.table('volume').values()])
    estate.apply(writeUpTo(estate, volume, 60 * GIB, newId, LAB_START).effects);
  return estate;
}

/** A day in which 200 volumes that hosts work with go to another pool, without its database. */
export function movingTasks(): LoadTask[] {
  const estate = busyEstate();
  const wanted = [
    { do: 'wave-plan.create', name: 'All', slots: 8 },
    { do: 'volume.move', array: 'lintel-1', volumes, pool: 'hold', wavePlan: 'All' },
  ];
  const planned = () => planChange(estate, wanted, { seed: 'bench', now: LAB_START, month: '2031-04' });
  planned();
  const begun = performance.now();
  const plan = planned();
  const preview = performance.now() - begun;
  if (plan.refusals.length > 0) throw new Error(plan.refusals[0]!.message);
  for (const step of plan.steps) estate.apply(step.effects);
  const newId = newIds('bench day');
  const started = performance.now();
  let now: Milliseconds = LAB_START;
  while (now < LAB_START + DAY) {
    const next = Math.min(LAB_START + DAY, nextMove(estate, now) ?? Infinity);
    estate.apply(compacted(writeTraffic(estate, next - now, next, newId).effects));
    now = next;
    estate.apply(compacted(movedBy(estate, now, newId).effects));
  }
  const day = performance.now() - started;
  const looked = performance.now();
  movesView(estate, now);
  return [
    { name: 'preview of 200 moves', took: preview, target: 100 },
    { name: '24 h with 200 moves at work', took: day, target: 10_000 },
    { name: 'the Moves view of 200 moves', took: performance.now() - looked, target: 200 },
  ];
}
