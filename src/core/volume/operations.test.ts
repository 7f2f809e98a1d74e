import { slots } from '../../../demo/names';
import { basis, codesOf, estateAfter, mounted, refusalsOf, smallChain } from '../../../demo/workbench';
import { PAGE } from '../content/page';
import { changed, compacted } from '../estate/effects';
import type { Estate } from '../estate/estate';
import { nightly } from '../lab/nightly';
import { nguidOf } from '../naming/identity';
import { lookUp } from '../operation/inquiry';
import { search } from '../span/search';
import { GIB, MIB } from '../units/bytes';
import { DAY } from '../units/duration';
import { volumeConfigure } from './configure';
import { volumeDelete } from './delete';
import { context, newId, run, lintel, volume, pool, on, onCreate, device, write, sound } from './operations.fixture';

describe('changing', () => {
  test('name, owner, workload, notes, tier and reduction; the identity stays', () => {
    const estate = estateAfter(smallChain);
    const before = volume(estate);
    run(estate, { do: 'workload.create', name: 'Cargo booking' });
    const other =
      before.owner === [...estate.table('controller').by('array', before.array)].find((row) => row.name === 'a')!.id
        ? 'b'
        : 'a';
    const [step] = run(
      estate,
      on('configure', {
        newName: 'booking',
        owner: other,
        workload: 'cargo booking',
        notes: 'Ask the desk',
        tier: 'ssd-nvme',
        reduction: 'false',
      }),
    );
    expect(step!.title).toContain('is called booking');
    expect(volume(estate, 'booking')).toMatchObject({
      naa: before.naa,
      serial: before.serial,
      notes: 'Ask the desk',
      tier: 'ssd-nvme',
      reduction: false,
    });
    expect(estate.table('volume').countBy('workload', volume(estate, 'booking').workload!)).toBe(1);
    run(estate, on('configure', { volumes: ['booking'], workload: 'none', tier: 'fastest' }));
    expect(volume(estate, 'booking')).toMatchObject({ workload: null, tier: null });
  });
  test.each([
    ['name-taken', { newName: 'tickets-2' }],
    ['controller-unknown', { owner: 'z' }],
    ['workload-unknown', { workload: 'Nobody' }],
    ['one-name-many-volumes', { volumes: ['tickets-1', 'tickets-2'], newName: 'x' }],
    ['parameter-wrong', { reclaimDays: -1 }],
    ['name-bad-char', { newName: 'a b' }],
  ])('is refused: %s', (code, more) => expect(codesOf(estateAfter(smallChain), on('configure', more))).toContain(code));
  test('not to a controller that is down', () => {
    const estate = estateAfter(smallChain);
    const [first] = estate.table('controller').by('array', lintel(estate).id);
    estate.apply([changed('controller', first!, { state: 'down' })]);
    expect(codesOf(estate, on('configure', { owner: first!.name }))).toContain('controller-down');
    const { fields } = volumeConfigure.foretell(estate, { array: 'lintel-1', volumes: ['tickets-1'] }, context);
    expect(fields.owner!.choices!.find((choice) => choice.value === first!.name)!.unfit).toBe('is down');
  });
  test('workloads are named once and dropped without harm', () => {
    const estate = estateAfter(smallChain);
    run(
      estate,
      { do: 'workload.create', name: '  Virtual   deck ', notes: 'Hypervisors' },
      on('configure', { workload: 'Virtual deck' }),
    );
    expect(codesOf(estate, { do: 'workload.create', name: 'virtual deck' })).toEqual(['name-taken']);
    expect(codesOf(estate, { do: 'workload.create', name: ' ' })).toEqual(['name-missing']);
    run(estate, { do: 'workload.delete', name: 'Virtual deck' });
    expect(volume(estate).workload).toBeNull();
  });
});

