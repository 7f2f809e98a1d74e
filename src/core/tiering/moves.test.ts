import { randomFrom } from '../estate/random';
import type { ExtentRun } from '../estate/entities';
import { apply, nextStep, pictureOf, type Picture, type Piece } from './moves';

const piece = (volume: string, tier: number, count: number, heat: number): Piece => ({
  id: `${volume} ${tier} ${heat}`,
  volume,
  run: {} as ExtentRun,
  offset: 0,
  count,
  heat,
  tier,
});

/** Takes steps until there is none, and looks after every one that nothing was lost and no room was overdrawn. */
function settle(picture: Picture, most = Infinity): number {
  const all = () => picture.pieces.flat().reduce((sum, { count }) => sum + count, 0);
  const whole = all();
  let steps = 0;
  for (let step = nextStep(picture, most); step; step = nextStep(picture, most)) {
    apply(picture, step);
    expect(all()).toBe(whole);
    for (const { free } of picture.places) expect(free).toBeGreaterThanOrEqual(0);
    if (++steps > 5000) throw new Error('it never settles');
  }
  return steps;
}

const has = (picture: Picture, volume: string) => picture.counts.get(volume)!;

test('what may not lie on a class leaves it, cold or hot, and nothing of it comes back', () => {
  const picture = pictureOf(
    [piece('a', 0, 6, 90), piece('a', 1, 4, 80), piece('b', 1, 5, 10)],
    [
      { free: 2, kept: 0 },
      { free: 20, kept: 0 },
    ],
    new Map([['a', { most: [0, 10], least: [0, 0] }]]),
  );
  settle(picture);
  expect(has(picture, 'a')).toEqual([0, 10]);
  expect(has(picture, 'b')).toEqual([5, 0]);
});

test('what must lie on a class comes there in exchange for another’s where it is full', () => {
  const picture = pictureOf(
    [piece('a', 1, 10, 0), piece('b', 0, 10, 50)],
    [
      { free: 0, kept: 0 },
      { free: 4, kept: 0 },
    ],
    new Map([['a', { most: [10, 10], least: [3, 0] }]]),
  );
  settle(picture);
  expect(has(picture, 'a')).toEqual([3, 7]);
  expect(has(picture, 'b')).toEqual([7, 3]);
});

test('heat goes no further up than bounds allow', () => {
  const picture = pictureOf(
    [piece('a', 1, 10, 100)],
    [
      { free: 10, kept: 2 },
      { free: 0, kept: 0 },
    ],
    new Map([['a', { most: [4, 10], least: [0, 0] }]]),
  );
  settle(picture);
  expect(has(picture, 'a')).toEqual([4, 6]);
});

test('random pictures settle within their bounds, and no hot extent that may rise stays below a much colder one', () => {
  for (let seed = 1; seed <= 300; seed++) {
    const random = randomFrom(`moves ${seed}`);
    const K = 2 + Math.floor(random() * 2);
    const volumes = ['a', 'b', 'c'];
    const pieces = volumes.flatMap((volume) =>
      Array.from({ length: K }, (_, tier) =>
        piece(volume, tier, 1 + Math.floor(random() * 6), Math.floor(random() * 60)),
      ),
    );
    const places = Array.from({ length: K }, () => ({ free: 3 + Math.floor(random() * 20), kept: 0 }));
    const size = (volume: string) => pieces.reduce((sum, one) => sum + (one.volume === volume ? one.count : 0), 0);
    const [n, m] = [size('a'), size('b')];
    const bounds = new Map<string, { most: number[]; least: number[] }>([
      [
        'a',
        {
          most: Array.from({ length: K }, (_, k) => (k === 0 ? Math.floor(n / 3) : n)),
          least: new Array<number>(K).fill(0),
        },
      ],
      [
        'b',
        {
          most: new Array<number>(K).fill(m),
          least: Array.from({ length: K }, (_, k) => (k === K - 1 ? Math.floor(m / 4) : 0)),
        },
      ],
    ]);
    const picture = pictureOf(pieces, places, bounds);
    settle(picture, 1 + Math.floor(random() * 5));
    for (const [volume, { most, least }] of bounds)
      has(picture, volume).forEach((count, k) => {
        expect(count).toBeLessThanOrEqual(most[k]!);
        expect(count).toBeGreaterThanOrEqual(least[k]!);
      });
    // Volume c is bounded by nothing: whatever is hot of it lies above what is cold of it.
    const own = picture.pieces.flat().filter(({ volume }) => volume === 'c');
    if (picture.places.every(({ free }) => free > 0))
      for (const low of own)
        for (const high of own) if (low.tier > high.tier) expect(low.heat).toBeLessThan(1.25 * high.heat + 1);
  }
});
