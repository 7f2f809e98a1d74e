import fc from 'fast-check';
import { KIB } from '../units/bytes';
import { placeOf, stripeStrips } from './address-map';
import { fmix, hashOf, imbalance, permutation, spareHomes, stripePlaces } from './distributed';
import { chooseLegs, geometry, grownShape, shapeOf, survivalOf, usableOf, type Shape } from './geometry';

const shape = (wish: Parameters<typeof shapeOf>[0], n: number): Shape => {
  const found = shapeOf(wish, n);
  if (typeof found === 'string') throw new Error(found);
  return found;
};
const drives = (n: number) => Array<number>(n).fill(4_000_787_030_016);

describe('shapes', () => {
  test.each([
    [{ level: 'raid50' }, 12, 2, 6],
    [{ level: 'raid50' }, 16, 2, 8],
    [{ level: 'raid60' }, 24, 3, 8],
    [{ level: 'raid60', legs: 2 }, 12, 2, 6],
    [{ level: 'raid10', copies: 3 }, 9, 3, 3],
  ] as const)('%j of %i drives has %i legs of %i', (wish, n, legs, width) =>
    expect(shape(wish, n)).toMatchObject({ legs, width }),
  );
  test.each([
    [{ level: 'raid50' }, 7, 'legs-not-divisible'],
    [{ level: 'raid60' }, 9, 'legs-not-divisible'],
    [{ level: 'raid60', legs: 4 }, 12, 'leg-too-narrow'],
    [{ level: 'raid60', legs: 1 }, 12, 'legs-not-divisible'],
    [{ level: 'raid10', copies: 1 }, 8, 'too-few-copies'],
    [{ level: 'raid10', copies: 4 }, 6, 'copies-not-divisible'],
    [{ level: 'distributed', data: 8, parity: 2, spareColumns: 1 }, 10, 'stripe-wider-than-drives'],
    [{ level: 'triple-parity' }, 4, 'too-few-drives'],
  ] as const)('%j of %i drives: %s', (wish, n, failure) => expect(shapeOf(wish, n)).toBe(failure));
  test('no legal leg width divides a prime', () => expect(chooseLegs('raid50', 13)).toBeNull());

  test('two failures: pairs survive 6 of 7, two legs of level 6 always', () => {
    expect(survivalOf(shape({ level: 'raid10' }, 8), 2)).toBeCloseTo(6 / 7, 12);
    expect(survivalOf(shape({ level: 'raid60' }, 12), 2)).toBe(1);
    expect(survivalOf(shape({ level: 'raid5' }, 8), 2)).toBe(0);
  });

  test('drives join where the level can take them', () => {
    expect(grownShape(shape({ level: 'raid6' }, 8), 2)).toMatchObject({ width: 10, data: 8 });
    expect(grownShape(shape({ level: 'raid10' }, 8), 3)).toBeNull();
    expect(grownShape(shape({ level: 'raid60' }, 12), 2)).toMatchObject({ width: 7, legs: 2 });
    expect(grownShape(shape({ level: 'raid60' }, 12), 6)).toMatchObject({ width: 6, legs: 3 });
    expect(grownShape(shape({ level: 'raid60' }, 12), 1)).toBeNull();
  });

  test('more drives never give less room', () =>
    fc.assert(
      fc.property(
        fc.constantFrom('raid0', 'raid5', 'raid6', 'raid10', 'raid50', 'raid60', 'triple-parity', 'distributed'),
        fc.integer({ min: 8, max: 24 }),
        fc.integer({ min: 1, max: 12 }),
        (level, n, added) => {
          const before = shapeOf({ level }, n);
          if (typeof before === 'string') return;
          const after = grownShape(before, added);
          if (after)
            expect(usableOf(after, 2 ** 40, 64 * KIB)).toBeGreaterThanOrEqual(usableOf(before, 2 ** 40, 64 * KIB));
        },
      ),
    ));
});

describe('address map', () => {
  test('level 5 of five drives, block 1000 of strips of 128', () => {
    const place = placeOf(shape({ level: 'raid5' }, 5), 0, 128, 1000);
    expect(place).toEqual({ drive: 2, offset: 232, others: [{ drive: 3, offset: 232, what: 'parity' }] });
  });

  test('distributed 3+1 on seven drives, block 2565', () => {
    const group = shape({ level: 'distributed', data: 3, parity: 1, spareColumns: 1 }, 7);
    const places = stripePlaces(group, 7, 6, 64);
    expect(places[2]).toEqual({ drive: 4, row: 4 });
    expect(places[3]).toEqual({ drive: 2, row: 4 });
  });

  test.each([
    'raid0',
    'raid1',
    'raid10',
    'raid5',
    'raid6',
    'triple-parity',
    'raid50',
    'raid60',
    'distributed',
  ] as const)('every strip of %s lies in a place of its own', (level) => {
    const group = shape({ level }, 12);
    const taken = new Set<string>();
    const numbers = new Set<number>();
    for (let stripe = 0; stripe < 60; stripe++) {
      const strips = stripeStrips(group, 5, stripe);
      expect(new Set(strips.map((one) => one.drive)).size).toBe(strips.length);
      for (const { drive, row, what, number } of strips) {
        expect(taken.has(`${drive} ${row}`)).toBe(false);
        taken.add(`${drive} ${row}`);
        if (what === 'data') numbers.add(number);
      }
    }
    expect([...numbers].sort((a, b) => a - b)).toEqual([...numbers.keys()].map((_, k) => k));
  });

  test('n strips in a row lie on n drives of a single group', () => {
    const group = shape({ level: 'raid5' }, 7);
    for (let first = 0; first < 40; first++) {
      const found = new Set<number>();
      for (let strip = first; strip < first + 7; strip++) found.add(placeOf(group, 0, 128, strip * 128).drive);
      expect(found.size).toBe(7);
    }
  });
});

describe('distributed layout', () => {
  test('hash and permutations as the reference gives them', () => {
    expect(fmix(1)).toBe(1364076727);
    expect(hashOf(1, 2, 3)).toBe(2455118838);
    expect(permutation(7, 0, 7)).toEqual([0, 6, 5, 4, 3, 2, 1]);
    expect(permutation(7, 1, 7)).toEqual([2, 5, 4, 3, 1, 6, 0]);
  });

  test('balance improves with the number of permutations', () => {
    const group = shape({ level: 'distributed', data: 8, parity: 2, spareColumns: 1 }, 20);
    expect(imbalance(group, 42, 512)).toBeCloseTo(0.065, 2);
    expect(imbalance(group, 42, 2048)).toBeLessThan(0.05);
  });

  test('lost strips find spare columns on drives that stand, and move on when those fail', () => {
    const group = shape({ level: 'distributed', data: 3, parity: 1, spareColumns: 2 }, 9);
    for (let tile = 0; tile < 50; tile++) {
      const order = permutation(3, tile, 9);
      const failures = [order[0]!, order[7]!];
      const homes = spareHomes(group, 3, tile, failures);
      expect(homes.get(0)).toBe(8);
      for (const spare of homes.values()) expect(failures).not.toContain(order[spare]);
    }
  });

  test('capacity counts whole tiles', () => {
    const found = geometry({ level: 'distributed', data: 8, parity: 2, spareColumns: 1 }, drives(20), 64 * KIB);
    if (typeof found === 'string') throw new Error(found);
    // 19 active columns carry stripes of 10, 8 of them data.
    expect(found.usable / found.memberSize).toBeCloseTo((19 * 8) / 10, 3);
  });
});
