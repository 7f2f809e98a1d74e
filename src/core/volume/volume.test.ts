import { slots } from '../../../demo/names';
import {
  bareEstate,
  basis,
  carryOut,
  codesOf,
  estateAfter,
  mapped,
  refusalsOf,
  smallChain,
} from '../../../demo/workbench';
import { contextFor } from '../change/plan';
import { brokenRules } from '../rules/book';
import { changed, created } from '../estate/effects';
import type { Estate } from '../estate/estate';
import { poolUsage } from '../pool/usage';
import { GIB, MIB } from '../units/bytes';
import { volumeCreate } from './create';
import { writeUpTo } from './grow';
import { groupsUnder, servingController, volumeState } from './health';

const base = smallChain.slice(0, 2);
const volume = (more: Record<string, unknown> = {}) => ({
  do: 'volume.create',
  array: 'lintel-1',
  pool: 'quay',
  name: 'booking',
  size: '500 GiB',
  ...more,
});
const newId = contextFor(basis, 9, 9).newId;
const named = (estate: Estate, name: string) => [...estate.table('volume').values()].find((row) => row.name === name)!;

describe('volume.create', () => {
  test.each([
    ['unit-missing', { size: '500' }],
    ['unit-missing', { size: 500 }],
    ['unit-unknown', { size: '500 GX' }],
    ['zero', { size: '0 GiB' }],
    ['size-not-in-blocks', { size: '100000 B' }],
    ['size-not-in-blocks', { size: '2560 B', blockSize: 4096 }],
    ['workload-unknown', { workload: 'nobody' }],
    ['negative', { size: '-1 GiB' }],
    ['decimal-comma', { size: '1,5 TiB' }],
    ['too-large', { size: '9 PiB' }],
    ['pool-unknown', { pool: 'hold' }],
    ['controller-unknown', { owner: 'z' }],
    ['name-missing', { name: '' }],
    ['parameter-wrong', { count: 0 }],
    ['parameter-wrong', { count: 1001 }],
    ['parameter-wrong', { count: 1.5 }],
    ['parameter-wrong', { provisioning: 'medium' }],
    ['pool-too-small', { size: '500 TiB', provisioning: 'thick' }],
  ])('is refused: %s', (code, more) => expect(codesOf(estateAfter(base), volume(more))).toContain(code));

  test('a series too large as a whole is refused before its first volume, with how many would fit', () => {
    const [refusal] = refusalsOf(estateAfter(base), volume({ size: '5 TiB', count: 9, provisioning: 'thick' }));
    expect(refusal).toMatchObject({ code: 'pool-too-small', mend: 'Carve 5, make them smaller, or make them thin.' });
  });

  test('a series is named, and its owners are balanced', () => {
    const estate = estateAfter([...base, volume({ count: 4, name: 'log-##' })]);
    const rows = [...estate.table('volume').values()];
    expect(rows.map((row) => row.name)).toEqual(['log-01', 'log-02', 'log-03', 'log-04']);
    expect(new Set(rows.map((row) => row.owner)).size).toBe(2);
    expect(new Set(rows.map((row) => row.naa)).size).toBe(4);
  });

  test('a size is rounded up to whole pages, and that is said', () => {
    const estate = estateAfter(base);
    const [step] = carryOut(estate, [volume({ size: '102400 B' })]);
    expect(named(estate, 'booking').size).toBe(112 * 1024);
    expect(step!.notes[0]).toContain('rounded up');
  });

  test('thin takes nothing at first, thick takes all', () => {
    const estate = estateAfter([...base, volume(), volume({ name: 'thick', provisioning: 'thick', size: '10 GiB' })]);
    expect(estate.occupancy.allocated(named(estate, 'booking').id)).toBe(0);
    expect(estate.occupancy.allocated(named(estate, 'thick').id)).toBe(160);
    expect(brokenRules(estate)).toEqual([]);
  });

  test('a pool without an extent to give refuses thin volumes too', () => {
    const estate = bareEstate();
    carryOut(estate, [
      { do: 'raid-group.create', array: 'lintel-1', name: 'rg-1', level: 'raid1', drives: slots(0, 0, 1) },
      { do: 'pool.create', array: 'lintel-1', name: 'quay', raidGroups: ['rg-1'], extentSize: '1 GiB' },
    ]);
    const { available } = poolUsage(estate, [...estate.table('pool').values()][0]!);
    carryOut(estate, [volume({ size: `${available} GiB`, provisioning: 'thick' })], 'fill');
    expect(codesOf(estate, volume({ name: 'more' }))).toEqual(['pool-full']);
  });

  test('foretells promise and fill', () => {
    const told = volumeCreate.foretell(
      estateAfter(base),
      { array: 'lintel-1', pool: 'quay', size: '14 TiB', count: '4', name: 'v' },
      contextFor(basis, 0, 0),
    );
    expect(told.fields.size!.says).toMatch(/Promised 0 → 201 %: more than twice what is there/);
    expect(told.fields.count!.says).toBe('56 TiB in all.');
    expect(told.fields.name!.says).toBe('v-1 … v-4');
  });
});

