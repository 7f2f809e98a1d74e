import { slots } from '../../../demo/names';
import { basis, carryOut, estateAfter, mounted, refusalsOf } from '../../../demo/workbench';
import { contextFor } from '../change/plan';
import { brokenRules } from '../rules/book';
import { changed, compacted } from '../estate/effects';
import type { Estate } from '../estate/estate';
import { nextJobEnd, workJob } from '../work/scheduler';
import { writeTraffic } from '../lab/traffic';
import { deleteFiles } from '../attach/file-places';
import { PAGE } from '../content/page';
import { poolUsage } from '../pool/usage';
import { GIB, MIB } from '../units/bytes';
import { DAY } from '../units/duration';
import { reclaimable } from '../volume/reclaim';
import { capacityModel } from './capacity';
import { bandWords, forecast, median, runwayWords, type Forecast, type Sample } from './forecast';
import { addWaterfall, brokenSums, emptyWaterfall, poolWaterfall, ratios } from './waterfall';

const newId = contextFor(basis, 8, 8).newId;
const named = <K extends 'volume' | 'pool' | 'raidGroup'>(estate: Estate, kind: K, name: string) =>
  [...estate.table(kind).values()].find((row) => row.name === name)!;
const finish = (estate: Estate): void => {
  for (let next = nextJobEnd(estate); next; next = nextJobEnd(estate))
    estate.apply(compacted(workJob(estate, next.job, next.at, newId).effects));
};

describe('a pool that is half full though little is written', () => {
  const steps = () => {
    const estate = estateAfter([
      { do: 'raid-group.create', array: 'lintel-1', name: 'rg-1', level: 'raid10', drives: slots(0, 0, 3) },
      { do: 'pool.create', array: 'lintel-1', name: 'crew', raidGroups: ['rg-1'], dedupe: 'scheduled' },
      {
        do: 'volume.create',
        array: 'lintel-1',
        pool: 'crew',
        name: 'rota',
        size: '60 GiB',
        count: 2,
        provisioning: 'thick',
      },
      {
        do: 'host.create',
        name: 'gate-1',
        os: 'linux',
        site: 'Nordkai',
        initiators: ['iqn.2031-04.example.skarholt:gate-1'],
        interfaces: [{ name: 'eth0', addresses: ['10.40.1.51/24'] }],
      },
      { do: 'mapping.create', host: 'gate-1', array: 'lintel-1', volumes: ['rota-1', 'rota-2'] },
      { do: 'host.rescan', host: 'gate-1' },
      { do: 'host-device.format', host: 'gate-1', device: 'rota-1', fileSystem: 'xfs', mountPoint: '/srv/a' },
      { do: 'host-device.format', host: 'gate-1', device: 'rota-2', fileSystem: 'xfs', mountPoint: '/srv/b' },
    ]);
    finish(estate);
    for (const volume of [...estate.table('volume').values()])
      estate.apply([
        changed('volume', volume, {
          content: { ...volume.content, family: 'rota', zero: 0, common: 110, squeeze: 'text' },
        }),
      ]);
    for (const device of [...estate.table('hostDevice').values()])
      estate.apply([changed('hostDevice', device, { writeRate: GIB })]);
    const rest = 24 * GIB - [...estate.table('hostDevice').values()][0]!.used;
    estate.apply(compacted(writeTraffic(estate, (rest / GIB) * 1000, basis.now, newId).effects));
    for (const device of [...estate.table('hostDevice').values()])
      estate.apply([changed('hostDevice', device, { writeRate: 0 })]);
    return estate;
  };
  const used = (estate: Estate) => poolUsage(estate, named(estate, 'pool', 'crew')).usedBytes / GIB;

  test('gives room back at every step: shrunk, made thin, reduced; the file system stays mounted', () => {
    const estate = steps();
    expect(used(estate)).toBe(120);
    const grow = { do: 'volume.resize', array: 'lintel-1', volumes: ['rota-1', 'rota-2'], size: '40 GiB' };
    expect(refusalsOf(estate, grow)[0]).toMatchObject({
      code: 'exported',
      mend: 'Shrink the file system to 40 GiB first.',
    });
    carryOut(
      estate,
      [
        { do: 'host-device.shrink', host: 'gate-1', device: 'rota-1', size: '40 GiB' },
        { do: 'host-device.shrink', host: 'gate-1', device: 'rota-2', size: '40 GiB' },
        grow,
        { do: 'host.rescan', host: 'gate-1' },
      ],
      'shrink',
    );
    expect(used(estate)).toBe(80);
    carryOut(estate, [{ do: 'volume.convert', array: 'lintel-1', volumes: ['rota-1', 'rota-2'], to: 'thin' }], 'thin');
    finish(estate);
    expect(used(estate)).toBe(48);
    carryOut(estate, [{ do: 'pool.reduce', array: 'lintel-1', name: 'crew' }], 'reduce');
    finish(estate);
    const { total } = poolWaterfall(estate, named(estate, 'pool', 'crew'));
    // 22 GiB once, twice 2 GiB, and two maps: each file system writes 24 GiB, 11 of 12 parts of it alike.
    expect(total.data / GIB).toBeCloseTo(26, 3);
    expect(total.metadata).toBeGreaterThan(0);
    expect(used(estate)).toBe(Math.ceil((total.data + total.metadata) / (64 * MIB)) / 16);
    expect([...estate.table('hostDevice').values()].every((device) => device.mountPoint)).toBe(true);
    expect(brokenRules(estate)).toEqual([]);
  });

  test('every line of the waterfall is the one before and a named part, to the byte, for volumes and pool', () => {
    const estate = steps();
    carryOut(
      estate,
      [
        { do: 'volume.convert', array: 'lintel-1', volumes: ['rota-1'], to: 'thin' },
        { do: 'pool.configure', array: 'lintel-1', name: 'crew', compression: true },
      ],
      'thin',
    );
    finish(estate);
    carryOut(estate, [{ do: 'pool.reduce', array: 'lintel-1', name: 'crew' }], 'reduce');
    finish(estate);
    const fall = poolWaterfall(estate, named(estate, 'pool', 'crew'));
    expect(brokenSums(estate, fall)).toEqual([]);
    for (const line of fall.volumes.values()) {
      expect(line.provisioned - line.unwritten).toBe(line.written);
      expect(line.written - line.zeros - line.cloneSharing - line.dedupeSaving - line.compressionSaving).toBe(
        line.data,
      );
      expect(line.physical + line.slack).toBe(line.used);
    }
    expect(fall.total.compressionSaving).toBeGreaterThan(0);
    expect(ratios(fall.total).reduction).toBeGreaterThan(1);
    expect(ratios(emptyWaterfall()).reduction).toBeNull();
    const sum = emptyWaterfall();
    for (const line of fall.volumes.values()) addWaterfall(sum, line);
    expect(fall.total.used - sum.used).toBeLessThan(64 * MIB);
    const model = capacityModel(estate);
    const [array] = model.arrays.filter((one) => one.pools.length > 0);
    expect(array!.waterfall).toEqual(array!.pools[0]!.waterfall);
    expect(model.workloads.reduce((total, row) => total + row.waterfall.data, 0)).toBe(fall.total.data);
    const { raw, overhead, spares, unassigned, usable } = array!.parts;
    expect(overhead + spares + unassigned + usable).toBe(raw);
  });
});

