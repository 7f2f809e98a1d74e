import { demoEstate } from '../../../demo/scenario';
import { attachedEstate } from '../../../bench/attached-estate';
import { changed } from '../estate/effects';
import { Estate } from '../estate/estate';
import { unpacked } from '../units/packed';
import { whole } from '../units/in-parts';
import { chainOf } from './chain';
import { spanModel } from './model';
import { searching } from './search';
import { hostsInSight, spanSight, storeyInSight, unpackStorey } from './sight';

const { estate } = demoEstate();
const model = spanModel(estate);

describe('the Span by what is in sight', () => {
  test('of few arrays and hosts all is told at once, and it is what the whole says', () => {
    const sight = whole(spanSight(estate));
    expect(sight.storeys.map(unpackStorey)).toEqual(model.arrays);
    expect(sight.ports).toEqual(model.hosts.map(({ id, interfaces }) => ({ id, interfaces })));
    expect(unpacked(sight.hosts).map(({ name, paths, ports }) => ({ name, paths, ports }))).toEqual(
      model.hosts.map(({ name, paths, interfaces }) => ({ name, paths, ports: interfaces.length })),
    );
    const { networks, totals, faults } = model;
    expect(sight).toMatchObject({ networks, totals, faults });
    expect(sight.heads.map(({ name }) => name)).toEqual(model.arrays.map(({ name }) => name));
  });

  test('one storey, and hosts by id; what is not there is left out', () => {
    const [array] = model.arrays;
    expect(unpackStorey(whole(storeyInSight(estate, array!.id))!)).toEqual(array);
    expect(whole(storeyInSight(estate, 'arr_none'))).toBeUndefined();
    const [one, two] = model.hosts;
    expect(hostsInSight(estate, [two!.id, 'host_none', one!.id])).toEqual([two, one]);
  });

  test('of a large estate the first answer stays small: storeys and ports of hosts wait', () => {
    const large = new Estate();
    large.apply(attachedEstate({ arrays: 6, portsPerArray: 8, hosts: 400, volumes: 12_000, seed: 'sight' }));
    const sight = whole(spanSight(large));
    expect(sight.storeys).toEqual([]);
    expect(sight.ports).toBeNull();
    expect(sight.heads).toHaveLength(6);
    expect(JSON.stringify(sight).length).toBeLessThan(40_000);
    const volumes = unpackStorey(whole(storeyInSight(large, sight.heads[0]!.id))!).volumes;
    expect(volumes.every(({ paths }) => paths.usable === 4)).toBe(true);
  });

  test('a chain tells on which arrays it runs', () => {
    const array = model.arrays.find(({ volumes }) => volumes.length > 0)!;
    expect(chainOf(estate, { kind: 'volume', id: array.volumes[0]!.id }).array).toEqual([array.id]);
  });
});

test('two searches at once, and a change between them, leave the texts as the rows are', () => {
  const { estate: demo } = demoEstate();
  const volume = [...demo.table('volume').values()].find(({ name }) => name === 'tickets')!;
  const first = searching(demo, 'afterwards');
  // It stops in the middle of the texts of some kind; meanwhile another goes through.
  for (let k = 0; k < 3; k++) first.next();
  demo.apply([changed('volume', volume, { name: 'afterwards' })]);
  expect(whole(searching(demo, 'afterwards'))).toMatchObject([{ name: 'afterwards' }]);
  whole(first);
  demo.apply([changed('volume', { ...volume, name: 'afterwards' }, { name: 'tickets' })]);
  expect(whole(searching(demo, 'tickets'))[0]).toMatchObject({ kind: 'volume', name: 'tickets' });
  expect(whole(searching(demo, 'afterwards'))).toEqual([]);
});
