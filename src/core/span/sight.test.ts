import { demoEstate } from '../../../demo/scenario';
import { estateAfter, mapped } from '../../../demo/workbench';
import { attachedEstate } from '../../../bench/attached-estate';
import { changed, created } from '../estate/effects';
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

  test('all that is at work is told with what it works on, but for what stands still', () => {
    const busy = estateAfter([
      ...mapped,
      { do: 'volume.convert', array: 'lintel-1', volumes: ['tickets-1'], to: 'thick' },
    ]);
    const told = () => whole(spanSight(busy)).work.map(({ name, says }) => `${name} ${says}`);
    expect(told()).toEqual(expect.arrayContaining(['lintel-1 tickets-1 converted', 'lintel-1 rg-1 initialised']));
    const job = [...busy.table('job').values()].find(({ kind }) => kind === 'volume-convert')!;
    busy.apply([changed('job', job, { paused: true })]);
    expect(told()).not.toContain('lintel-1 tickets-1 converted');
  });

  test('a chain tells on which arrays it runs', () => {
    const array = model.arrays.find(({ volumes }) => volumes.length > 0)!;
    expect(chainOf(estate, { kind: 'volume', id: array.volumes[0]!.id }).array).toEqual([array.id]);
  });
});

test('two searches at once, and changes between them, leave the texts as the rows are', () => {
  for (let parts = 1; parts <= 24; parts++) {
    const view = estateAfter(mapped);
    const volume = [...view.table('volume').values()][0]!;
    const naa = (k: number) => `6${String(k).padStart(31, '0')}`;
    view.apply(
      Array.from({ length: 700 }, (_, k) =>
        created('volume', { ...volume, id: `vol_${k}`, name: `m-${k}`, naa: naa(k) }),
      ),
    );
    const first = searching(view, 'afterwards');
    // It stops somewhere, perhaps in the middle of a kind's rows; meanwhile one is renamed, and another search goes through.
    for (let k = 0; k < parts; k++) first.next();
    view.apply([changed('volume', volume, { name: 'afterwards' })]);
    expect(whole(searching(view, 'afterwards'))).toMatchObject([{ name: 'afterwards' }]);
    for (let next = first.next(); !next.done; next = first.next());
    view.apply([changed('volume', { ...volume, name: 'afterwards' }, { name: volume.name })]);
    expect([parts, whole(searching(view, volume.name))[0]?.id]).toEqual([parts, volume.id]);
    expect([parts, whole(searching(view, 'afterwards'))]).toEqual([parts, []]);
  }
});
