import { slots } from '../../../demo/names';
import { basis, carryOut, estateAfter, mounted } from '../../../demo/workbench';
import { contextFor } from '../change/plan';
import { changed, compacted, created, deleted } from '../estate/effects';
import type { Kind, Rows } from '../estate/entities';
import type { Estate } from '../estate/estate';
import { clearFault, setFault } from '../lab/faults';
import { nextJobEnd, workJob } from '../work/scheduler';
import { writeTraffic } from '../lab/traffic';
import { deleteFiles } from '../attach/file-places';
import type { OperationDocument } from '../change/registry';
import { lookUpDrive, lookUp } from '../operation/inquiry';
import { poolUsage } from '../pool/usage';
import type { Sample } from '../space/forecast';
import { GIB, KIB } from '../units/bytes';
import { DAY } from '../units/duration';
import { attachChecks } from './attach';
import { protectChecks } from './protect-checks';
import { drillChecks } from './drill-checks';
import { changeChecks } from './change-checks';
import { classChecks } from './class-checks';
import { moveChecks } from './move-checks';
import { loadChecks } from './load-checks';
import { tierChecks } from './tier-checks';
import { mirrorChecks } from './mirror-checks';
import { partnerChecks } from './partner-checks';
import { replicateChecks } from './replicate-checks';
import { stretchChecks } from './stretch-checks';
import { checkContext, checks as all, findings } from './engine';
import { markOf } from '../pool/marks';

/** Those of drives, groups, pools and volumes; what concerns hosts and copies has tests of its own. */
/** Those that have a file of cases of their own. */
const elsewhere = new Set([
  ...attachChecks,
  ...protectChecks,
  ...replicateChecks,
  ...partnerChecks,
  ...mirrorChecks,
  ...stretchChecks,
  ...drillChecks,
  ...loadChecks,
  ...classChecks,
  ...moveChecks,
  ...changeChecks,
  ...tierChecks,
]);
const checks = all.filter((check) => !elsewhere.has(check));

let count = 0;
const newId = contextFor({ ...basis, seed: 'checks' }, 3, 3).newId;
const NOW = basis.now + 2 * DAY;

/** A chain in which nothing is wrong: two groups with spares, a watched pool, a mounted volume. */
function sound(): Estate {
  const estate = estateAfter([
    { do: 'raid-group.create', array: 'lintel-1', name: 'rg-1', level: 'raid6', drives: slots(0, 0, 5) },
    { do: 'raid-group.create', array: 'lintel-1', name: 'rg-2', level: 'raid6', drives: slots(0, 6, 11) },
    { do: 'drive.assign-spare', array: 'lintel-1', drives: ['0:22', '0:23'] },
    { do: 'pool.create', array: 'lintel-1', name: 'quay', raidGroups: ['rg-1', 'rg-2'], alertTo: 'storage desk' },
    ...mounted.filter((one) => !['raid-group.create', 'pool.create'].includes(one.do)),
  ]);
  finish(estate);
  return estate;
}

function finish(estate: Estate): void {
  for (let next = nextJobEnd(estate); next; next = nextJobEnd(estate))
    estate.apply(compacted(workJob(estate, next.job, next.at, newId).effects));
}
const lintel = (estate: Estate) => lookUp(estate, 'array', 'lintel-1')!;
const drive = (estate: Estate, ref: string) => lookUpDrive(estate, ref, lintel(estate).id)!;
const group = (estate: Estate, name: string) => lookUp(estate, 'raidGroup', name, lintel(estate).id)!;
const pool = (estate: Estate) => lookUp(estate, 'pool', 'quay', lintel(estate).id)!;
const volume = (estate: Estate, name = 'tickets-1') => lookUp(estate, 'volume', name, lintel(estate).id)!;
const set = <K extends Kind>(estate: Estate, kind: K, row: Rows[K], fields: Partial<Rows[K]>) =>
  estate.apply([changed(kind, row, fields)]);
