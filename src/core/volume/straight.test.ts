import { basis, carryOut, estateAfter, mapped, named } from '../../../demo/workbench';
import { planChange } from '../change/plan';
import type { OperationDocument } from '../change/registry';
import { brokenRules } from '../rules/book';
import { trace } from '../trace/trace';
import type { Estate } from '../estate/estate';
import { reverse } from '../estate/reverse';

const group: OperationDocument = {
  do: 'raid-group.create',
  array: 'lintel-1',
  name: 'shelf',
  level: 'raid5',
  drives: ['0:12', '0:13', '0:14', '0:15'],
};
const carve = (more: Record<string, unknown> = {}): OperationDocument => ({
  do: 'volume.create',
  array: 'lintel-1',
  raidGroup: 'shelf',
  name: 'ledger',
  size: '100 GiB',
  ...more,
});
const codes = (estate: Estate, operation: OperationDocument) =>
  planChange(estate, [operation], { ...basis, seed: 'asked' }).refusals.map(({ code, field }) => `${code} ${field}`);
let count = 0;
/** Each with ids of its own. */
const run = (estate: Estate, operations: OperationDocument[]) => carryOut(estate, operations, `straight ${count++}`);
const made = (...operations: OperationDocument[]) => {
  const estate = estateAfter(mapped);
  run(estate, [group, ...operations]);
  return estate;
};

test('volumes straight from a group are thick, each in one run; several go at once', () => {
  const estate = made(carve({ count: 3, provisioning: 'thin' }));
  const volumes = [...estate.table('volume').values()].filter((row) => row.name.startsWith('ledger'));
  expect(volumes.map((row) => [row.name, row.provisioning])).toEqual([
    ['ledger-1', 'thick'],
    ['ledger-2', 'thick'],
    ['ledger-3', 'thick'],
  ]);
  for (const volume of volumes) expect(estate.table('extent').by('volume', volume.id)).toHaveLength(1);
  const [room] = [...estate.table('pool').values()].filter((pool) => pool.direct);
  expect(room).toMatchObject({ name: 'shelf, no pool', reserve: 0 });
  expect(brokenRules(estate)).toEqual([]);
});

test('everything after it is the same: mapped, traced, grown, retired and given up; then the group is free', () => {
  const estate = made(carve());
  run(estate, [
    { do: 'mapping.create', host: 'gate-1', array: 'lintel-1', volumes: ['ledger'] },
    { do: 'host.rescan', host: 'gate-1' },
    { do: 'host-device.format', host: 'gate-1', device: 'ledger', fileSystem: 'xfs', mountPoint: '/srv/ledger' },
  ]);
  const of = trace(estate, named(estate, 'host', 'gate-1'), named(estate, 'volume', 'ledger'));
  expect(of.hops.map((hop) => hop.state)).not.toContain('fail');
  run(estate, [{ do: 'volume.resize', array: 'lintel-1', volumes: ['ledger'], size: '200 GiB' }]);
  expect(estate.table('extent').by('volume', named(estate, 'volume', 'ledger').id)).toMatchObject([
    { start: 0, at: 0 },
  ]);
  run(estate, [
    { do: 'host-device.unmount', host: 'gate-1', device: 'ledger' },
    { do: 'mapping.delete', host: 'gate-1', array: 'lintel-1', volumes: ['ledger'] },
    { do: 'host.rescan', host: 'gate-1' },
    { do: 'volume.delete', array: 'lintel-1', volumes: ['ledger'], confirm: ['ledger'] },
    { do: 'volume.purge', array: 'lintel-1', volumes: ['ledger'] },
  ]);
  expect(named(estate, 'raidGroup', 'shelf').pool).toBeNull();
  expect([...estate.table('pool').values()].some((pool) => pool.direct)).toBe(false);
  expect(codes(estate, { do: 'pool.create', array: 'lintel-1', name: 'p', raidGroups: ['shelf'] })).toEqual([]);
});

test('a run must be long enough; the longest is told', () => {
  const estate = made(carve({ name: 'a', size: '100 GiB' }), carve({ name: 'b', size: '100 GiB' }));
  run(estate, [
    { do: 'volume.delete', array: 'lintel-1', volumes: ['a'], keepDays: 0 },
    carve({ name: 'c', size: '60 GiB' }),
  ]);
  // First fit: into the hole that a left.
  expect(estate.table('extent').by('volume', named(estate, 'volume', 'c').id)).toMatchObject([
    { start: 0, count: 960 },
  ]);
  const [refusal] = planChange(estate, [carve({ name: 'd', size: '900 TiB' })], basis).refusals;
  expect(refusal).toMatchObject({ code: 'pool-too-small', field: 'size' });
  expect(refusal!.message).toContain('has no free run longer than');
});

test('taken back, the room goes too', () => {
  const estate = made();
  const steps = planChange(estate, [carve()], { ...basis, seed: 'back' }).steps;
  for (const step of steps) estate.apply(step.effects);
  const back = reverse(
    estate,
    steps.flatMap((step) => step.effects),
  );
  expect(back.conflicts).toEqual([]);
  estate.apply(back.effects);
  expect(named(estate, 'raidGroup', 'shelf').pool).toBeNull();
});

test('the name of the room follows the group', () => {
  const estate = made(carve());
  run(estate, [{ do: 'raid-group.configure', array: 'lintel-1', name: 'shelf', newName: 'deep' }]);
  expect([...estate.table('pool').values()].find((pool) => pool.direct)!.name).toBe('deep, no pool');
});

test.each<[string, OperationDocument]>([
  ['pool-and-group raidGroup', carve({ pool: 'quay' })],
  ['pool-unknown pool', carve({ raidGroup: undefined })],
  ['raid-group-unknown raidGroup', carve({ raidGroup: 'x' })],
  ['no-pool name', { do: 'pool.configure', array: 'lintel-1', name: 'shelf, no pool', notice: 50 }],
  ['no-pool pool', carve({ raidGroup: undefined, pool: 'shelf, no pool' })],
  ['no-pool volumes', { do: 'volume.convert', array: 'lintel-1', volumes: ['first'], to: 'thin' }],
  ['in-pool name', { do: 'raid-group.delete', array: 'lintel-1', name: 'shelf' }],
])('%s is refused', (code, operation) => expect(codes(made(carve({ name: 'first' })), operation)).toEqual([code]));

test('a group under a pool carves nothing straight', () => {
  const estate = estateAfter(mapped);
  const [used] = [...estate.table('raidGroup').values()].filter((row) => row.pool);
  expect(codes(estate, carve({ raidGroup: used!.name }))).toEqual(['in-pool raidGroup']);
});