describe('what can be had back', () => {
  test('deleted files are reclaimable until they are reclaimed, and new files take their place', () => {
    const estate = estateAfter(mounted);
    const volume = () => [...estate.table('volume').values()].find((row) => row.written > 0)!;
    const device = () => [...estate.table('hostDevice').values()].find((row) => row.volume === volume().id)!;
    estate.apply([changed('hostDevice', device(), { writeRate: GIB })]);
    estate.apply(compacted(writeTraffic(estate, 10_000, basis.now, newId).effects));
    estate.apply([changed('hostDevice', device(), { writeRate: 0 })]);
    const before = volume().written;
    estate.apply(deleteFiles(device(), GIB, 4 * GIB));
    expect(reclaimable(estate, volume())).toBe(4 * GIB);
    expect(capacityModel(estate).had[0]).toMatchObject({
      what: 'reclaimable',
      bytes: 4 * GIB,
      mend: { do: 'volume.reclaim' },
    });
    const held = estate.occupancy.allocated(volume().id);
    carryOut(estate, [{ do: 'volume.reclaim', array: 'lintel-1', volumes: [volume().name] }], 'back');
    expect(held - estate.occupancy.allocated(volume().id)).toBe(64);
    expect(reclaimable(estate, volume())).toBe(0);
    expect(brokenRules(estate)).toEqual([]);
    estate.apply([changed('hostDevice', device(), { writeRate: GIB })]);
    estate.apply(compacted(writeTraffic(estate, 4000, basis.now, newId).effects));
    expect(volume().written).toBe(before);
    expect(volume().holes).toEqual([]);
    expect(brokenRules(estate)).toEqual([]);
  });
});

