import fc from 'fast-check';
import { codesOf, estateAfter, mounted } from '../../../demo/workbench';
import { capacityModel } from '../space/capacity';
import { changed } from '../estate/effects';
import type { Estate } from '../estate/estate';
import { fillMarks, markEvents, markOf } from './marks';
import { REDUCTION_HEADROOM } from './choices';
import { poolExposure, poolUsage, reserveOf } from './usage';

const marks = { notice: 70, urgent: 90 };
const poolOf = (estate: Estate) => [...estate.table('pool').values()][0]!;

describe('fill marks', () => {
  test('one that was told is lifted two points below it, and only then', () => {
    expect(markOf(marks, 69, 100, 'notice')).toBe('notice');
    expect(markOf(marks, 68, 100, 'notice')).toBe('notice');
    expect(markOf(marks, 67, 100, 'notice')).toBe('none');
    expect(markOf(marks, 69, 100)).toBe('none');
    expect(markOf(marks, 88, 100, 'urgent')).toBe('urgent');
    expect(markOf(marks, 87, 100, 'urgent')).toBe('warning');
    expect(markOf(marks, 50, 100, 'urgent')).toBe('none');
    expect(markOf(marks, 0, 0, 'urgent')).toBe('none');
  });
  test('going to and fro within two points is told once', () =>
    fc.assert(
      fc.property(
        fc.constantFrom(70, 80, 90),
        fc.array(fc.integer({ min: 0, max: 1 }), { maxLength: 20 }),
        (at, steps) => {
          const first = markOf(marks, at, 100);
          let told = first;
          for (const step of steps) told = markOf(marks, at - step, 100, told);
          expect(told).toBe(first);
        },
      ),
    ));
  test('never lower than without memory, and never higher than what was told or is passed', () =>
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 100 }), fc.constantFrom(...fillMarks), (used, told) => {
        const rank = (mark: (typeof fillMarks)[number]) => fillMarks.indexOf(mark);
        const now = markOf(marks, used, 100, told);
        expect(rank(now)).toBeGreaterThanOrEqual(rank(markOf(marks, used, 100)));
        expect(rank(now)).toBeLessThanOrEqual(Math.max(rank(told), rank(markOf(marks, used, 100))));
      }),
    ));
  test('a crossing is one event, up and down', () => {
    const estate = estateAfter(mounted);
    const before = poolOf(estate);
    expect(markEvents(estate).said).toEqual([]);
    const [group] = estate.table('raidGroup').by('pool', before.id);
    const percent = 50;
    estate.apply([changed('raidGroup', group!, { usable: poolUsage(estate, before).used * 2 * before.extentSize })]);
    estate.apply([changed('pool', before, { notice: percent - 1, urgent: 95, alertTo: '' })]);
    const up = markEvents(estate);
    expect(up.said).toEqual([expect.stringMatching(/^Pool .* passed its notice mark of \d+ %: .*Nobody is told/)]);
    estate.apply(up.effects);
    expect(markEvents(estate)).toEqual({ effects: [], said: [] });
    estate.apply([changed('pool', poolOf(estate), { notice: percent + 1 })]);
    expect(markEvents(estate).said).toEqual([]);
    estate.apply([changed('pool', poolOf(estate), { notice: percent + 4 })]);
    const down = markEvents(estate);
    expect(down.said).toEqual([expect.stringContaining('fell below its notice mark:')]);
    estate.apply(down.effects);
    expect(poolOf(estate).mark).toBe('none');
  });
});

test('reduction begins with just the room it needs, and not with an extent less', () => {
  const estate = estateAfter(mounted);
  const pool = poolOf(estate);
  const [group] = estate.table('raidGroup').by('pool', pool.id);
  const { used } = poolUsage(estate, pool);
  // As many extents as leave the wanted share available, the reserve of four kept.
  const capacityFor = (spare: number) => {
    let capacity = used + 4;
    while (capacity - used - reserveOf(capacity, pool.reserve) < Math.ceil(capacity * REDUCTION_HEADROOM) + spare)
      capacity += 1;
    return capacity;
  };
  const codesWith = (capacity: number) => {
    estate.apply([
      changed('raidGroup', estate.table('raidGroup').get(group!.id)!, { usable: capacity * pool.extentSize }),
    ]);
    return codesOf(estate, { do: 'pool.configure', array: 'lintel-1', name: pool.name, dedupe: 'inline' });
  };
  const least = capacityFor(0);
  expect(codesWith(least)).toEqual([]);
  expect(poolUsage(estate, pool).available).toBe(Math.ceil(least * REDUCTION_HEADROOM));
  expect(codesWith(least - 1)).toEqual(['reduction-headroom']);
});

describe('exposure', () => {
  test('is what thin volumes may still ask for, beyond what is free', () => {
    const estate = estateAfter(mounted);
    const pool = poolOf(estate);
    const [volume] = [...estate.table('volume').by('pool', pool.id)].filter((one) => one.provisioning === 'thin');
    const free = () => poolUsage(estate, pool).groups.reduce((sum, one) => sum + one.free, 0) * pool.extentSize;
    const others = [...estate.table('volume').by('pool', pool.id)]
      .filter((one) => one.provisioning === 'thin' && one.id !== volume!.id)
      .reduce((sum, one) => sum + one.size - estate.occupancy.allocated(one.id) * pool.extentSize, 0);
    const taken = estate.occupancy.allocated(volume!.id) * pool.extentSize;
    // Just what fits, and a byte more.
    const fits = free() - others + taken;
    estate.apply([changed('volume', volume!, { size: fits })]);
    expect(poolExposure(estate, pool)).toBe(0);
    estate.apply([changed('volume', estate.table('volume').get(volume!.id)!, { size: fits + 1 })]);
    expect(poolExposure(estate, pool)).toBe(1);
    const shown = capacityModel(estate)
      .arrays.flatMap((array) => array.pools)
      .find((one) => one.id === pool.id)!;
    expect(shown.exposure).toBe(1);
    // What was reduced of it is taken already; a retired volume asks for nothing.
    estate.apply([changed('volume', estate.table('volume').get(volume!.id)!, { reducedTo: 1 })]);
    expect(poolExposure(estate, pool)).toBe(0);
    estate.apply([
      changed('volume', estate.table('volume').get(volume!.id)!, { reducedTo: 0, deletedAt: 1, size: 2 * fits }),
    ]);
    expect(poolExposure(estate, pool)).toBe(0);
  });
});
