import { stage } from '../../../demo/protected';
import { slots } from '../../../demo/names';
import { newIds } from '../estate/new-ids';
import { lookUp } from '../operation/inquiry';
import { GIB } from '../units/bytes';
import { writeUpTo } from '../volume/grow';
import { consumerOf } from './consumer';

const array = 'lintel-1';
const prepared = () =>
  stage(
    { do: 'raid-group.create', array, name: 'rg-2', level: 'raid6', drives: slots(0, 10, 19) },
    { do: 'pool.create', array, name: 'hold', raidGroups: ['rg-2'] },
    { do: 'fact.declare', array, pool: 'hold', key: 'hours', value: 'office' },
    { do: 'fact.declare', array, pool: 'quay', key: 'hours', value: 'always' },
    { do: 'class.create', name: 'steady', rules: ['hours is always'] },
    {
      do: 'allotment.create',
      name: 'Ticketing desk',
      size: '500 GiB',
      volumes: 3,
      pools: ['lintel-1 quay 300 GiB'],
      classes: ['steady'],
    },
    { do: 'allotment.carve', allotment: 'Ticketing desk', array, pool: 'quay', name: 'desk', size: '100 GiB' },
  );
const page = (of: ReturnType<typeof prepared>) =>
  consumerOf(of.estate, lookUp(of.estate, 'allotment', 'Ticketing desk')!);

test('a consumer sees what is left, from where more can be taken by the classes, and what was taken', () => {
  const of = prepared();
  const seen = page(of);
  expect(seen).toMatchObject({ bytes: 500 * GIB, takenBytes: 100 * GIB, mostVolumes: 3, classes: ['steady'] });
  // What does not fit the class is not offered; of what fits, no more than is set aside there.
  expect(seen.pools).toEqual([{ array, pool: 'quay', leftBytes: 200 * GIB, why: null }]);
  expect(seen.volumes).toMatchObject([
    { name: 'desk', array, pool: 'quay', size: 100 * GIB, hosts: [], copies: 0, newestCopy: null, keptUntil: null },
  ]);
});

test('hosts, copies and what was given back are told of each volume', () => {
  const of = prepared();
  of.run(
    { do: 'mapping.create', host: 'gate-1', array, volumes: ['desk'] },
    { do: 'host.rescan', host: 'gate-1' },
    { do: 'host-device.format', host: 'gate-1', device: 'desk', fileSystem: 'xfs', mountPoint: '/srv/desk' },
    { do: 'snapshot.create', array, volume: 'desk', name: 'before' },
  );
  expect(page(of).volumes[0]).toMatchObject({
    hosts: [{ name: 'gate-1', mountPoint: '/srv/desk' }],
    copies: 1,
    newestCopy: of.now,
  });
  of.run({ do: 'allotment.carve', allotment: 'Ticketing desk', array, pool: 'quay', name: 'spare', size: '10 GiB' });
  const spare = [...of.estate.table('volume').values()].find(({ name }) => name === 'spare')!;
  of.estate.apply(writeUpTo(of.estate, spare, GIB, newIds('spare'), of.now).effects);
  of.run({ do: 'volume.delete', array, volumes: ['spare'], confirm: ['spare'], keepDays: 7 });
  expect(page(of).volumes.find(({ name }) => name === 'spare')!.keptUntil).toBeGreaterThan(of.now);
});

test('where nothing may be taken it says why', () => {
  const of = prepared();
  for (const name of ['two', 'three'])
    of.run({ do: 'allotment.carve', allotment: 'Ticketing desk', array, pool: 'quay', name, size: '10 GiB' });
  const [quay] = page(of).pools;
  expect(quay).toMatchObject({ leftBytes: 0 });
  expect(quay!.why).toContain('3 volumes allowed, 3 used');
});
