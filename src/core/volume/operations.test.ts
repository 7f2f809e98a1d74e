import { planChange } from '../change/plan';
import { slots } from '../../../demo/names';
import { basis, carryOut, codesOf, estateAfter, mounted, refusalsOf, smallChain } from '../../../demo/workbench';
import { PAGE } from '../content/page';
import { contextFor } from '../change/plan';
import type { OperationDocument } from '../change/registry';
import { brokenRules } from '../rules/book';
import { changed, compacted } from '../estate/effects';
import type { Estate } from '../estate/estate';
import { nextJobEnd, workJob } from '../work/scheduler';
import { nightly } from '../lab/nightly';
import { writeTraffic } from '../lab/traffic';
import { deleteFiles } from '../attach/file-places';
import { nguidOf } from '../naming/identity';
import { lookUp } from '../operation/inquiry';
import { poolUsage } from '../pool/usage';
import { search } from '../span/search';
import { GIB, MIB } from '../units/bytes';
import { DAY } from '../units/duration';
import { volumeConfigure } from './configure';
import { volumeConvert } from './convert';
import { volumeDelete } from './delete';
import { unmapRuns, writeRuns } from './grow';
import { reclaimable } from './reclaim';
import { volumeResize } from './resize';

const context = contextFor(basis, 0, 0);
const newId = contextFor({ ...basis, seed: 'volumes' }, 6, 6).newId;
let seed = 0;
const run = (estate: Estate, ...operations: OperationDocument[]) => carryOut(estate, operations, `volume ${seed++}`);
const lintel = (estate: Estate) => lookUp(estate, 'array', 'lintel-1')!;
const volume = (estate: Estate, name = 'tickets-1') => lookUp(estate, 'volume', name, lintel(estate).id)!;
const pool = (estate: Estate) => lookUp(estate, 'pool', 'quay', lintel(estate).id)!;
const on = (kind: string, more: Record<string, unknown> = {}): OperationDocument => ({
  do: `volume.${kind}`,
  array: 'lintel-1',
  volumes: ['tickets-1'],
  ...more,
});
const onCreate = (more: Record<string, unknown>): OperationDocument => ({
  do: 'volume.create',
  array: 'lintel-1',
  ...more,
});
const device = (estate: Estate) => [...estate.table('hostDevice').values()].find((row) => row.mountPoint)!;
const write = (estate: Estate, name: string, from: number, to: number) =>
  estate.apply(compacted(writeRuns(estate, volume(estate, name), [[from, to]], newId, basis.now).effects));
const fill = (estate: Estate, bytes: number) => {
  estate.apply([changed('hostDevice', device(estate), { writeRate: bytes })]);
  estate.apply(compacted(writeTraffic(estate, 1000, basis.now, newId).effects));
  estate.apply([changed('hostDevice', device(estate), { writeRate: 0 })]);
};
function finish(estate: Estate): void {
  for (let next = nextJobEnd(estate); next; next = nextJobEnd(estate))
    estate.apply(compacted(workJob(estate, next.job, next.at, newId).effects));
}
const sound = (estate: Estate) => expect(brokenRules(estate)).toEqual([]);