const run = (estate: Estate, ...operations: OperationDocument[]) => {
  carryOut(estate, operations, `check ${count++}`);
};
const fault = (estate: Estate, ref: string, kind: 'drive-failed' | 'drive-predicted' = 'drive-failed') => {
  const result = setFault(estate, kind, drive(estate, ref).id, basis.now, newId);
  if (result.ok) estate.apply(compacted(result.effects));
};
const back = (estate: Estate, ref: string) => {
  const result = clearFault(estate, 'drive-failed', drive(estate, ref).id, basis.now, newId);
  if (result.ok) estate.apply(compacted(result.effects));
  finish(estate);
};
const noSpares = (estate: Estate) =>
  run(estate, { do: 'drive.release-spare', array: 'lintel-1', drives: ['0:22', '0:23'] });
const spares = (estate: Estate) => {
  run(estate, { do: 'drive.assign-spare', array: 'lintel-1', drives: ['0:22', '0:23'] });
  finish(estate);
};
const fill = (estate: Estate, share: number) => {
  const { capacity, used } = poolUsage(estate, pool(estate));
  const extents = Math.ceil(capacity * share) - used;
  run(estate, {
    do: 'volume.create',
    array: 'lintel-1',
    pool: 'quay',
    name: 'fill',
    size: `${extents * 64} MiB`,
    provisioning: 'thick',
  });
};
const unfill = (estate: Estate) =>
  run(estate, { do: 'volume.delete', array: 'lintel-1', volumes: ['fill'], keepDays: 0 });
const days = (of: (day: number) => number, length = 40): Sample[] => {
  const last = Math.floor(NOW / DAY);
  return Array.from({ length }, (_, k) => ({ day: last - length + 1 + k, bytes: of(k) }));
};

interface Case {
  /** Makes the finding appear. */
  make: (estate: Estate) => void;
  /** Makes it go, by what the finding advises where an operation does. */
  mend: (estate: Estate) => void;
  series?: { before: Sample[]; after: Sample[] };
}

