import { slots } from '../../../demo/names';
import { carryOut, codesOf, differences, estateAfter, mounted, named } from '../../../demo/workbench';
import { changed, deleted } from '../estate/effects';
import type { Estate } from '../estate/estate';
import { loadModel } from './model';
import { oneSlot } from './one-slot';
import { slotOf } from './profile';
import { roomOf } from './room';
import { failureStates } from './failure-states';
import { loadWhatIf } from './what-if';
import { floorsLack } from './floors';
import { LAB_START } from '../../../demo/hardware';

const busy = {
  do: 'volume.activity',
  array: 'lintel-1',
  volumes: ['tickets-1'],
  kind: 'database',
  reads: 2000,
  writes: 200,
  week: 'even',
  burst: 1,
};
const at = () => estateAfter([...mounted, busy]);
const limit = { do: 'limit.create', array: 'lintel-1', name: 'quiet', volumes: ['tickets-1'], iops: 500 };
const servedOf = (estate: Estate) => oneSlot(loadModel(estate), slotOf(LAB_START)).volumes[0]!;

test('a volume that a host works with loads its ports, its controller and its group; without paths nothing', () => {
  const estate = at();
  const model = loadModel(estate);
  expect(model.volumes.map(({ name }) => name)).toEqual(['tickets-1']);
  const kinds = model.volumes[0]!.uses.map(({ resource }) => model.resources[resource]!.kind);
  expect(new Set(kinds)).toEqual(new Set(['port', 'controller', 'group']));
  const ports = model.volumes[0]!.uses.filter(({ resource }) => model.resources[resource]!.kind === 'port');
  expect(ports.reduce((sum, use) => sum + use.readVisits, 0)).toBeCloseTo(1, 9);
  const [host] = [named(estate, 'host', 'gate-1')];
  estate.apply(
    estate
      .table('mapping')
      .by('host', host.id)
      .map((row) => deleted('mapping', row)),
  );
  expect(loadModel(estate).volumes).toEqual([]);
});

test('a limit holds at once, is changed, put on more, taken off and dropped; undone it is gone', () => {
  const estate = at();
  expect(servedOf(estate).served).toBeCloseTo(2200, 6);
  carryOut(estate, [limit]);
  expect(servedOf(estate)).toMatchObject({ limited: true });
  expect(servedOf(estate).served).toBeCloseTo(500, 6);
  carryOut(estate, [{ do: 'limit.configure', array: 'lintel-1', limit: 'quiet', iops: 900, burst: 100 }]);
  expect(named(estate, 'loadLimit', 'quiet')).toMatchObject({ iops: 900, burst: 100 });
  carryOut(estate, [{ do: 'limit.apply', array: 'lintel-1', limit: 'quiet', host: 'gate-1' }]);
  expect(codesOf(estate, { do: 'limit.apply', array: 'lintel-1', limit: 'quiet', volumes: ['tickets-1'] })).toEqual([
    'limit-there-already',
  ]);
  carryOut(estate, [{ do: 'limit.lift', array: 'lintel-1', limit: 'quiet', volumes: ['tickets-1'] }]);
  expect(servedOf(estate).limited).toBe(true);
  expect(codesOf(estate, { do: 'limit.lift', array: 'lintel-1', limit: 'quiet', volumes: ['tickets-1'] })).toEqual([
    'limit-not-there',
  ]);
  carryOut(estate, [{ do: 'limit.delete', array: 'lintel-1', limit: 'quiet' }]);
  expect(differences(estate, at())).toEqual([]);
});

test('larger I/O counts more, size decides where it is asked to, hours where they are said', () => {
  const estate = at();
  carryOut(estate, [{ ...busy, ioSize: '256 KiB' }, limit]);
  expect(servedOf(estate).served).toBeCloseTo(125, 6);
  carryOut(estate, [
    { do: 'limit.configure', array: 'lintel-1', limit: 'quiet', iops: '', iopsPerGiB: 10, mostIops: 1500 },
  ]);
  expect(servedOf(estate).served).toBeCloseTo(1500 / 4, 6);
  carryOut(estate, [{ do: 'limit.configure', array: 'lintel-1', limit: 'quiet', fromHour: 20, untilHour: 22 }]);
  expect(servedOf(estate).limited).toBe(false);
});

test('what cannot be meant is refused in words', () => {
  const estate = at();
  const codes = (more: Record<string, unknown>) => codesOf(estate, { ...limit, ...more });
  expect(codes({ iops: 0 })).toEqual(['qos-limit-zero']);
  expect(codes({ floor: 900 })).toEqual(['qos-floor-above-limit']);
  expect(codes({ weight: 0 })).toEqual(['qos-weight-not-positive']);
  expect(codes({ iops: '' })).toEqual(['qos-limit-without-effect']);
  expect(codes({ iops: '', floor: 10, burst: 5 })).toEqual(['qos-burst-without-limit']);
  expect(codes({ fromHour: 5 })).toEqual(['qos-hours-half-said']);
  expect(codes({ iopsPerGiB: 5, leastIops: 90, mostIops: 10 })).toEqual(['qos-ends-turned-round']);
  expect(codes({ rate: '20 apples' })).toEqual(['unit-missing']);
  expect(codes({ volumes: ['tickets-9'] })).toEqual(['volume-unknown']);
  carryOut(estate, [limit]);
  expect(codesOf(estate, { ...limit, name: 'QUIET' })).toEqual(['name-taken']);
});

