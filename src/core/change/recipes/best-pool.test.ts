import { slots } from '../../../../demo/names';
import { carryOut, estateAfter, mounted, named, refusalsOf } from '../../../../demo/workbench';
import { GIB } from '../../units/bytes';
import { rankPools } from './best-pool';

test('a pool whose drives are too busy comes after one that has room for more work', () => {
  const estate = estateAfter(mounted);
  carryOut(
    estate,
    [
      { do: 'raid-group.create', array: 'lintel-1', name: 'rg-2', level: 'raid6', drives: slots(0, 10, 19) },
      { do: 'pool.create', array: 'lintel-1', name: 'tide', raidGroups: ['rg-2'] },
    ],
    'second',
  );
  const host = named(estate, 'host', 'gate-1');
  // Without work it is the one that has more room, which is filled to be the other.
  const ballast = { do: 'volume.create', array: 'lintel-1', pool: 'tide', name: 'ballast', size: '2 TiB' };
  carryOut(estate, [{ ...ballast, provisioning: 'thick' }], 'third');
  const idle = rankPools(estate, [host], 10 * GIB, false, null);
  expect(idle.map(({ pool }) => pool.name)).toEqual(['quay', 'tide']);
  expect(idle[0]!.score).toBeGreaterThan(idle[1]!.score!);
  expect(idle[0]!.says).toMatch(/, score \d+ of 100, .* weakest$/);
  const asks = {
    do: 'volume.activity',
    array: 'lintel-1',
    volumes: ['tickets-1'],
    kind: 'database',
    ioSize: '64 KiB',
    reads: 1,
  };
  carryOut(estate, [{ ...asks, writes: 40_000 }], 'asks');
  const ranked = rankPools(estate, [host], 10 * GIB, false, null);
  const quay = ranked.find(({ pool }) => pool.name === 'quay')!;
  expect(quay.busy).toBeGreaterThan(1);
  expect(quay.says).toContain('too busy');
  expect(ranked[0]!.pool.name).toBe('tide');
});

test('only pools that fit the class asked for, which the volume is put under in the same go', () => {
  const estate = estateAfter(mounted);
  carryOut(
    estate,
    [
      { do: 'class.create', name: 'far', rules: ['site is Molenhaven'] },
      { do: 'class.create', name: 'near', rules: ['site is Nordkai'] },
    ],
    'classes',
  );
  const give = { do: 'storage.give', host: 'gate-1', size: '10 GiB', mount: false };
  const refused = refusalsOf(estate, { ...give, class: 'far' });
  expect(refused[0]).toMatchObject({ code: 'no-pool-fits' });
  expect(refused[0]!.message).toContain('does not fit far: site is Nordkai, wanted site is Molenhaven');
  expect(refusalsOf(estate, { ...give, class: 'nobody' })[0]).toMatchObject({ field: 'class' });
  carryOut(estate, [{ ...give, class: 'near' }], 'give');
  const [use] = [...estate.table('classUse').values()];
  expect(estate.table('volume').get(use!.volume)!.name).toBe('gate-1');
});
