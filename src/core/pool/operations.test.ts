import { slots } from '../../../demo/names';
import { bareEstate, basis, carryOut, codesOf, refusalsOf } from '../../../demo/workbench';
import { contextFor } from '../change/plan';
import type { OperationDocument } from '../change/registry';
import { brokenRules } from '../rules/book';
import { changed, compacted } from '../estate/effects';
import type { Estate } from '../estate/estate';
import { nextJobEnd, workJob } from '../work/scheduler';
import { nightly } from '../lab/nightly';
import { lookUp } from '../operation/inquiry';
import { GIB, MIB } from '../units/bytes';
import { DAY } from '../units/duration';
import { writeRuns } from '../volume/grow';
import { poolConfigure } from './configure';
import { poolExtend } from './extend';
import { placeExtents } from './allocate';
import { rebalanceMoves, spreadOf } from './move';
import { poolRemoveGroup } from './remove-group';
import { storeOf } from './store';
import { poolUsage, tiersOf } from './usage';

const context = contextFor(basis, 0, 0);
const newId = contextFor({ ...basis, seed: 'pools' }, 5, 5).newId;
let seed = 0;
const run = (estate: Estate, ...operations: OperationDocument[]) => carryOut(estate, operations, `pool ${seed++}`);
const array = (estate: Estate) => lookUp(estate, 'array', 'lintel-1')!;
const pool = (estate: Estate, name = 'quay') => lookUp(estate, 'pool', name, array(estate).id)!;
const group = (estate: Estate, name: string) => lookUp(estate, 'raidGroup', name, array(estate).id)!;
const volume = (estate: Estate, name: string) => lookUp(estate, 'volume', name, array(estate).id)!;
const usage = (estate: Estate) => poolUsage(estate, pool(estate));
const on = (kind: string, more: Record<string, unknown> = {}): OperationDocument => ({
  do: `pool.${kind}`,
  array: 'lintel-1',
  name: 'quay',
  ...more,
});
const carve = (name: string, from: number, more: Record<string, unknown> = {}): OperationDocument => ({
  do: 'raid-group.create',
  array: 'lintel-1',
  name,
  level: 'raid6',
  drives: slots(1, from, from + 5),
  ...more,
});
const thick = (name: string, extents: number): OperationDocument => ({
  do: 'volume.create',
  array: 'lintel-1',
  pool: 'quay',
  name,
  size: `${extents * 64} MiB`,
  provisioning: 'thick',
});
function finish(estate: Estate, until = Infinity): void {
  for (let next = nextJobEnd(estate); next && next.at <= until; next = nextJobEnd(estate))
    estate.apply(compacted(workJob(estate, next.job, next.at, newId).effects));
}
/** A pool of two groups, whole. */
function two(more: Record<string, unknown> = {}): Estate {
  const estate = bareEstate();
  run(estate, carve('rg-1', 0), carve('rg-2', 6), {
    do: 'pool.create',
    array: 'lintel-1',
    name: 'quay',
    raidGroups: ['rg-1', 'rg-2'],
    ...more,
  });
  finish(estate);
  return estate;
}
const sound = (estate: Estate) => expect(brokenRules(estate)).toEqual([]);
const write = (estate: Estate, name: string, bytes: number) =>
  estate.apply(compacted(writeRuns(estate, volume(estate, name), [[0, bytes]], newId, basis.now).effects));

