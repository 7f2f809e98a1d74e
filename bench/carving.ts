import { slots } from '../demo/names';
import { carryOut, bareEstate, basis } from '../demo/workbench';
import { contextFor } from '@/core/change/plan';
import { findings, checkContext } from '@/core/check/engine';
import { changed, compacted, created } from '@/core/estate/effects';
import { raidLevels } from '@/core/estate/entities';
import { Estate, Overlay } from '@/core/estate/estate';
import { setFault } from '@/core/lab/faults';
import { nextJobEnd, workJob } from '@/core/work/scheduler';
import { writeTraffic } from '@/core/lab/traffic';
import { raidGroupCreate } from '@/core/raid/create';
import { levelCase } from '@/core/raid/compare';
import { capacityModel } from '@/core/space/capacity';
import type { UsageSample } from '@/core/space/history';
import { poolWaterfall } from '@/core/space/waterfall';
import { GIB, KIB, MIB } from '@/core/units/bytes';
import { DAY, HOUR } from '@/core/units/duration';
import { giveAll } from '@/core/volume/grow';
import { rowOf } from '@/core/estate/entities';
import { readDays, readSums } from '@/store/usage-rows';
import type { Store } from '@/store/store';

export interface Task {
  name: string;
  work: () => unknown;
  /** Milliseconds. */
  target?: number;
}

const newIds = (seed: string) => contextFor({ ...basis, seed }, 0, 0).newId;

/** All levels at 24 drives: the chains alone are solved by the comparison's own function. */
function levels(): Task[] {
  const estate = bareEstate();
  const drives = [...estate.table('drive').values()].filter((drive) => drive.media === 'hdd-10k');
  const use = { load: 0.3, priority: 'normal' as const, reads: 0.7, ioSize: 8 * KIB, replaceHours: 0 };
  const draft = { array: 'lintel-1', level: 'raid6', drives: slots(1, 0, 23), $load: '30', $reads: '70' };
  return [
    {
      name: 'chances of loss of all levels at 24 drives',
      work: () => raidLevels.map((level) => levelCase({ level }, drives, 64 * KIB, use)),
      target: 20,
    },
    {
      name: 'comparison table after a tick, 24 drives',
      work: () => raidGroupCreate.foretell(estate, draft, contextFor(basis, 0, 0)),
      target: 50,
    },
  ];
}

/** Thick volumes of a thousand extents each, in a pool of a million. */
function allocation(): Task {
  const estate = bareEstate();
  carryOut(estate, [
    { do: 'raid-group.create', array: 'purlin-1', name: 'a', level: 'raid60', drives: slots(0, 0, 29) },
    { do: 'raid-group.create', array: 'purlin-1', name: 'b', level: 'raid60', drives: slots(0, 30, 59) },
    { do: 'pool.create', array: 'purlin-1', name: 'vault', raidGroups: ['a', 'b'], extentSize: '512 MiB' },
  ]);
  const pool = [...estate.table('pool').values()][0]!;
  const small = { ...pool, extentSize: 512 * MIB };
  const array = estate.table('array').get(pool.array)!;
  const owner = [...estate.table('controller').by('array', array.id)][0]!.id;
  return {
    name: `extents for 1,000 volumes in a pool of ${Math.round(
      [...estate.table('raidGroup').values()].reduce((sum, group) => sum + group.usable / small.extentSize, 0),
    ).toLocaleString('en')} extents`,
    work: () => {
      const overlay = new Overlay(estate);
      const newId = newIds('allocation');
      for (let k = 0; k < 1000; k++) {
        const volume = rowOf('volume', {
          id: `vol_bench${k}`,
          name: `v${k}`,
          array: array.id,
          pool: pool.id,
          size: 800 * 512 * MIB,
          provisioning: 'thick',
          naa: `6${String(k).padStart(31, '0')}`,
          serial: `${k}`,
          owner,
          written: 0,
        });
        overlay.apply([created('volume', volume)]);
        overlay.apply(giveAll(overlay, volume, small, newId).effects);
      }
    },
    target: 100,
  };
}