describe('resizing', () => {
  test.each([
    ['zero', { size: '0 GiB' }],
    ['negative', { size: '-1 GiB' }],
    ['too-large', { size: '9 PiB' }],
    ['size-not-in-blocks', { size: '100001 B' }],
    ['volume-unknown', { volumes: ['nobody'], size: '1 GiB' }],
    ['parameter-wrong', { volumes: [], size: '1 GiB' }],
    ['parameter-missing', {}],
  ])('is refused: %s', (code, more) => expect(codesOf(estateAfter(smallChain), on('resize', more))).toContain(code));

  test('grows thin volumes by promise, thick ones by extents', () => {
    const estate = estateAfter([
      ...smallChain,
      onCreate({ pool: 'quay', name: 'solid', size: '1 GiB', provisioning: 'thick' }),
    ]);
    run(estate, on('resize', { size: '300 GiB' }), on('resize', { volumes: ['solid'], size: '3 GiB' }));
    expect(volume(estate).size).toBe(300 * GIB);
    expect(estate.occupancy.allocated(volume(estate).id)).toBe(0);
    expect(estate.occupancy.allocated(volume(estate, 'solid').id)).toBe(48);
    const { available } = poolUsage(estate, pool(estate));
    expect(codesOf(estate, on('resize', { volumes: ['solid'], size: `${(available + 60) * 64} MiB` }))).toEqual([
      'pool-too-small',
    ]);
    sound(estate);
  });

  test('growing tells who must look again, and prepares it; until then the device keeps its old size', () => {
    const estate = estateAfter(mounted);
    const name = estate.table('volume').get(device(estate).volume)!.name;
    const [step] = run(estate, on('resize', { volumes: [name], size: '400 GiB' }));
    expect(step!.next.map((next) => next.do)).toEqual(['host.rescan', 'host-device.grow']);
    expect(device(estate).size).toBe(200 * GIB);
    const grow = { do: 'host-device.grow', host: 'gate-1', device: name };
    expect(refusalsOf(estate, grow)[0]).toMatchObject({ code: 'rescan-needed', mend: 'Rescan gate-1 first.' });
    run(estate, { do: 'host.rescan', host: 'gate-1' }, grow);
    expect(device(estate)).toMatchObject({ size: 400 * GIB, fileSystemSize: 400 * GIB });
    expect(codesOf(estate, grow)).toEqual(['nothing-to-grow']);
  });

  test('shrinking is refused below data and file system, and says how far it could go', () => {
    const estate = estateAfter(mounted);
    const name = estate.table('volume').get(device(estate).volume)!.name;
    fill(estate, 10 * GIB);
    const [exported] = refusalsOf(estate, on('resize', { volumes: [name], size: '50 GiB' }));
    expect(exported).toMatchObject({ code: 'exported', mend: 'Shrink the file system to 50 GiB first.' });
    const shrink = (size: string) => ({ do: 'host-device.shrink', host: 'gate-1', device: name, size });
    expect(codesOf(estate, shrink('300 GiB'))).toEqual(['not-smaller']);
    const [beyond] = refusalsOf(estate, shrink('1 GiB'));
    expect(beyond!.code).toBe('data-beyond-end');
    expect(beyond!.mend).toMatch(/^Shrink to no less than /);
    run(estate, shrink('50 GiB'), on('resize', { volumes: [name], size: '50 GiB' }));
    expect(volume(estate, name).size).toBe(50 * GIB);
    sound(estate);
  });

  test('without a host its data alone counts; zeros at the end do not', () => {
    const estate = estateAfter(smallChain);
    estate.apply([changed('volume', volume(estate), { content: { ...volume(estate).content, zero: 0 } })]);
    write(estate, 'tickets-1', 0, 8 * GIB);
    expect(refusalsOf(estate, on('resize', { size: '4 GiB' }))[0]).toMatchObject({
      code: 'data-beyond-end',
      mend: 'Make it no smaller than 8 GiB, or free its tail first. Or agree that what lies beyond the new end is given up.',
    });
    run(estate, on('resize', { size: '8 GiB' }));
    expect(volume(estate)).toMatchObject({ size: 8 * GIB, written: 8 * GIB });
  });

  test('its end is given up by consent, unless a host sees it', () => {
    const estate = estateAfter(smallChain);
    estate.apply([changed('volume', volume(estate), { content: { ...volume(estate).content, zero: 0 } })]);
    write(estate, 'tickets-1', 0, 8 * GIB);
    const plan = planChange(estate, [on('resize', { size: '4 GiB', discard: true })], basis);
    expect(plan.steps[0]!.destroys).toBe('What tickets-1 holds in its last 4 GiB');
    run(estate, on('resize', { size: '4 GiB', discard: true }));
    expect(volume(estate)).toMatchObject({ size: 4 * GIB, written: 4 * GIB });
    sound(estate);
    run(estate, { do: 'mapping.create', host: 'gate-1', array: 'lintel-1', volumes: ['tickets-1'] });
    expect(codesOf(estate, on('resize', { size: '2 GiB', discard: true, hostShrunk: true }))).toEqual([
      'data-beyond-end',
    ]);
  });

  test('a mapped volume without a file system asks for a word from the host', () => {
    const estate = estateAfter([
      ...smallChain,
      { do: 'mapping.create', host: 'gate-1', array: 'lintel-1', volumes: ['tickets-1'] },
    ]);
    expect(codesOf(estate, on('resize', { size: '10 GiB' }))).toEqual(['exported']);
    run(estate, on('resize', { size: '10 GiB', hostShrunk: true }));
    expect(volume(estate).size).toBe(10 * GIB);
  });

  test('foretells the difference', () => {
    const { fields } = volumeResize.foretell(
      estateAfter(smallChain),
      { array: 'lintel-1', volumes: ['tickets-1'], size: '300 GiB' },
      context,
    );
    expect(fields.size!.says).toMatch(/^100 GiB more\. quay promised 2 → 2 %\.$/);
  });
});

