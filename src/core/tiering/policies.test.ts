import { carryOut, codesOf, estateAfter, mounted, named, refusalsOf, twoTiers } from '../../../demo/workbench';
import { rowOf } from '../estate/entities';
import { newIds } from '../estate/new-ids';
import { extentsByClass, policyWords, startOf } from '../pool/tier-policy';
import { giveNumbers } from '../volume/grow';
import { DAY, HOUR } from '../units/duration';
import { heatMap } from '../performance/heat-map';
import { readShare, shareText } from './policy-fields';
import { windowAt, windowWords } from './window';

/** Flash and disks in one pool, with a volume that lies on the disks. */
function tiered() {
  const estate = estateAfter(mounted);
  carryOut(estate, [...twoTiers], 'tiers');
  return estate;
}
const policy = (shares: string[], more: object = {}) => ({
  do: 'tier-policy.create',
  array: 'lintel-1',
  name: 'upper',
  volumes: ['scanner'],
  shares,
  ...more,
});

test('a share is read as it is written, and written as it is read', () => {
  expect(readShare('ssd-nvme 10-60')).toEqual({ media: 'ssd-nvme', least: 10, most: 60 });
  expect(readShare(' 10K disk at most 40 %')).toEqual({ media: 'hdd-10k', least: 0, most: 40 });
  expect(readShare('hdd-10k: at least 20')).toEqual({ media: 'hdd-10k', least: 20, most: 100 });
  expect(readShare('NVMe flash never')).toEqual({ media: 'ssd-nvme', least: 0, most: 0 });
  expect(readShare('tape never')).toBeNull();
  expect(readShare('hdd-10k sometimes')).toBeNull();
  for (const line of ['ssd-nvme 10-60', 'hdd-7k never', 'hdd-10k all']) expect(shareText(readShare(line)!)).toBe(line);
  expect(policyWords({ shares: [readShare('hdd-7k never')!], startOn: 'ssd-nvme' })).toBe(
    'nothing on 7.2K disk, new data starts on NVMe flash',
  );
});

test('a policy bounds, where new data starts is its own, and what cannot be is refused in words', () => {
  const estate = tiered();
  expect(codesOf(estate, policy(['ssd-nvme 60-40']))).toEqual(['bounds-cross']);
  expect(codesOf(estate, policy(['ssd-nvme at least 60', 'hdd-10k at least 50']))).toEqual(['bounds-above-100']);
  expect(codesOf(estate, policy(['ssd-nvme 0-120']))).toEqual(['bound-out-of-range']);
  expect(codesOf(estate, policy(['flash a lot']))).toEqual(['tier-share-unread']);
  expect(codesOf(estate, policy(['ssd-nvme never', 'ssd-nvme all']))).toEqual(['tier-share-twice']);
  expect(codesOf(estate, policy(['ssd-nvme never'], { startOn: 'ssd-nvme' }))).toEqual(['tier-start-never']);
  expect(refusalsOf(estate, policy(['ssd-nvme at most 30', 'hdd-10k at most 40']))).toMatchObject([
    {
      code: 'bounds-below-100',
      message:
        'upper lets 70 % be placed in all; some of it would lie nowhere in hold, whose classes are NVMe flash, 10K disk.',
    },
  ]);
  expect(codesOf(estate, policy(['ssd-sas at least 30']))).toEqual(['tier-class-missing']);
  carryOut(estate, [policy(['ssd-nvme at most 30'], { startOn: 'ssd-nvme' })], 'policy');
  const scanner = named(estate, 'volume', 'scanner');
  expect(startOf(estate, scanner)).toEqual({ start: 'ssd-nvme', last: new Set() });
  carryOut(
    estate,
    [{ do: 'tier-policy.configure', array: 'lintel-1', policy: 'upper', shares: ['ssd-nvme never'], startOn: 'own' }],
    'b',
  );
  expect(startOf(estate, scanner)).toEqual({ start: 'hdd-10k', last: new Set(['ssd-nvme']) });
  // Flash comes last, behind what is slower.
  const { effects } = giveNumbers(estate, scanner, named(estate, 'pool', 'hold'), [[40, 44]], newIds('more'));
  estate.apply(effects);
  expect(extentsByClass(estate, named(estate, 'pool', 'hold')).get(scanner.id)![0]).toBe(0);
  carryOut(estate, [{ do: 'tier-policy.lift', array: 'lintel-1', volumes: ['scanner'] }], 'c');
  expect(startOf(estate, scanner).last.size).toBe(0);
  carryOut(estate, [{ do: 'tier-policy.apply', array: 'lintel-1', policy: 'upper', volumes: ['scanner'] }], 'd');
  expect(estate.table('tierUse').size).toBe(1);
  carryOut(estate, [{ do: 'tier-policy.delete', array: 'lintel-1', policy: 'upper' }], 'e');
  expect(estate.table('tierUse').size).toBe(0);
});