const cases: Record<string, Case> = {
  'component-down': {
    make: (e) => set(e, 'switch', [...e.table('switch').values()][0]!, { state: 'down' }),
    mend: (e) => set(e, 'switch', [...e.table('switch').values()][0]!, { state: 'up' }),
  },
  'drive-failed-in-group': {
    make: (e) => {
      noSpares(e);
      fault(e, '0:2');
    },
    mend: (e) => {
      run(e, { do: 'drive.replace', array: 'lintel-1', drives: ['0:2'] });
    },
  },
  'drive-predicted-failure': {
    make: (e) => fault(e, '0:2', 'drive-predicted'),
    mend: (e) => {
      run(e, { do: 'drive.copy-to-spare', array: 'lintel-1', drives: ['0:2'] });
      finish(e);
      run(e, { do: 'drive.replace', array: 'lintel-1', drives: ['0:2'] });
    },
  },
  'drive-wear-high': {
    make: (e) => set(e, 'drive', drive(e, '0:3'), { wear: 91 }),
    mend: (e) => run(e, { do: 'drive.replace', array: 'lintel-1', drives: ['0:3'] }),
  },
  'drive-wear-out': {
    make: (e) => set(e, 'drive', drive(e, '0:3'), { wear: 104 }),
    mend: (e) => run(e, { do: 'drive.replace', array: 'lintel-1', drives: ['0:3'] }),
  },
  'drive-foreign-label': {
    make: (e) => set(e, 'drive', drive(e, '0:15'), { foreign: true }),
    mend: (e) => run(e, { do: 'drive.clear-label', array: 'lintel-1', drives: ['0:15'] }),
  },
  'drive-media-errors-rising': {
    make: (e) => set(e, 'drive', drive(e, '0:3'), { recentErrors: 12, mediaErrors: 40 }),
    mend: (e) => run(e, { do: 'drive.replace', array: 'lintel-1', drives: ['0:3'] }),
  },
  'drive-single-path': {
    make: (e) => set(e, 'drive', drive(e, '0:3'), { links: 1 }),
    mend: (e) => set(e, 'drive', drive(e, '0:3'), { links: 2 }),
  },
  'drive-sector-mix': {
    make: (e) => set(e, 'drive', drive(e, '0:3'), { sector: 512 }),
    mend: (e) => set(e, 'drive', drive(e, '0:3'), { sector: 4096 }),
  },
  'drive-class-mix': {
    make: (e) => set(e, 'drive', drive(e, '0:3'), { media: 'ssd-sata' }),
    mend: (e) => set(e, 'drive', drive(e, '0:3'), { media: 'ssd-nvme' }),
  },
  'drive-medium-mix': {
    make: (e) => set(e, 'drive', drive(e, '0:3'), { media: 'hdd-7k' }),
    mend: (e) => set(e, 'drive', drive(e, '0:3'), { media: 'ssd-nvme' }),
  },
  'drive-size-stranded': {
    make: (e) => set(e, 'drive', drive(e, '0:3'), { capacity: 7.68e12 }),
    mend: (e) => set(e, 'drive', drive(e, '0:3'), { capacity: 3.84e12 }),
  },
  'group-degraded': {
    make: (e) => {
      noSpares(e);
      fault(e, '0:2');
    },
    mend: (e) => {
      run(e, { do: 'drive.replace', array: 'lintel-1', drives: ['0:2'] });
      finish(e);
    },
  },
  'group-no-redundancy': {
    make: (e) => {
      noSpares(e);
      fault(e, '0:2');
      fault(e, '0:3');
    },
    mend: (e) => {
      run(e, { do: 'drive.replace', array: 'lintel-1', drives: ['0:2'] });
      finish(e);
    },
  },
  'group-lost': {
    make: (e) => {
      noSpares(e);
      for (const ref of ['0:2', '0:3', '0:4']) fault(e, ref);
    },
    mend: (e) => back(e, '0:4'),
  },
  'group-level-zero': {
    make: (e) =>
      run(
        e,
        { do: 'raid-group.create', array: 'lintel-1', name: 'rg-0', level: 'raid0', drives: slots(0, 12, 13) },
        { do: 'pool.extend', array: 'lintel-1', name: 'quay', raidGroups: ['rg-0'], weaker: true },
      ),
    mend: (e) => {
      run(e, { do: 'pool.remove-group', array: 'lintel-1', name: 'quay', raidGroup: 'rg-0' });
      finish(e);
    },
  },
  'group-too-wide': {
    make: (e) =>
      run(e, { do: 'raid-group.create', array: 'lintel-1', name: 'wide', level: 'raid6', drives: slots(1, 0, 16) }),
    mend: (e) => run(e, { do: 'raid-group.delete', array: 'lintel-1', name: 'wide' }),
  },
  'group-single-parity-large': {
    make: (e) =>
      run(e, { do: 'raid-group.create', array: 'lintel-1', name: 'five', level: 'raid5', drives: slots(2, 0, 7) }),
    mend: (e) => run(e, { do: 'raid-group.delete', array: 'lintel-1', name: 'five' }),
  },
  'group-loss-probability': {
    make: (e) =>
      run(e, { do: 'raid-group.create', array: 'lintel-1', name: 'five', level: 'raid5', drives: slots(2, 0, 7) }),
    mend: (e) => run(e, { do: 'raid-group.delete', array: 'lintel-1', name: 'five' }),
  },
  'group-rebuild-slow': {
    make: (e) =>
      run(e, { do: 'raid-group.create', array: 'lintel-1', name: 'slow', level: 'raid6', drives: slots(2, 0, 7) }),
    mend: (e) => run(e, { do: 'raid-group.configure', array: 'lintel-1', name: 'slow', priority: 'high' }),
  },
  'group-enclosure-spof': {
    make: (e) => set(e, 'drive', drive(e, '2:0'), { media: 'ssd-nvme' }),
    mend: (e) => set(e, 'drive', drive(e, '2:0'), { media: 'hdd-7k' }),
  },
  'group-strip-odd': {
    make: (e) => set(e, 'raidGroup', group(e, 'rg-1'), { chunk: 48 * KIB }),
    mend: (e) => set(e, 'raidGroup', group(e, 'rg-1'), { chunk: 64 * KIB }),
  },
  'group-stripe-not-in-extent': {
    make: (e) =>
      run(
        e,
        { do: 'raid-group.create', array: 'lintel-1', name: 'rg-3', level: 'raid6', drives: slots(0, 12, 16) },
        { do: 'pool.extend', array: 'lintel-1', name: 'quay', raidGroups: ['rg-3'] },
      ),
    mend: (e) => {
      run(e, { do: 'pool.remove-group', array: 'lintel-1', name: 'quay', raidGroup: 'rg-3' });
      finish(e);
    },
  },
  'group-scrub-overdue': {
    make: (e) => set(e, 'raidGroup', group(e, 'rg-1'), { scrubbedAt: NOW - 40 * DAY }),
    mend: (e) => run(e, { do: 'raid-group.scrub', array: 'lintel-1', name: 'rg-1' }),
  },
  'declustered-imbalance': {
    make: (e) =>
      run(e, {
        do: 'raid-group.create',
        array: 'purlin-1',
        name: 'wide',
        level: 'distributed',
        drives: slots(0, 0, 55),
        stripe: '2+1',
        spareColumns: 2,
      }),
    mend: (e) => run(e, { do: 'raid-group.delete', array: 'purlin-1', name: 'wide' }),
  },
  'spare-none': { make: noSpares, mend: spares },
  'spare-too-small': {
    make: (e) => set(e, 'drive', drive(e, '0:23'), { capacity: 1.92e12 }),
    mend: (e) => run(e, { do: 'drive.release-spare', array: 'lintel-1', drives: ['0:23'] }),
  },
  'spare-too-few': {
    make: (e) => {
      run(e, { do: 'drive.release-spare', array: 'lintel-1', drives: ['0:23'] });
      // Many more drives of the class than the machine room has, all at work.
      for (let k = 0; k < 300; k++)
        e.apply([created('drive', { ...drive(e, '0:0'), id: `drv_more${k}`, slot: 100 + k, serial: `more ${k}` })]);
    },
    mend: (e) => run(e, { do: 'drive.assign-spare', array: 'lintel-1', drives: ['0:23'] }),
  },
  'spare-consumed': {
    make: (e) => {
      fault(e, '0:2');
      finish(e);
    },
    mend: (e) => {
      run(e, { do: 'drive.replace', array: 'lintel-1', drives: ['0:2'] });
      finish(e);
    },
  },
  'pool-notice': { make: (e) => fill(e, 0.72), mend: unfill },
  'pool-warning': { make: (e) => fill(e, 0.82), mend: unfill },
  'pool-critical': { make: (e) => fill(e, 0.92), mend: unfill },
  'pool-exhausted': {
    make: (e) => {
      const { available } = poolUsage(e, pool(e));
      run(e, {
        do: 'volume.create',
        array: 'lintel-1',
        pool: 'quay',
        name: 'fill',
        size: `${available * 64} MiB`,
        provisioning: 'thick',
      });
    },
    mend: unfill,
  },
  'pool-oversubscribed': {
    make: (e) => run(e, { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'fill', size: '70 TiB' }),
    mend: (e) => run(e, { do: 'volume.delete', array: 'lintel-1', volumes: ['fill'] }),
  },
  'pool-exposure': {
    make: (e) => run(e, { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'fill', size: '40 TiB' }),
    mend: (e) => run(e, { do: 'volume.delete', array: 'lintel-1', volumes: ['fill'] }),
    series: { before: days((k) => 1e13 + k * 5e11), after: days((k) => 1e13 + k * 5e11) },
  },
  'pool-mixed-redundancy': {
    make: (e) =>
      run(
        e,
        { do: 'raid-group.create', array: 'lintel-1', name: 'five', level: 'raid5', drives: slots(0, 12, 16) },
        { do: 'pool.extend', array: 'lintel-1', name: 'quay', raidGroups: ['five'], weaker: true },
      ),
    mend: (e) => {
      run(e, { do: 'pool.remove-group', array: 'lintel-1', name: 'quay', raidGroup: 'five' });
      finish(e);
    },
  },
  'pool-imbalanced': {
    make: (e) => {
      fill(e, 0.6);
      run(
        e,
        { do: 'raid-group.create', array: 'lintel-1', name: 'rg-3', level: 'raid6', drives: slots(0, 12, 17) },
        { do: 'pool.extend', array: 'lintel-1', name: 'quay', raidGroups: ['rg-3'] },
      );
    },
    mend: (e) => {
      run(e, { do: 'pool.rebalance', array: 'lintel-1', name: 'quay' });
      finish(e);
    },
  },
  'pool-slack-high': {
    make: (e) => set(e, 'raidGroup', group(e, 'rg-1'), { usable: group(e, 'rg-1').usable - 60 * 2 ** 20 }),
    mend: () => undefined,
  },
  'pool-evacuation-blocked': {
    make: (e) => {
      fill(e, 0.8);
      set(e, 'raidGroup', group(e, 'rg-1'), { draining: true });
    },
    mend: (e) => set(e, 'raidGroup', group(e, 'rg-1'), { draining: false }),
  },
  'pool-single-group': {
    make: (e) => {
      run(e, { do: 'pool.remove-group', array: 'lintel-1', name: 'quay', raidGroup: 'rg-2' });
      finish(e);
    },
    mend: (e) => run(e, { do: 'pool.extend', array: 'lintel-1', name: 'quay', raidGroups: ['rg-2'] }),
  },
  'volume-thin-unprotected': {
    make: (e) => set(e, 'pool', pool(e), { alertTo: '' }),
    mend: (e) => run(e, { do: 'pool.configure', array: 'lintel-1', name: 'quay', alertTo: 'storage desk' }),
  },
  'reduction-below-plan': {
    make: (e) =>
      run(e, {
        do: 'pool.configure',
        array: 'lintel-1',
        name: 'quay',
        plannedReduction: 3,
        compression: true,
        dedupe: 'scheduled',
      }),
    mend: (e) => run(e, { do: 'pool.configure', array: 'lintel-1', name: 'quay', plannedReduction: 1 }),
  },
  'forecast-warning': {
    make: () => undefined,
    mend: () => undefined,
    series: { before: days((k) => 1.8e13 + k * 2e11), after: days(() => 2e13) },
  },
  'forecast-step': {
    make: () => undefined,
    mend: () => undefined,
    series: { before: days((k) => 1e12 + k * 1e9 + (k > 25 ? 3e12 : 0)), after: days((k) => 1e12 + k * 1e9) },
  },
  'capacity-sum-broken': {
    make: (e) => {
      const run = [...e.table('extent').values()][0]!;
      e.apply([created('extent', { ...run, id: 'ext_lost', volume: 'vol_gone', start: 9000, at: 9000 })]);
    },
    mend: (e) => e.apply([deleted('extent', e.table('extent').get('ext_lost')!)]),
  },
  'volume-unmap-unused': {
    make: (e) => {
      const device = () => [...e.table('hostDevice').values()].find((row) => row.mountPoint)!;
      set(e, 'hostDevice', device(), { writeRate: GIB });
      e.apply(compacted(writeTraffic(e, 10_000, basis.now, newId).effects));
      e.apply(deleteFiles(device(), GIB, 8 * GIB));
    },
    mend: (e) => {
      const device = [...e.table('hostDevice').values()].find((row) => row.mountPoint)!;
      run(e, { do: 'volume.reclaim', array: 'lintel-1', volumes: [e.table('volume').get(device.volume)!.name] });
    },
  },
  'volume-unexported-idle': {
    make: (e) => {
      run(e, { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'idle', size: '1 GiB' });
      set(e, 'volume', volume(e, 'idle'), { createdAt: NOW - 40 * DAY });
    },
    mend: (e) => run(e, { do: 'volume.delete', array: 'lintel-1', volumes: ['idle'] }),
  },
  'volume-size-unaligned': {
    make: (e) => set(e, 'volume', volume(e), { size: volume(e).size - 512 }),
    mend: (e) => run(e, { do: 'volume.resize', array: 'lintel-1', volumes: ['tickets-1'], size: '200 GiB' }),
  },
  'reduction-on-encrypted': {
    make: (e) => {
      const device = [...e.table('hostDevice').values()].find((row) => row.mountPoint)!;
      const written = e.table('volume').get(device.volume)!;
      set(e, 'volume', written, {
        content: { ...written.content, zero: 0, common: 0, family: null, squeeze: 'media' },
      });
      run(
        e,
        { do: 'pool.configure', array: 'lintel-1', name: 'quay', compression: true, dedupe: 'scheduled' },
        { do: 'pool.reduce', array: 'lintel-1', name: 'quay' },
      );
      finish(e);
    },
    mend: (e) => {
      const device = [...e.table('hostDevice').values()].find((row) => row.mountPoint)!;
      run(e, {
        do: 'volume.configure',
        array: 'lintel-1',
        volumes: [e.table('volume').get(device.volume)!.name],
        reduction: false,
      });
    },
  },
};
cases['pool-slack-high'] = {
  make: (e) => {
    run(
      e,
      { do: 'raid-group.create', array: 'lintel-1', name: 'odd', level: 'raid1', drives: slots(1, 20, 21) },
      { do: 'pool.create', array: 'lintel-1', name: 'odd', raidGroups: ['odd'], extentSize: '1 GiB', alertTo: 'desk' },
    );
    set(e, 'raidGroup', group(e, 'odd'), { usable: 20.5 * GIB });
  },
  mend: (e) => set(e, 'raidGroup', group(e, 'odd'), { usable: 20 * GIB }),
};