describe('policies', () => {
  test.each([
    ['marks-out-of-order', { notice: 90, urgent: 80 }],
    ['marks-out-of-order', { urgent: 70 }],
    ['parameter-wrong', { notice: 0 }],
    ['parameter-wrong', { reserve: 60 }],
    ['parameter-wrong', { dedupe: 'always' }],
    ['parameter-wrong', { whenFull: 'hope' }],
    ['pool-unknown', { name: 'hold' }],
  ])('are refused: %s', (code, more) => expect(codesOf(two(), on('configure', more))).toContain(code));

  test('are kept as they are set, and told in the step', () => {
    const estate = two();
    const [step] = run(
      estate,
      on('configure', { notice: 60, urgent: '85', subscriptionLimit: 200, alertTo: 'desk', compression: 'true' }),
    );
    expect(pool(estate)).toMatchObject({
      notice: 60,
      urgent: 85,
      subscriptionLimit: 200,
      alertTo: 'desk',
      compression: true,
    });
    expect(step!.title).toContain('notice at 60');
    run(estate, on('configure', { subscriptionLimit: 'none', newName: 'pier' }));
    expect(pool(estate, 'pier').subscriptionLimit).toBeNull();
  });

  test('a limit refuses thin volumes beyond it, and says how much would fit', () => {
    const estate = two();
    run(estate, on('configure', { subscriptionLimit: 100 }));
    const { size } = usage(estate);
    const [refusal] = refusalsOf(estate, {
      do: 'volume.create',
      array: 'lintel-1',
      pool: 'quay',
      name: 'big',
      size: `${size + GIB} B`,
    });
    expect(refusal).toMatchObject({ code: 'subscription-limit', field: 'size' });
    expect(refusal!.mend).toMatch(/^Ask for .* TiB in all at most, extend the pool, or raise the limit\.$/);
    run(estate, { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'all', size: `${size} B` });
    expect(
      codesOf(estate, { do: 'volume.resize', array: 'lintel-1', volumes: ['all'], size: `${size + GIB} B` }),
    ).toEqual(['subscription-limit']);
  });

  test('a reserve is never given out, and cannot be more than what is free', () => {
    const estate = two();
    const before = usage(estate).available;
    run(estate, on('configure', { reserve: 20 }));
    expect(usage(estate).available).toBeLessThan(before);
    run(estate, thick('fill', usage(estate).available - 10));
    expect(codesOf(estate, on('configure', { reserve: 50 }))).toEqual(['reserve-too-large']);
  });

  test('reduction is refused without room to work in', () => {
    const estate = two();
    run(estate, thick('fill', usage(estate).available - 10));
    expect(codesOf(estate, on('configure', { dedupe: 'inline' }))).toEqual(['reduction-headroom']);
    expect(codesOf(estate, on('configure', { compression: true }))).toEqual(['reduction-headroom']);
  });

  test('the cost of reduction stands beside its switch', () => {
    const { fields } = poolConfigure.foretell(
      two(),
      { array: 'lintel-1', name: 'quay', dedupe: 'inline', compression: true },
      context,
    );
    expect(fields.dedupe!.says).toMatch(/Map of .* in the controllers' memory, 0\.15 ms a small write/);
    expect(fields.compression!.says).toContain('0.1 ms a small I/O');
  });

  test('when nothing is left, thin volumes stop as it was chosen', () => {
    for (const [whenFull, missing] of [
      ['fail-new-writes', 64 * MIB],
      ['stop-thin-writes', 128 * MIB],
    ] as const) {
      const estate = two({ whenFull });
      run(estate, { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'thin', size: '1 TiB' });
      write(estate, 'thin', 64 * MIB);
      run(estate, thick('fill', usage(estate).available));
      // Half of it overwrites what is there, half needs a new extent.
      const written = writeRuns(estate, volume(estate, 'thin'), [[0, 128 * MIB]], newId, basis.now);
      expect(written).toMatchObject({ full: true, missing });
    }
  });
});

describe('extending', () => {
  test('adds room at once, and asks before it makes the pool weaker', () => {
    const estate = two();
    run(estate, carve('five', 12, { level: 'raid5' }));
    const before = usage(estate).size;
    expect(refusalsOf(estate, on('extend', { raidGroups: ['five'] }))[0]).toMatchObject({
      code: 'weaker-redundancy',
      message: 'five survives 1 lost drive; every group of quay survives 2.',
    });
    const [step] = run(estate, on('extend', { raidGroups: ['five'], weaker: true }));
    expect(usage(estate).size).toBeGreaterThan(before);
    expect(step!.notes.join(' ')).toContain('Levels differ');
    expect(codesOf(estate, on('extend', { raidGroups: ['five'] }))).toEqual(['group-in-use']);
  });
  test('foretells the fill before and after', () => {
    const estate = two();
    run(estate, thick('fill', Math.floor(usage(estate).available / 2)), carve('rg-3', 12));
    const { fields } = poolExtend.foretell(estate, { array: 'lintel-1', name: 'quay', raidGroups: ['rg-3'] }, context);
    expect(fields.raidGroups!.says).toMatch(/ more: 50 → 3[34] % used\.$/);
  });
});

describe('tiers', () => {
  test('new extents start on the fastest, or where a volume says, and spill when it is full', () => {
    const estate = two();
    run(
      estate,
      { do: 'raid-group.create', array: 'lintel-1', name: 'flash', level: 'raid6', drives: slots(0, 0, 5) },
      on('extend', { raidGroups: ['flash'] }),
    );
    expect(tiersOf(usage(estate)).map((tier) => tier.media)).toEqual(['ssd-nvme', 'hdd-10k']);
    run(estate, thick('fast', 100), { ...thick('slow', 100), tier: 'hdd-10k' });
    const groupsOf = (name: string) =>
      new Set(
        estate
          .table('extent')
          .by('volume', volume(estate, name).id)
          .map((run) => run.raidGroup),
      );
    expect(groupsOf('fast')).toEqual(new Set([group(estate, 'flash').id]));
    expect(groupsOf('slow').has(group(estate, 'flash').id)).toBe(false);
    const flash = tiersOf(usage(estate))[0]!;
    const places = placeExtents(estate, pool(estate), flash.capacity - flash.used + 5);
    expect(
      places
        .filter((place) => place.raidGroup !== group(estate, 'flash').id)
        .reduce((sum, place) => sum + place.count, 0),
    ).toBe(5);
    sound(estate);
  });
});

describe('emptying a group', () => {
  test('moves its extents in batches, then lets it go; volumes stay whole', () => {
    const estate = two();
    run(estate, thick('a', 2000), thick('b', 1000), on('remove-group', { raidGroup: 'rg-1' }));
    expect(group(estate, 'rg-1').draining).toBe(true);
    const [job] = [...estate.table('job').values()];
    finish(estate, (job!.startedAt + job!.finishesAt) / 2);
    const moved = estate.occupancy.used(group(estate, 'rg-1').id);
    expect(moved).toBeGreaterThan(0);
    expect(moved).toBeLessThan(1500);
    sound(estate);
    finish(estate);
    expect(group(estate, 'rg-1')).toMatchObject({ pool: null, draining: false });
    expect(estate.occupancy.allocated(volume(estate, 'a').id)).toBe(2000);
    sound(estate);
  });
  test('stopped in the middle, what has moved stays where it is', () => {
    const estate = two();
    run(estate, thick('a', 2000), on('remove-group', { raidGroup: 'rg-1' }));
    const [job] = [...estate.table('job').values()];
    finish(estate, (job!.startedAt + job!.finishesAt) / 2);
    const left = estate.occupancy.used(group(estate, 'rg-1').id);
    run(estate, { do: 'job.cancel', array: 'lintel-1', job: job!.id });
    expect(group(estate, 'rg-1')).toMatchObject({ pool: pool(estate).id, draining: false });
    expect(estate.occupancy.used(group(estate, 'rg-1').id)).toBe(left);
    sound(estate);
  });
  test('is refused for the last group, for one that is no part, and where the rest has no room', () => {
    const estate = two();
    run(estate, carve('rg-3', 12));
    expect(codesOf(estate, on('remove-group', { raidGroup: 'rg-3' }))).toEqual(['not-in-pool']);
    run(estate, thick('a', usage(estate).available));
    const [refusal] = refusalsOf(estate, on('remove-group', { raidGroup: 'rg-1' }));
    expect(refusal!.code).toBe('pool-evacuation-blocked');
    expect(refusal!.message).toMatch(/the other groups have room for 0: .* are missing\./);
    const alone = bareEstate();
    run(alone, carve('rg-1', 0), { do: 'pool.create', array: 'lintel-1', name: 'quay', raidGroups: ['rg-1'] });
    expect(codesOf(alone, on('remove-group', { raidGroup: 'rg-1' }))).toEqual(['last-group']);
  });
  test('an empty group leaves at once, and the form says which cannot', () => {
    const estate = two();
    run(estate, on('remove-group', { raidGroup: 'rg-2' }));
    expect(group(estate, 'rg-2').pool).toBeNull();
    const { fields } = poolRemoveGroup.foretell(estate, { array: 'lintel-1', name: 'quay' }, context);
    expect(fields.raidGroup!.choices).toEqual([expect.objectContaining({ value: 'rg-1', unfit: 'is the only one' })]);
  });
});

describe('rebalancing', () => {
  test('evens groups out after an extension, and is refused when there is nothing to do', () => {
    const estate = two();
    expect(codesOf(estate, on('rebalance'))).toEqual(['pool-balanced']);
    const most = Math.floor(usage(estate).available * 0.7);
    run(estate, thick('a', most), carve('rg-3', 12), on('extend', { raidGroups: ['rg-3'] }));
    finish(estate);
    expect(spreadOf(estate, pool(estate))).toBeGreaterThan(10);
    const moves = rebalanceMoves(estate, pool(estate));
    run(estate, on('rebalance'));
    expect([...estate.table('job').values()][0]!.total).toBe(moves * 64 * MIB);
    expect(codesOf(estate, on('rebalance'))).toEqual(['pool-busy']);
    finish(estate);
    expect(spreadOf(estate, pool(estate))).toBeLessThan(2);
    expect(estate.occupancy.allocated(volume(estate, 'a').id)).toBe(most);
    sound(estate);
  });
});

test('a pool that goes takes its jobs along', () => {
  const estate = two();
  run(
    estate,
    thick('a', Math.floor(usage(estate).available * 0.7)),
    carve('rg-3', 12),
    on('extend', { raidGroups: ['rg-3'] }),
  );
  finish(estate);
  run(estate, on('rebalance'), { do: 'volume.delete', array: 'lintel-1', volumes: ['a'] }, on('delete'));
  expect(estate.table('job').size).toBe(0);
  sound(estate);
});

describe('reduction', () => {
  const sisters = (estate: Estate, names: string[]) => {
    for (const name of names) {
      const row = volume(estate, name);
      estate.apply([
        changed('volume', row, {
          content: { family: 'rota', zero: 12, common: 60, span: 0, squeeze: 'text', driftDays: 0 },
        }),
      ]);
    }
  };
  const carved = (more: Record<string, unknown>) => {
    const estate = two(more);
    run(estate, { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'desk', size: '100 GiB', count: 3 });
    sisters(estate, ['desk-1', 'desk-2', 'desk-3']);
    return estate;
  };

  test('at once: what is written goes into the store, in as many extents as its pages need', () => {
    const estate = carved({ dedupe: 'inline', compression: true });
    for (const name of ['desk-1', 'desk-2']) write(estate, name, 10 * GIB);
    expect(estate.occupancy.allocated(volume(estate, 'desk-1').id)).toBe(0);
    const store = storeOf(estate, pool(estate));
    expect(estate.occupancy.allocated(pool(estate).id)).toBe(Math.ceil(store.bytes / (64 * MIB)));
    expect(store.bytes).toBeLessThan(10 * GIB);
    sound(estate);
  });

  test('by night: writes land in extents of their own until the job has passed', () => {
    const estate = carved({ dedupe: 'scheduled' });
    write(estate, 'desk-1', 10 * GIB);
    write(estate, 'desk-2', 10 * GIB);
    expect(usage(estate).used).toBe(320);
    const night = nightly(estate, (Math.floor(basis.now / DAY) + 1) * DAY, newId);
    expect(night.said[0]).toContain('begins to look for equal pages');
    estate.apply(compacted(night.effects));
    expect(codesOf(estate, on('reduce'))).toEqual(['pool-busy']);
    finish(estate);
    expect(usage(estate).used).toBeLessThan(320);
    expect(codesOf(estate, on('reduce'))).toEqual(['nothing-to-reduce']);
    const after = usage(estate).used;
    write(estate, 'desk-1', 11 * GIB);
    expect(usage(estate).used - after).toBeLessThanOrEqual(17);
    sound(estate);
  });

  test('leaves out what it is told to, and thick volumes', () => {
    const estate = carved({ dedupe: 'scheduled' });
    run(
      estate,
      { do: 'volume.configure', array: 'lintel-1', volumes: ['desk-3'], reduction: false },
      thick('solid', 160),
    );
    for (const name of ['desk-1', 'desk-2', 'desk-3', 'solid']) write(estate, name, 10 * GIB);
    run(estate, on('reduce'));
    finish(estate);
    expect(volume(estate, 'desk-1').reducedTo).toBe(10 * GIB);
    expect(volume(estate, 'desk-3').reducedTo).toBe(0);
    expect(volume(estate, 'solid').reducedTo).toBe(0);
    expect(estate.occupancy.allocated(volume(estate, 'solid').id)).toBe(160);
    sound(estate);
  });

  test('is refused where it is off; what is reduced is written anew when it is switched off', () => {
    const estate = carved({ compression: true });
    write(estate, 'desk-1', 5 * GIB);
    const [step] = run(estate, on('configure', { compression: false }));
    expect(step!.notes.join()).toMatch(/^What is reduced is written anew: .* → .*\.$/);
    sound(estate);
    expect(codesOf(estate, on('reduce'))).toEqual(['reduction-off']);
    expect(volume(estate, 'desk-1').reducedTo).toBe(5 * GIB);
    write(estate, 'desk-1', 6 * GIB);
    expect(estate.occupancy.allocated(volume(estate, 'desk-1').id)).toBe(16);
    sound(estate);
  });

  test('a volume that goes gives back only what is its alone', () => {
    const estate = carved({ dedupe: 'inline' });
    for (const name of ['desk-1', 'desk-2']) write(estate, name, 10 * GIB);
    const before = storeOf(estate, pool(estate));
    const [step] = run(estate, {
      do: 'volume.delete',
      array: 'lintel-1',
      volumes: ['desk-2'],
      confirm: ['desk-2'],
      keepDays: 0,
    });
    const own = before.volumes.find((row) => row.volume !== volume(estate, 'desk-1').id)!.exclusive;
    expect(before.data - storeOf(estate, pool(estate)).data).toBe(own);
    expect(step!.title).toContain('return to quay');
    sound(estate);
  });

  test('hosts rewrite what they share by and by', () => {
    const estate = carved({ dedupe: 'inline' });
    for (const name of ['desk-1', 'desk-2']) write(estate, name, 10 * GIB);
    const row = volume(estate, 'desk-2');
    estate.apply([changed('volume', row, { content: { ...row.content, driftDays: 1 } })]);
    const before = storeOf(estate, pool(estate)).data;
    for (let day = 1; day <= 5; day++)
      estate.apply(compacted(nightly(estate, (Math.floor(basis.now / DAY) + day) * DAY, newId).effects));
    expect(volume(estate, 'desk-2').content.common).toBe(55);
    expect(storeOf(estate, pool(estate)).data).toBeGreaterThan(before);
    sound(estate);
  });
});

test('a pool that holds retired volumes only goes once they are given up', () => {
  const estate = two();
  run(estate, thick('a', 10));
  estate.apply([
    {
      kind: 'volume',
      id: volume(estate, 'a').id,
      before: volume(estate, 'a'),
      after: { ...volume(estate, 'a'), deletedAt: 0 },
    },
  ]);
  expect(codesOf(estate, on('delete'))).toEqual(['pool-holds-volumes']);
  run(estate, { do: 'volume.purge', array: 'lintel-1', volumes: ['a'] }, on('delete'));
  expect(estate.table('pool').size).toBe(0);
});