describe('retiring', () => {
  const written = (): Estate => {
    const estate = estateAfter(smallChain);
    write(estate, 'tickets-1', 0, 2 * GIB);
    return estate;
  };
  test('asks for the name, keeps the volume, and gives it back', () => {
    const estate = written();
    expect(refusalsOf(estate, on('delete', { confirm: ['tickets-2'] }))[0]).toMatchObject({
      code: 'name-not-confirmed',
      mend: 'Write its name, tickets-1, to confirm.',
    });
    const before = volume(estate);
    const promised = estate.occupancy.promised(pool(estate).id);
    const [step] = run(estate, on('delete', { confirm: ['tickets-1'], keepDays: 3 }));
    expect(step!.destroys).toBeNull();
    expect(volume(estate)).toMatchObject({ deletedAt: basis.now, keepUntil: basis.now + 3 * DAY });
    expect(promised - estate.occupancy.promised(pool(estate).id)).toBe(before.size);
    for (const kind of ['resize', 'convert', 'reclaim', 'configure'])
      expect(
        codesOf(estate, on(kind, kind === 'resize' ? { size: '1 GiB' } : kind === 'convert' ? { to: 'thick' } : {})),
      ).toContain('volume-retired');
    expect(
      codesOf(estate, { do: 'mapping.create', host: 'gate-1', array: 'lintel-1', volumes: ['tickets-1'] }),
    ).toContain('volume-retired');
    run(estate, on('restore'));
    expect(volume(estate)).toEqual(before);
    sound(estate);
  });
  test('after its time it is given up, or at once when asked', () => {
    const estate = written();
    run(estate, on('delete', { confirm: ['tickets-1'], keepDays: 1 }));
    expect(nightly(estate, basis.now + 2 * 60_000, newId).effects).toEqual([]);
    const night = nightly(estate, (Math.floor(basis.now / DAY) + 2) * DAY, newId);
    expect(night.said[0]).toContain('is given up');
    estate.apply(compacted(night.effects));
    expect(estate.table('extent').size).toBe(0);
    sound(estate);
    const other = written();
    expect(codesOf(other, on('purge'))).toEqual(['not-retired']);
    run(other, on('delete', { confirm: ['tickets-1'] }));
    const [step] = run(other, on('purge'));
    expect(step!.destroys).toBe('2 GiB written to tickets-1');
  });
  test('what nobody wrote to goes at once, and the form says what it asks for', () => {
    const estate = written();
    run(estate, on('delete', { volumes: ['tickets-2'] }));
    expect(estate.table('volume').size).toBe(1);
    const says = (confirm: string[]) =>
      volumeDelete.foretell(estate, { array: 'lintel-1', volumes: ['tickets-1'], confirm }, context).fields.confirm!
        .says;
    expect(says([])).toBe('Write the names of those that hold data: tickets-1.');
    expect(says(['tickets-1'])).toBe('All are named.');
  });
  test('mounted, it names the order that would work', () => {
    const estate = estateAfter(mounted);
    const name = estate.table('volume').get(device(estate).volume)!.name;
    expect(refusalsOf(estate, on('delete', { volumes: [name], confirm: [name] }))[0]!.mend).toMatch(
      /^In this order: unmount disk\d on gate-1, take the mapping away, rescan the host, retire tickets-\d\.$/,
    );
  });
});

describe('identities', () => {
  test('a volume is found by NAA and NGUID however they are written', () => {
    const estate = estateAfter(smallChain);
    const { naa, id, serial } = volume(estate);
    const pairs = naa.match(/../g)!;
    const nguid = nguidOf(naa);
    expect(nguid).toHaveLength(32);
    for (const text of [
      naa,
      `naa.${naa}`,
      `0x${naa.toUpperCase()}`,
      pairs.join(':'),
      pairs.join('-'),
      pairs.join(' '),
      nguid,
      `${nguid.slice(0, 8)}-${nguid.slice(8, 12)}-${nguid.slice(12)}`,
      `eui.${nguid}`,
      serial.toLowerCase(),
    ])
      expect([text, search(estate, text)[0]?.id]).toEqual([text, id]);
    expect(search(estate, 'zz:zz')).toEqual([]);
  });
  test('are all different', () => {
    const estate = estateAfter([...smallChain, onCreate({ pool: 'quay', name: 'many', size: '1 GiB', count: 200 })]);
    const rows = [...estate.table('volume').values()];
    for (const of of [
      (row: (typeof rows)[number]) => row.naa,
      (row: (typeof rows)[number]) => nguidOf(row.naa),
      (row: (typeof rows)[number]) => row.serial,
    ])
      expect(new Set(rows.map(of)).size).toBe(rows.length);
  });
});

describe('writing runs', () => {
  test('scattered writes take the extents they touch, and leave holes between', () => {
    const estate = estateAfter(smallChain);
    write(estate, 'tickets-1', 10 * GIB, 10 * GIB + MIB);
    expect(volume(estate)).toMatchObject({ written: 10 * GIB + MIB, holes: [[0, 10 * GIB]] });
    expect(estate.occupancy.allocated(volume(estate).id)).toBe(1);
    write(estate, 'tickets-1', 5 * GIB, 5 * GIB + 10);
    expect(volume(estate).holes).toEqual([
      [0, 5 * GIB],
      [5 * GIB + PAGE, 10 * GIB],
    ]);
    expect(estate.occupancy.allocated(volume(estate).id)).toBe(2);
    sound(estate);
  });
  test('nothing is written beyond the end', () => {
    const estate = estateAfter(smallChain);
    write(estate, 'tickets-1', 199 * GIB, 300 * GIB);
    expect(volume(estate).written).toBe(200 * GIB);
    sound(estate);
  });
  test('groups of a pool share what is written in proportion to their room', () => {
    const estate = estateAfter(smallChain);
    run(
      estate,
      { do: 'raid-group.create', array: 'lintel-1', name: 'rg-2', level: 'raid6', drives: slots(0, 10, 15) },
      { do: 'pool.extend', array: 'lintel-1', name: 'quay', raidGroups: ['rg-2'] },
    );
    write(estate, 'tickets-1', 0, 150 * GIB);
    const used = (name: string) => estate.occupancy.used(lookUp(estate, 'raidGroup', name, lintel(estate).id)!.id);
    expect(used('rg-1') / used('rg-2')).toBeCloseTo(2, 1);
  });
});
