import { carryOut, estateAfter, mounted, named, twoTiers } from '../../../demo/workbench';
import { changed } from '../estate/effects';
import { GIB } from '../units/bytes';
import { heatMap, heatMaps } from './heat-map';

/** A pool of flash and disks, with a volume whose first gigabytes lie on the disks. */
function tiered() {
  const estate = estateAfter(mounted);
  carryOut(
    estate,
    [
      ...twoTiers,
      { do: 'volume.activity', array: 'lintel-1', volumes: ['scanner'], kind: 'database', reads: 100, writes: 10 },
    ],
    'tiers',
  );
  const volume = named(estate, 'volume', 'scanner');
  estate.apply([changed('volume', volume, { written: 40 * GIB })]);
  return { estate, pool: named(estate, 'pool', 'hold') };
}

test('hot data on slow media: its heat lies there, and placed by heat it would not', () => {
  const { estate, pool } = tiered();
  const map = heatMap(estate, pool)!;
  expect(map.tiers.map(({ media }) => media)).toEqual(['ssd-nvme', 'hdd-10k']);
  expect(map.tiers[1]!.heat).toBeCloseTo(1, 9);
  expect(map.tiers[0]!.heatBest).toBeCloseTo(1, 9);
  expect(map.serviceMs).toBeCloseTo(7.1, 9);
  expect(map.bestMs).toBeCloseTo(0.1, 9);
  expect(map.gains).toBeCloseTo(1, 9);
  expect(map.volumes).toHaveLength(1);
  // Three tenths are touched at all: the rest is cold.
  const { extents } = map.volumes[0]!;
  expect(map.tiers[1]!.cold / extents).toBeCloseTo(0.7, 1);
});

test('a pool of one class has no map, and one that nobody asks has no mean', () => {
  const { estate, pool } = tiered();
  expect(heatMap(estate, named(estate, 'pool', 'quay'))).toBeNull();
  const volume = named(estate, 'volume', 'scanner');
  estate.apply([changed('volume', volume, { activity: null })]);
  expect(heatMap(estate, pool)).toMatchObject({ serviceMs: null, bestMs: null, gains: 0 });
  expect(heatMaps(estate)).toHaveLength(1);
});