describe('volume.delete', () => {
  test('is refused while mapped, and while a host still holds the device', () => {
    const estate = estateAfter(mapped);
    const gone = { do: 'volume.delete', array: 'lintel-1', volumes: ['tickets-1'] };
    expect(refusalsOf(estate, gone)[0]).toMatchObject({
      code: 'still-mapped',
      message: 'tickets-1 is mapped to gate-1.',
      mend: 'Take the mapping away first.',
    });
    carryOut(
      estate,
      [
        { do: 'host.rescan', host: 'gate-1' },
        { do: 'mapping.delete', host: 'gate-1', array: 'lintel-1', volumes: ['tickets-1'] },
      ],
      'more',
    );
    expect(refusalsOf(estate, gone)[0]).toMatchObject({
      code: 'still-known',
      mend: 'Rescan gate-1, so that it lets go of the device.',
    });
    carryOut(estate, [{ do: 'host.rescan', host: 'gate-1' }, gone], 'last');
    expect(estate.table('volume').size).toBe(1);
  });

  test('gives extents back, and says what written data is lost', () => {
    const estate = estateAfter([...base, volume()]);
    estate.apply(writeUpTo(estate, named(estate, 'booking'), 3 * GIB, newId, basis.now).effects);
    expect(estate.occupancy.allocated(named(estate, 'booking').id)).toBe(48);
    const gone = { do: 'volume.delete', array: 'lintel-1', volumes: ['booking'] };
    expect(codesOf(estate, gone)).toEqual(['name-not-confirmed']);
    const [step] = carryOut(estate, [{ ...gone, confirm: ['booking'], keepDays: 0 }], 'gone');
    expect(step!.destroys).toBe('3 GiB written to booking');
    expect(estate.table('extent').size).toBe(0);
    expect(estate.occupancy.used([...estate.table('raidGroup').values()][0]!.id)).toBe(0);
  });
});

describe('writing', () => {
  test('takes extents as it goes, and lengthens the run where it can', () => {
    const estate = estateAfter([...base, volume()]);
    for (const target of [10 * MIB, 100 * MIB, GIB])
      estate.apply(writeUpTo(estate, named(estate, 'booking'), target, newId, basis.now).effects);
    expect(named(estate, 'booking').written).toBe(GIB);
    expect([...estate.table('extent').values()]).toHaveLength(1);
    expect(estate.occupancy.allocated(named(estate, 'booking').id)).toBe(16);
    expect(writeUpTo(estate, named(estate, 'booking'), 10 * MIB, newId, basis.now).effects).toEqual([]);
  });

  test('stops where the pool is full and where the volume ends', () => {
    const estate = estateAfter([...base, volume({ size: '60 TiB' })]);
    const { available } = poolUsage(estate, [...estate.table('pool').values()][0]!);
    const write = writeUpTo(estate, named(estate, 'booking'), 60 * 1024 * GIB, newId, basis.now);
    expect(write).toMatchObject({ full: true, missing: 60 * 1024 * GIB - available * 64 * MIB });
    estate.apply(write.effects);
    expect(named(estate, 'booking').written).toBe(available * 64 * MIB);
    expect(brokenRules(estate)).toEqual([]);
    const small = estateAfter([...base, volume({ size: '1 GiB' })]);
    expect(writeUpTo(small, named(small, 'booking'), 5 * GIB, newId, basis.now)).toMatchObject({
      missing: 0,
      full: false,
    });
  });
});