describe('forecast', () => {
  const series = (days: number, of: (day: number) => number): Sample[] =>
    Array.from({ length: days }, (_, day) => ({ day, bytes: of(day) }));
  const ok = (answer: ReturnType<typeof forecast>): Forecast => {
    if (typeof answer === 'string') throw new Error(answer);
    return answer;
  };
  const GB = 1e9;

  test('the example of the reference: 2 GB a day, six days to go', () => {
    const y = [100, 102, 104, 107, 108];
    const answer = ok(
      forecast(
        series(5, (day) => y[day]! * GB),
        200 * GB,
        120 * GB,
      ),
    );
    expect(answer).toMatchObject({ slope: 2 * GB, level: 108 * GB, days: 6, why: 'grows', weak: true });
  });
  test('edges', () => {
    expect(
      forecast(
        series(1, () => 5),
        10,
        8,
      ),
    ).toBe('too-few-samples');
    expect(
      forecast(
        series(5, () => 5),
        10,
        12,
      ),
    ).toBe('threshold-above-capacity');
    expect(
      ok(
        forecast(
          series(20, () => 5 * GB),
          10 * GB,
          8 * GB,
        ),
      ),
    ).toMatchObject({ slope: 0, low: 0, high: 0, days: null, why: 'flat' });
    expect(
      ok(
        forecast(
          series(20, (day) => (50 - day) * GB),
          90 * GB,
          80 * GB,
        ),
      ),
    ).toMatchObject({ days: null, why: 'falling' });
    expect(
      ok(
        forecast(
          series(20, (day) => day * GB),
          90 * GB,
          10 * GB,
        ),
      ).days,
    ).toBe(0);
  });
  test('a jump that lasts is taken out of the trend and told', () => {
    const answer = ok(
      forecast(
        series(60, (day) => (100 + day + (day >= 30 ? 80 : 0)) * GB),
        1000 * GB,
        900 * GB,
      ),
    );
    expect(answer.slope / GB).toBeCloseTo(1, 6);
    expect(answer.steps).toEqual([{ day: 30, bytes: 80 * GB }]);
    expect(answer.recentStep).toBe(false);
    expect(
      ok(
        forecast(
          series(60, (day) => (100 + day + (day >= 57 ? 80 : 0)) * GB),
          1000 * GB,
          900 * GB,
        ),
      ).recentStep,
    ).toBe(true);
  });
  test('the rhythm of the week is found and does not bend the trend', () => {
    const answer = ok(
      forecast(
        series(84, (day) => (100 + day + (day % 7 < 5 ? 6 : 0)) * GB),
        1000 * GB,
        200 * GB,
      ),
    );
    expect(answer.slope / GB).toBeCloseTo(1, 1);
    expect(answer.daysInSeason).not.toBeNull();
    expect(answer.steps).toEqual([]);
  });
  test('words never promise a date where growth is not certain', () => {
    const noisy = ok(
      forecast(
        series(10, (day) => (100 + ((day * 7) % 5)) * GB),
        1000 * GB,
        900 * GB,
      ),
    );
    expect(runwayWords({ ...noisy, days: 12, latest: null, why: 'grows' })).toBe('not certain to grow');
    expect(runwayWords({ ...noisy, days: 12, latest: 20, why: 'grows' })).toBe('12 days');
    expect(runwayWords({ ...noisy, days: 4000, latest: 5000, why: 'grows' })).toBe('more than 10 years');
    const band = { ...noisy, days: 12, earliest: 10, latest: 15 };
    expect([
      bandWords(band),
      bandWords({ ...band, earliest: 12, latest: 12, weak: false }),
      bandWords({ ...band, latest: null, weak: false }),
      bandWords({ ...band, days: 0 }),
      bandWords('too-few-samples'),
    ]).toEqual([
      'between 10 and 15 days, few samples',
      'the past is so even that all of it says the same',
      'at the earliest in 10 days',
      '',
      '',
    ]);
    expect(runwayWords('too-few-samples')).toBe('too few days on record');
    expect(runwayWords({ ...noisy, days: 0, why: 'reached' })).toBe('reached');
    expect(median([3, 1, 2, 10])).toBe(2.5);
  });
});

test('a page is the grain of it all', () => expect(PAGE * 120).toBe(1.875 * MIB));
test('kept volumes give way to writes that need their room', () => {
  const estate = estateAfter(mounted);
  const pool = [...estate.table('pool').values()][0]!;
  const free = poolUsage(estate, pool).available;
  carryOut(
    estate,
    [
      {
        do: 'volume.create',
        array: 'lintel-1',
        pool: pool.name,
        name: 'old',
        size: `${free * 64} MiB`,
        provisioning: 'thick',
      },
    ],
    'a',
  );
  const old = named(estate, 'volume', 'old');
  estate.apply([changed('volume', old, { written: MIB, writtenAt: basis.now })]);
  carryOut(estate, [{ do: 'volume.delete', array: 'lintel-1', volumes: ['old'], confirm: ['old'] }], 'b');
  expect(named(estate, 'volume', 'old').deletedAt).toBe(basis.now);
  expect(poolUsage(estate, pool).available).toBe(0);
  const device = [...estate.table('hostDevice').values()].find((row) => row.mountPoint)!;
  estate.apply([changed('hostDevice', device, { writeRate: GIB })]);
  const traffic = writeTraffic(estate, 1000, basis.now + DAY, newId);
  expect(traffic.said[0]).toContain('gave way');
  estate.apply(compacted(traffic.effects));
  expect([...estate.table('volume').values()].some((row) => row.name === 'old')).toBe(false);
  expect(brokenRules(estate)).toEqual([]);
});