describe('converting', () => {
  test('thick to thin gives back what was never written, thin to thick takes it all', () => {
    const estate = estateAfter([
      ...smallChain.slice(0, 2),
      onCreate({ pool: 'quay', name: 'solid', size: '10 GiB', provisioning: 'thick' }),
    ]);
    write(estate, 'solid', 0, 2 * GIB);
    const { fields } = volumeConvert.foretell(estate, { array: 'lintel-1', volumes: ['solid'], to: 'thin' }, context);
    expect(fields.volumes!.says).toContain('8 GiB come back');
    run(estate, on('convert', { volumes: ['solid'], to: 'thin' }));
    expect(codesOf(estate, on('convert', { volumes: ['solid'], to: 'thin' }))).toEqual(['volume-busy']);
    expect(codesOf(estate, on('resize', { volumes: ['solid'], size: '20 GiB' }))).toEqual(['volume-busy']);
    finish(estate);
    expect(volume(estate, 'solid').provisioning).toBe('thin');
    expect(estate.occupancy.allocated(volume(estate, 'solid').id)).toBe(32);
    expect(codesOf(estate, on('convert', { volumes: ['solid'], to: 'thin' }))).toEqual(['already-thin']);
    run(estate, on('convert', { volumes: ['solid'], to: 'thick' }));
    expect(estate.occupancy.allocated(volume(estate, 'solid').id)).toBe(160);
    finish(estate);
    expect(volume(estate, 'solid').provisioning).toBe('thick');
    sound(estate);
  });
  test('a reduced volume becomes whole again when it is made thick', () => {
    const estate = estateAfter(smallChain);
    run(estate, { do: 'pool.configure', array: 'lintel-1', name: 'quay', dedupe: 'inline' });
    write(estate, 'tickets-1', 0, 4 * GIB);
    expect(volume(estate).reducedTo).toBe(4 * GIB);
    run(estate, on('resize', { size: '8 GiB' }), on('convert', { to: 'thick' }));
    finish(estate);
    expect(volume(estate)).toMatchObject({ provisioning: 'thick', reducedTo: 0 });
    expect(estate.occupancy.allocated(pool(estate).id)).toBe(0);
    sound(estate);
  });
  test('what is given back in between stays with a volume that is being made thick', () => {
    const estate = estateAfter(smallChain);
    write(estate, 'tickets-1', 0, 4 * GIB);
    run(estate, on('convert', { to: 'thick' }));
    const held = estate.occupancy.allocated(volume(estate).id);
    estate.apply(compacted(unmapRuns(estate, volume(estate), [[0, 2 * GIB]], newId).effects));
    expect(estate.occupancy.allocated(volume(estate).id)).toBe(held);
    finish(estate);
    sound(estate);
  });
  test('a reduction or a reclaim in between leaves a volume that is being made thick alone', () => {
    const estate = estateAfter(mounted);
    const name = estate.table('volume').get(device(estate).volume)!.name;
    fill(estate, 10 * GIB);
    estate.apply(deleteFiles(device(estate), GIB, 3 * GIB));
    run(
      estate,
      { do: 'pool.configure', array: 'lintel-1', name: 'quay', dedupe: 'scheduled' },
      { do: 'pool.reduce', array: 'lintel-1', name: 'quay' },
      on('convert', { volumes: [name], to: 'thick' }),
    );
    expect(codesOf(estate, on('reclaim', { volumes: [name] }))).toEqual(['volume-busy']);
    finish(estate);
    expect(volume(estate, name)).toMatchObject({ provisioning: 'thick', reducedTo: 0 });
    sound(estate);
  });
  test('is refused where the pool has no room', () => {
    const estate = estateAfter(smallChain);
    run(estate, on('resize', { size: '60 TiB' }));
    expect(codesOf(estate, on('convert', { to: 'thick' }))).toEqual(['pool-too-small']);
  });
});

describe('reclaiming', () => {
  const freed = (): Estate => {
    const estate = estateAfter(mounted);
    fill(estate, 10 * GIB);
    estate.apply(deleteFiles(device(estate), GIB, 3 * GIB));
    return estate;
  };
  const nameOf = (estate: Estate) => estate.table('volume').get(device(estate).volume)!.name;

  test('on demand', () => {
    const estate = freed();
    const before = estate.occupancy.allocated(device(estate).volume);
    const [step] = run(estate, on('reclaim', { volumes: [nameOf(estate)] }));
    expect(step!.title).toContain('3 GiB');
    expect(before - estate.occupancy.allocated(device(estate).volume)).toBe(48);
    expect(volume(estate, nameOf(estate)).reclaimedAt).toBe(basis.now);
    const [again] = run(estate, on('reclaim', { volumes: [nameOf(estate)] }));
    expect(again!.title).toContain('nothing to give back');
    sound(estate);
  });
  test('by schedule, at night', () => {
    const estate = freed();
    run(estate, on('configure', { volumes: [nameOf(estate)], reclaimDays: 7 }));
    const midnight = (Math.floor(basis.now / DAY) + 1) * DAY;
    const night = nightly(estate, midnight, newId);
    expect(night.said[0]).toContain('3 GiB reclaimed');
    estate.apply(compacted(night.effects));
    expect(reclaimable(estate, volume(estate, nameOf(estate)))).toBe(0);
    expect(nightly(estate, midnight + DAY, newId).said).toEqual([]);
    sound(estate);
  });
  test('is refused without a file system, and for thick volumes', () => {
    const estate = estateAfter(smallChain);
    expect(codesOf(estate, on('reclaim'))).toEqual(['no-file-system']);
    run(estate, on('convert', { to: 'thick' }));
    finish(estate);
    expect(codesOf(estate, on('reclaim'))).toEqual(['thick']);
  });
});

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