describe('health', () => {
  test('data in reduced form rests on the groups that hold its pool’s store', () => {
    const estate = estateAfter([
      { do: 'raid-group.create', array: 'lintel-1', name: 'rg-1', level: 'raid5', drives: slots(0, 0, 3) },
      { do: 'raid-group.create', array: 'lintel-1', name: 'rg-2', level: 'raid5', drives: slots(0, 4, 7) },
      { do: 'pool.create', array: 'lintel-1', name: 'quay', raidGroups: ['rg-1', 'rg-2'] },
      volume(),
    ]);
    const row = named(estate, 'booking');
    const [first, second] = groupsUnder(estate, row);
    const run = { volume: null, store: row.pool, copies: null, start: 0, count: 1, at: 0 };
    estate.apply([
      created('extent', { id: 'ext_store', raidGroup: second!, ...run }),
      changed('volume', row, { reducedTo: MIB, written: MIB }),
    ]);
    const reduced = named(estate, 'booking');
    expect(groupsUnder(estate, reduced)).toEqual([second]);
    for (const id of estate.table('raidGroup').get(first!)!.drives.slice(0, 2))
      estate.apply([changed('drive', estate.table('drive').get(id)!, { state: 'failed' })]);
    expect(volumeState(estate, reduced)).toBe('ok');
    for (const id of estate.table('raidGroup').get(second!)!.drives.slice(0, 1))
      estate.apply([changed('drive', estate.table('drive').get(id)!, { state: 'failed' })]);
    expect(volumeState(estate, reduced)).toBe('degraded');
  });
  test('rests on the groups that hold its extents, or on all of the pool while it holds none', () => {
    const estate = estateAfter([
      { do: 'raid-group.create', array: 'lintel-1', name: 'rg-1', level: 'raid5', drives: slots(0, 0, 3) },
      { do: 'raid-group.create', array: 'lintel-1', name: 'rg-2', level: 'raid5', drives: slots(0, 4, 7) },
      { do: 'pool.create', array: 'lintel-1', name: 'quay', raidGroups: ['rg-1', 'rg-2'] },
      volume(),
    ]);
    const row = named(estate, 'booking');
    expect(groupsUnder(estate, row)).toHaveLength(2);
    estate.apply(writeUpTo(estate, row, MIB, newId, basis.now).effects);
    const [only] = groupsUnder(estate, row);
    expect(groupsUnder(estate, row)).toHaveLength(1);
    const fail = (count: number) => {
      for (const id of estate.table('raidGroup').get(only!)!.drives.slice(0, count))
        estate.apply([changed('drive', estate.table('drive').get(id)!, { state: 'failed' })]);
      return volumeState(estate, row);
    };
    expect(volumeState(estate, row)).toBe('ok');
    expect(fail(1)).toBe('degraded');
    expect(fail(2)).toBe('lost');
  });

  test('the partner serves while the owner is down; nobody when both are', () => {
    const estate = estateAfter([...base, volume({ owner: 'a' })]);
    const row = named(estate, 'booking');
    const down = (name: string) => {
      const controller = estate
        .table('controller')
        .by('array', row.array)
        .find((one) => one.name === name)!;
      estate.apply([changed('controller', controller, { state: 'down' })]);
    };
    expect(servingController(estate, row)!.name).toBe('a');
    down('a');
    expect(servingController(estate, row)!.name).toBe('b');
    down('b');
    expect(servingController(estate, row)).toBeNull();
  });
});