test('floors that the worst single failure could not hold are refused, and what would fit is said', () => {
  const estate = at();
  const promise = (floor: number) => ({ ...limit, iops: '', floor });
  expect(codesOf(estate, promise(1e8))).toEqual(['qos-floors-too-many']);
  expect(codesOf(estate, promise(500))).toEqual([]);
  const { id } = named(estate, 'array', 'lintel-1');
  carryOut(estate, [promise(500)]);
  expect(floorsLack(estate, id)).toBeNull();
  const limited = named(estate, 'loadLimit', 'quiet');
  estate.apply([changed('loadLimit', limited, { floor: 1e8 })]);
  expect(floorsLack(estate, id)!.share).toBeGreaterThan(1);
});

test('what is left: with one controller lost the other carries all', () => {
  const estate = at();
  const { id } = named(estate, 'array', 'lintel-1');
  const rooms = roomOf(failureStates(estate, id)).filter(({ kind, array }) => kind === 'controller' && array === id);
  expect(rooms).toHaveLength(2);
  const [busiest] = [...rooms].sort((a, b) => b.rho - a.rho);
  const idle = rooms.find((one) => one !== busiest)!;
  expect(idle.worst).toBeGreaterThan(idle.rho);
  expect(idle.worst).toBeCloseTo(busiest!.rho, 1);
});

test('a limit on a consumer holds for what it took, and for what it takes later, until it is taken off', () => {
  const estate = at();
  const desk = { array: 'lintel-1', limit: 'quiet', consumer: 'Desk' };
  carryOut(
    estate,
    [
      { do: 'allotment.create', name: 'Desk', size: '1 TiB' },
      { ...limit, volumes: [], consumer: 'Desk' },
    ],
    'desk',
  );
  expect(servedOf(estate).served).toBeGreaterThan(2000);
  carryOut(estate, [{ do: 'allotment.take', allotment: 'Desk', array: 'lintel-1', volumes: ['tickets-1'] }], 'take');
  expect(servedOf(estate).served).toBeLessThanOrEqual(505);
  expect(codesOf(estate, { do: 'limit.lift', ...desk, consumer: undefined, volumes: ['tickets-1'] })).toEqual([
    'limit-not-there',
  ]);
  carryOut(estate, [{ do: 'limit.lift', ...desk }], 'lift');
  expect(servedOf(estate).served).toBeGreaterThan(2000);
});

test('volumes, workloads and hosts that go take their uses of limits along', () => {
  const estate = at();
  carryOut(estate, [
    { do: 'workload.create', name: 'Ticketing' },
    { ...limit, workload: 'Ticketing' },
    { do: 'workload.delete', name: 'Ticketing' },
  ]);
  expect(estate.table('limitUse').size).toBe(1);
});

describe('what if', () => {
  test('a controller lost: its partner carries both; a workload grown: everything it uses is busier', () => {
    const estate = at();
    carryOut(estate, [
      { do: 'workload.create', name: 'Ticketing' },
      { do: 'volume.configure', array: 'lintel-1', volumes: ['tickets-1'], workload: 'Ticketing' },
    ]);
    const owner = estate.table('controller').get(named(estate, 'volume', 'tickets-1').owner)!;
    const lost = loadWhatIf(estate, { lost: owner.id });
    const partner = lost.resources.find(({ name }) => name === `lintel-1 ${owner.name === 'a' ? 'b' : 'a'}`)!;
    expect(partner.was).toBe(0);
    expect(partner.is).toBeGreaterThan(0);
    expect(lost.silent).toEqual([]);
    const grown = loadWhatIf(estate, { grows: { workload: named(estate, 'workload', 'Ticketing').id, factor: 3 } });
    for (const { was, is } of grown.resources) expect(is).toBeCloseTo(3 * was, 9);
    expect(loadWhatIf(estate, {})).toMatchObject({ resources: [], volumes: [], silent: [] });
  });

  test('a volume in another pool asks the groups of that one', () => {
    const estate = at();
    carryOut(
      estate,
      [
        { do: 'raid-group.create', array: 'lintel-1', name: 'slow', level: 'raid6', drives: slots(1, 0, 7) },
        { do: 'pool.create', array: 'lintel-1', name: 'hold', raidGroups: ['slow'] },
      ],
      'later',
    );
    const [volume, pool] = [named(estate, 'volume', 'tickets-1').id, named(estate, 'pool', 'hold').id];
    const moved = loadWhatIf(estate, { moves: { volume, pool } });
    expect(moved.resources.find(({ name }) => name === 'lintel-1 slow')!.is).toBeGreaterThan(0.1);
    expect(moved.volumes[0]!.isS).toBeGreaterThan(moved.volumes[0]!.wasS);
  });
});