/** Every volume reduced, many with sisters of one family. */
function waterfalls(estate: Estate): Task[] {
  const reduced = new Overlay(estate);
  reduced.apply(
    [...estate.table('pool').values()].map((pool) => changed('pool', pool, { dedupe: 'inline', compression: true })),
  );
  let k = 0;
  reduced.apply(
    [...estate.table('volume').values()].map((volume) =>
      changed('volume', volume, {
        reducedTo: volume.written,
        content: { ...volume.content, family: `family-${k++ % 200}`, common: 60, zero: 8 },
      }),
    ),
  );
  return [
    {
      name: 'waterfall of 10,000 volumes',
      work: () => [...reduced.table('pool').values()].map((pool) => poolWaterfall(reduced, pool)),
      target: 300,
    },
    { name: 'Capacity view of 10,000 volumes', work: () => capacityModel(reduced) },
    { name: 'all checks over 10,000 volumes', work: () => findings(estate, checkContext(estate, basis.now)) },
  ];
}

/** A drive fails and is rebuilt, the pool is extended and rebalanced, hosts write: a day of a 60-drive array, hour by hour. */
function dayOfWork(): Task {
  const sixty = (): Estate => {
    const estate = bareEstate();
    carryOut(estate, [
      { do: 'raid-group.create', array: 'purlin-1', name: 'a', level: 'raid6', drives: slots(0, 0, 18) },
      { do: 'raid-group.create', array: 'purlin-1', name: 'b', level: 'raid6', drives: slots(0, 19, 37) },
      { do: 'raid-group.create', array: 'purlin-1', name: 'c', level: 'raid6', drives: slots(0, 38, 56) },
      { do: 'drive.assign-spare', array: 'purlin-1', drives: slots(0, 57, 59) },
      { do: 'pool.create', array: 'purlin-1', name: 'vault', raidGroups: ['a', 'b'], extentSize: '256 MiB' },
      {
        do: 'volume.create',
        array: 'purlin-1',
        pool: 'vault',
        name: 'radar',
        size: '100 TiB',
        count: 3,
        provisioning: 'thick',
      },
    ]);
    carryOut(estate, [{ do: 'pool.extend', array: 'purlin-1', name: 'vault', raidGroups: ['c'] }], 'extend');
    carryOut(estate, [{ do: 'pool.rebalance', array: 'purlin-1', name: 'vault' }], 'rebalance');
    return estate;
  };
  const first = sixty();
  return {
    name: 'a day of rebuild and rebalance on 60 drives',
    work: () => {
      const estate = new Overlay(first);
      const newId = newIds('day');
      const group = [...estate.table('raidGroup').values()][0]!;
      const fault = setFault(estate, 'drive-failed', group.drives[3]!, basis.now, newId);
      if (fault.ok) estate.apply(compacted(fault.effects));
      for (let hour = 1; hour <= 24; hour++) {
        const until = basis.now + hour * HOUR;
        for (let next = nextJobEnd(estate); next && next.at <= until; next = nextJobEnd(estate))
          estate.apply(compacted(workJob(estate, next.job, next.at, newId).effects));
        estate.apply(compacted(writeTraffic(estate, HOUR, until, newId).effects));
      }
    },
    target: 1000,
  };
}

/** 120 days of 2,000 volumes in the database. */
export function historyTasks(store: Store): Task[] {
  const subjects = Array.from({ length: 2000 }, (_, k) => `vol_${String(k).padStart(6, '0')}`);
  for (let day = 0; day < 120; day++) {
    const usage = subjects.map((subject, k): UsageSample => ({
      subject,
      at: (day + 1) * DAY,
      size: 500 * GIB,
      promised: 500 * GIB,
      written: (k + day) * GIB,
      used: (k + day) * GIB,
    }));
    store.commit({ usage });
  }
  return [
    { name: '120 days of 2,000 volumes, summed by day', work: () => readSums(store.db, 'vol_', 0), target: 300 },
    { name: '120 days of one volume', work: () => readDays(store.db, ['vol_000777'], 0) },
  ];
}

export const carvingTasks = (estate: Estate): Task[] => [...levels(), allocation(), ...waterfalls(estate), dayOfWork()];