const of = (estate: Estate, id: string, series?: Sample[]) =>
  findings(
    estate,
    checkContext(estate, NOW, () => series ?? []),
  ).filter((one) => one.check === id);

test('nothing is wrong with a sound chain', () => {
  const estate = sound();
  const found = findings(estate, checkContext(estate, NOW))
    .map((one) => one.check)
    .filter((id) => checks.some((check) => check.id === id));
  expect(found.filter((id) => id !== 'volume-unexported-idle')).toEqual([]);
});

test('every check has a case', () => {
  expect(Object.keys(cases).sort()).toEqual(checks.map((check) => check.id).sort());
  expect(checks.length).toBeGreaterThanOrEqual(39);
});

test.each(checks.map((check) => check.id))('%s appears and goes', (id) => {
  const { make, mend, series } = cases[id]!;
  const estate = sound();
  expect(of(estate, id, series?.after).length).toBe(0);
  make(estate);
  const found = of(estate, id, series?.before);
  expect(found.length).toBeGreaterThan(0);
  for (const one of found) {
    expect(one.says).toMatch(/^[A-Z0-9a-z].*\.$/);
    expect(one.says).not.toMatch(/undefined|NaN|null/);
    expect(one.advice).toMatch(/\.$/);
  }
  mend(estate);
  expect(of(estate, id, series?.after)).toEqual([]);
});

test('the highest mark alone is told', () => {
  const marks = { notice: 70, urgent: 90 };
  expect([60, 70, 80, 90, 100].map((used) => markOf(marks, used, 100))).toEqual([
    'none',
    'notice',
    'warning',
    'urgent',
    'urgent',
  ]);
});

test('a muted finding is marked until its day is over, and shown again', () => {
  const estate = sound();
  noSpares(estate);
  const [one] = of(estate, 'spare-none');
  run(estate, {
    do: 'finding.mute',
    check: 'spare-none',
    subject: one!.subject.id,
    reason: 'Drives are ordered',
    until: new Date(NOW + 5 * DAY).toISOString().slice(0, 10),
  });
  expect(of(estate, 'spare-none').find((row) => row.subject.id === one!.subject.id)!.muted).toMatchObject({
    reason: 'Drives are ordered',
  });
  const later = findings(estate, checkContext(estate, NOW + 7 * DAY)).filter((row) => row.check === 'spare-none');
  expect(later.every((row) => row.muted === null)).toBe(true);
  run(estate, { do: 'finding.unmute', check: 'spare-none', subject: one!.subject.id });
  expect(of(estate, 'spare-none').every((row) => row.muted === null)).toBe(true);
});