test('bounds that a pool cannot hold name what lacks room, and how much', () => {
  const estate = tiered();
  carryOut(
    estate,
    [
      {
        do: 'volume.create',
        array: 'lintel-1',
        pool: 'hold',
        name: 'vast',
        size: '6 TiB',
        provisioning: 'thick',
        tier: 'hdd-10k',
      },
    ],
    'vast',
  );
  const [refusal] = refusalsOf(estate, policy(['ssd-nvme all'], { volumes: ['vast'] }));
  expect(refusal).toMatchObject({ code: 'tiers-too-small', field: 'shares' });
  expect(refusal!.message).toMatch(/^What must lie on NVMe flash in hold is .* more than there is room for\.$/);
  carryOut(estate, [policy(['ssd-nvme at least 10'], { volumes: ['vast'] })], 'some');
  expect(heatMap(estate, named(estate, 'pool', 'hold'))!.volumes.find(({ name }) => name === 'vast')!.policy).toBe(
    'upper',
  );
});

test('what lies where it must not counts as to be moved', () => {
  const estate = tiered();
  carryOut(estate, [policy(['hdd-10k never'])], 'policy');
  expect(codesOf(estate, { do: 'pool.place-by-heat', array: 'lintel-1', name: 'hold' })).toEqual([]);
  const map = heatMap(estate, named(estate, 'pool', 'hold'))!;
  expect(map.refusal).toBeNull();
  expect(map.how).toBe('optimal');
  expect(map.tiers[1]!.cells.some(({ used }) => used > 0)).toBe(true);
});

describe('windows', () => {
  const pool = (heatFrom: number | null, heatUntil: number | null) =>
    rowOf('pool', { id: 'p', name: 'p', array: 'a', extentSize: 4096, heatFrom, heatUntil });

  test('open, coming, over midnight, all day, or never shut', () => {
    const day = 20_000 * DAY;
    expect(windowAt(pool(null, null), day + HOUR)).toEqual({ from: day + HOUR, to: null });
    expect(windowAt(pool(22, 6), day + 23 * HOUR)).toEqual({ from: day + 23 * HOUR, to: day + 30 * HOUR });
    expect(windowAt(pool(22, 6), day + 3 * HOUR)).toEqual({ from: day + 3 * HOUR, to: day + 6 * HOUR });
    expect(windowAt(pool(22, 6), day + 6 * HOUR)).toEqual({ from: day + 22 * HOUR, to: day + 30 * HOUR });
    expect(windowAt(pool(8, 8), day + 8 * HOUR)).toEqual({ from: day + 8 * HOUR, to: day + 32 * HOUR });
    expect(windowWords(pool(22, 6))).toBe('every day from 22:00 to 06:00');
    expect(windowWords(pool(8, 8))).toBe('all day, every day');
  });

  test('half a window is refused, a rate of nothing too', () => {
    const estate = tiered();
    const set = { do: 'pool.heat-window', array: 'lintel-1', name: 'hold' };
    expect(codesOf(estate, { ...set, from: 22 })).toEqual(['heat-window-half']);
    expect(codesOf(estate, { ...set, from: 22, until: 6, rate: '0 MiB/s' })).toContain('heat-rate-zero');
    carryOut(estate, [{ ...set, from: 22, until: 6, rate: '50 MiB/s' }], 'window');
    expect(named(estate, 'pool', 'hold')).toMatchObject({ heatFrom: 22, heatUntil: 6, heatRate: 50 * 2 ** 20 });
  });
});
