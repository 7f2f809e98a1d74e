import { demoEstate } from '../../../demo/scenario';
import { codesOf, estateAfter, mapped, named, refusalsOf } from '../../../demo/workbench';
import { changed } from '../estate/effects';
import type { Estate } from '../estate/estate';

const carve = { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'late', size: '1 GiB' };
const down = (estate: Estate, kind: 'controller' | 'interface' | 'enclosure', of: 'array' | 'host', name: string) => {
  const owner = named(estate, of, name);
  for (const row of estate.table(kind).values())
    if ((row as unknown as Record<string, string>)[of] === owner.id)
      estate.apply([changed(kind, row, { state: 'down' })]);
};

test('what an array without controllers would not answer to is refused when it is foretold', () => {
  const { estate } = demoEstate();
  expect(codesOf(estate, carve)).toEqual([]);
  down(estate, 'controller', 'array', 'lintel-1');
  expect(refusalsOf(estate, carve)).toMatchObject([
    { code: 'array-does-not-answer', subject: { name: 'lintel-1' }, mend: 'Bring a controller up again first.' },
  ]);
  // Its enclosures being silent as well is not what stands in the way first.
  down(estate, 'enclosure', 'array', 'lintel-1');
  expect(codesOf(estate, carve)).toEqual(['array-does-not-answer']);
});

test('zones wait for every switch of their fabric', () => {
  const { estate } = demoEstate();
  const activate = { do: 'zone-set.activate', fabric: 'A', zoneSet: [...estate.table('zoneSet').values()][0]!.name };
  const [first] = estate.table('switch').by('fabric', named(estate, 'fabric', 'A').id);
  estate.apply([changed('switch', first!, { state: 'down' })]);
  expect(codesOf(estate, activate)).toContain('switch-does-not-answer');
});

test('a file system is made and mounted only where a path leads', () => {
  const estate = estateAfter([...mapped, { do: 'host.rescan', host: 'gate-1' }]);
  const format = {
    do: 'host-device.format',
    host: 'gate-1',
    device: 'tickets-1',
    fileSystem: 'xfs',
    mountPoint: '/srv/t',
  };
  expect(codesOf(estate, format)).toEqual([]);
  down(estate, 'interface', 'host', 'gate-1');
  expect(codesOf(estate, format)).toEqual(['no-path']);
});

test('a pool that is lost with its enclosures says which to bring up', () => {
  const { estate } = demoEstate();
  down(estate, 'enclosure', 'array', 'lintel-1');
  const [refusal] = refusalsOf(estate, carve);
  expect(refusal).toMatchObject({ code: 'pool-offline' });
  expect(refusal!.mend).toMatch(/^Bring enclosures 0, 1.* up again, or choose another pool\.$/);
});
