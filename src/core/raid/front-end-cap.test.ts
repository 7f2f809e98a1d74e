import { demoEstate } from '../../../demo/scenario';
import { named } from '../../../demo/workbench';
import { changed } from '../estate/effects';
import { KIB, MIB } from '../units/bytes';
import { capacityOf } from '../network/link';
import { CONTROLLER_BANDWIDTH } from './choices';
import { levelCase, type LevelCase, type Use } from './compare';
import { frontEndCap, underCap } from './front-end-cap';

const { estate } = demoEstate();
const array = named(estate, 'array', 'lintel-1');
const serving = () =>
  estate
    .table('port')
    .by('array', array.id)
    .filter((port) => port.role !== 'none');

test('an array lets through what the serving ports of its controllers carry, and no more than a controller moves', () => {
  const byController = new Map<string, number>();
  for (const port of serving())
    byController.set(port.controller, (byController.get(port.controller) ?? 0) + capacityOf(port));
  const sums = [...byController.values()];
  expect(frontEndCap(estate, array.id)).toEqual({
    bytesPerSecond: sums.reduce((sum, one) => sum + Math.min(one, CONTROLLER_BANDWIDTH), 0),
    by: sums.some((one) => one > CONTROLLER_BANDWIDTH) ? 'controllers' : 'ports',
  });
  const down = demoEstate().estate;
  for (const port of down.table('port').by('array', array.id)) down.apply([changed('port', port, { role: 'none' })]);
  expect(frontEndCap(down, array.id)).toBeNull();
});

test('a capped rate keeps its I/O size; what stays below the cap is as it was', () => {
  expect(underCap({ iops: 1000, bytesPerSecond: 4e9 }, { bytesPerSecond: 1e9 })).toEqual({
    iops: 250,
    bytesPerSecond: 1e9,
  });
  const slow = { iops: 10, bytesPerSecond: 100 };
  expect(underCap(slow, { bytesPerSecond: 100 })).toBe(slow);
  expect(underCap(slow, null)).toBe(slow);
});

test('the comparison of levels says which is held back by what; small I/O of disks is not', () => {
  const drives = [...estate.table('drive').values()]
    .filter((drive) => drive.array === array.id)
    .slice(0, 12)
    .map((drive) => ({ ...drive, media: 'ssd-nvme' as const, capacity: 4e12 }));
  const use: Use = { load: 0.3, priority: 'normal', reads: 1, ioSize: MIB, replaceHours: 0 };
  const cap = { bytesPerSecond: 3.2e9, by: 'ports' as const };
  const free = levelCase({ level: 'raid6' }, drives, 64 * KIB, use) as LevelCase;
  const held = levelCase({ level: 'raid6' }, drives, 64 * KIB, { ...use, cap }) as LevelCase;
  expect(free.bytesPerSecond).toBeGreaterThan(3.2e9);
  expect(free.capped).toBeNull();
  expect(held).toMatchObject({ bytesPerSecond: 3.2e9, capped: { by: 'ports', drives: free.bytesPerSecond } });
  expect(held.iops * MIB).toBeCloseTo(3.2e9, -1);
  const disks = drives.map((drive) => ({ ...drive, media: 'hdd-7k' as const }));
  const small = levelCase({ level: 'raid6' }, disks, 64 * KIB, { ...use, ioSize: 8 * KIB, cap }) as LevelCase;
  expect(small.capped).toBeNull();
});
