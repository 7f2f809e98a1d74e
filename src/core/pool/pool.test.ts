import fc from 'fast-check';
import { slots } from '../../../demo/names';
import { bareEstate, carryOut, codesOf, estateAfter, refusalsOf, smallChain } from '../../../demo/workbench';
import { brokenRules } from '../rules/book';
import { MIB } from '../units/bytes';
import { shareByRoom } from './allocate';
import { extentsOf, poolUsage, reserveOf } from './usage';
import { someOf } from '../units/counted';

describe('sharing by room', () => {
  test('largest remainder: 10 over 50, 30 and 21 free', () => expect(shareByRoom(10, [50, 30, 21])).toEqual([5, 3, 2]));
  test('ties go to the earlier group', () => expect(shareByRoom(1, [4, 4])).toEqual([1, 0]));
  test('nothing free', () => expect(shareByRoom(0, [0, 0])).toEqual([0, 0]));
  test('gives exactly what is wanted and never more than a group has', () =>
    fc.assert(
      fc.property(
        fc.array(fc.nat(1e6), { minLength: 1, maxLength: 12 }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (free, part) => {
          const wanted = Math.floor(free.reduce((a, b) => a + b, 0) * part);
          const shares = shareByRoom(wanted, free);
          expect(shares.reduce((a, b) => a + b, 0)).toBe(wanted);
          shares.forEach((share, k) => expect(share).toBeLessThanOrEqual(free[k]!));
        },
      ),
    ));
});

test('reserve and extents', () => {
  expect(extentsOf(1000 * MIB, 64 * MIB)).toBe(15);
  expect(reserveOf(10_000)).toBe(100);
  expect(reserveOf(50)).toBe(4);
  expect(reserveOf(2)).toBe(2);
});

const group = (name: string, from: number, level = 'raid6') => ({
  do: 'raid-group.create',
  array: 'lintel-1',
  name,
  level,
  drives: slots(0, from, from + 5),
});
const pool = (more: Record<string, unknown> = {}) => ({
  do: 'pool.create',
  array: 'lintel-1',
  name: 'quay',
  raidGroups: ['rg-1'],
  ...more,
});

describe('pool.create', () => {
  const estate = bareEstate();
  carryOut(estate, [group('rg-1', 0), group('rg-2', 6, 'raid5')]);
  test.each([
    ['no-groups', { raidGroups: [] }],
    ['raid-group-unknown', { raidGroups: ['rg-7'] }],
    ['extent-odd', { extentSize: '48 MiB' }],
    ['extent-odd', { extentSize: '2 GiB' }],
    ['extent-odd', { extentSize: '64' }],
    ['name-missing', { name: '' }],
  ])('is refused: %s', (code, more) => expect(codesOf(estate, pool(more))).toContain(code));

  test('a name almost right is offered', () =>
    expect(refusalsOf(estate, pool({ raidGroups: ['rg-11'] }))[0]!.mend).toBe('Perhaps rg-1 is meant.'));

  test('a group carries one pool', () => {
    const used = estateAfter([group('rg-1', 0), pool()]);
    expect(refusalsOf(used, pool({ name: 'hold' }))[0]).toMatchObject({
      code: 'group-in-use',
      message: 'rg-1 carries pool quay already.',
    });
  });

  test('levels that differ are said', () => {
    const [step] = carryOut(bareEstate(), [
      group('rg-1', 0),
      group('rg-2', 6, 'raid5'),
      pool({ raidGroups: ['rg-1', 'rg-2'] }),
    ]).slice(-1);
    expect(step!.notes[0]).toContain('as safe as its weakest group, which survives 1 lost drive');
  });
});

describe('pool.delete', () => {
  test('is refused with the volumes it holds', () => {
    expect(
      refusalsOf(estateAfter(smallChain), { do: 'pool.delete', array: 'lintel-1', name: 'quay' })[0],
    ).toMatchObject({
      code: 'pool-holds-volumes',
      message: 'quay holds 2 volumes: tickets-1, tickets-2.',
    });
  });
  test('lets its groups go', () => {
    const estate = estateAfter([group('rg-1', 0), pool(), { do: 'pool.delete', array: 'lintel-1', name: 'quay' }]);
    expect(estate.table('pool').size).toBe(0);
    expect([...estate.table('raidGroup').values()][0]!.pool).toBeNull();
  });
});

test('thick extents spread over the groups by their room, and the sums agree', () => {
  const estate = estateAfter([
    group('rg-1', 0),
    { do: 'raid-group.create', array: 'lintel-1', name: 'rg-2', level: 'raid6', drives: slots(0, 6, 13) },
    pool({ raidGroups: ['rg-1', 'rg-2'] }),
    { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'thick', size: '1 TiB', provisioning: 'thick' },
  ]);
  const usage = poolUsage(estate, [...estate.table('pool').values()][0]!);
  const [small, large] = [...usage.groups].sort((a, b) => a.capacity - b.capacity);
  expect(usage.used).toBe(16_384);
  expect(large!.used / small!.used).toBeCloseTo(large!.capacity / small!.capacity, 2);
  expect(usage.available).toBe(usage.capacity - usage.used - usage.reserve);
  expect(usage.size + usage.slack).toBe(usage.groups.reduce((sum, one) => sum + one.group.usable, 0));
  expect(brokenRules(estate)).toEqual([]);
});

test('names in a sentence', () => {
  expect(someOf(['a', 'b'])).toBe('a, b');
  expect(someOf(['a', 'b', 'c', 'd', 'e'])).toBe('a, b, c and 2 more');
});
