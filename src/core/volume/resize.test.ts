import { planChange } from '../change/plan';
import { basis, codesOf, estateAfter, mounted, refusalsOf, smallChain } from '../../../demo/workbench';
import { changed, compacted } from '../estate/effects';
import type { Estate } from '../estate/estate';
import { nightly } from '../lab/nightly';
import { deleteFiles } from '../attach/file-places';
import { poolUsage } from '../pool/usage';
import { GIB } from '../units/bytes';
import { DAY } from '../units/duration';
import { volumeConvert } from './convert';
import { unmapRuns } from './grow';
import { reclaimable } from './reclaim';
import { volumeResize } from './resize';
import {
  context,
  newId,
  run,
  volume,
  pool,
  on,
  onCreate,
  device,
  write,
  fill,
  finish,
  sound,
} from './operations.fixture';

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
