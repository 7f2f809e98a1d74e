import { randomFrom } from '../estate/random';
import { bucketFluid } from './bucket-fluid';
import { bucketPerIo } from './bucket-io';
import { densityLimit, ioCost } from './cost';
import { floorsFeasible, limitForNeighbour } from './solve';
import { tagSchedule } from './tags';
import { waterFill, type Claim } from './water-fill';

const near = (value: unknown, expected: number, relative = 5e-4) => {
  expect(Math.abs((value as number) - expected)).toBeLessThanOrEqual(Math.max(Math.abs(expected), 1e-9) * relative);
};

test('what an I/O counts, and limits by size', () => {
  expect(ioCost({ ioBytes: 200 * 1024 })).toEqual({ cost: 4 });
  expect(ioCost({ ioBytes: 0 })).toEqual({ cost: 1 });
  const size = 750 * 2 ** 30;
  expect(densityLimit({ iopsPerGiB: 4, sizeBytes: size, minIops: 500, maxIops: 2500 })).toEqual({ iops: 2500 });
  expect(densityLimit({ iopsPerGiB: 0.1, sizeBytes: size, minIops: 500, maxIops: 2500 })).toEqual({ iops: 500 });
});

describe('bucket as a fluid', () => {
  const bucket = { ratePerS: 800, depth: 6000, initial: 6000 };
  const segments = [
    { seconds: 10, demandPerS: 2000 },
    { seconds: 10, demandPerS: 300 },
  ];

  test('the example', () => {
    const police = bucketFluid({ ...bucket, segments, mode: 'police' });
    near(police.segments[0]!.admitted, 14_000, 1e-9);
    near(police.segments[0]!.rejected, 6000, 1e-9);
    expect(police.segments[0]!.tokens).toBe(0);
    near(police.segments[1]!.admitted, 3000, 1e-9);
    near(police.segments[1]!.tokens, 5000, 1e-9);
    const shape = bucketFluid({ ...bucket, segments, mode: 'shape' });
    near(shape.segments[0]!.admitted, 14_000, 1e-9);
    near(shape.segments[0]!.queued, 6000, 1e-9);
    near(shape.segments[1]!.admitted, 8000, 1e-9);
    near(shape.segments[1]!.queued, 1000, 1e-9);
    expect(shape.segments[1]!.tokens).toBe(0);
  });

  test('a peak holds even while there are tokens', () => {
    const answer = bucketFluid({
      ...bucket,
      segments: [{ seconds: 1, demandPerS: 2000 }],
      mode: 'shape',
      peakPerS: 1000,
    });
    near(answer.segments[0]!.admitted, 1000, 1e-9);
    near(answer.segments[0]!.queued, 1000, 1e-9);
    near(answer.segments[0]!.tokens, 5800, 1e-9);
  });

  test('nothing is lost and no bucket goes below zero', () => {
    for (let seed = 1; seed <= 300; seed++) {
      const random = randomFrom(`fluid ${seed}`);
      const mode = seed % 2 ? 'police' : 'shape';
      const many = Array.from({ length: 6 }, () => ({ seconds: random() * 8, demandPerS: random() * 2500 }));
      const given = { ratePerS: random() * 1500, depth: random() * 4000, initial: random() * 4000 };
      const answer = bucketFluid({
        ...given,
        segments: many,
        mode,
        ...(seed % 3 === 0 ? { peakPerS: 200 + random() * 2000 } : {}),
      });
      const asked = many.reduce((sum, one) => sum + one.seconds * one.demandPerS, 0);
      const last = answer.segments.at(-1)!;
      near(answer.admitted + answer.rejected + last.queued, asked, 1e-6);
      for (const { tokens, queued } of answer.segments) {
        expect(tokens).toBeGreaterThanOrEqual(0);
        expect(tokens).toBeLessThanOrEqual(given.depth);
        expect(queued).toBeGreaterThanOrEqual(0);
      }
      const seconds = many.reduce((sum, one) => sum + one.seconds, 0);
      expect(answer.admitted).toBeLessThanOrEqual(given.depth + given.ratePerS * seconds + 1e-3);
    }
  });
});

describe('bucket by I/O', () => {
  const buckets = {
    ops: { ratePerS: 20, depth: 3, initial: 3 },
    bytes: { ratePerS: 1e6, depth: 3e5, initial: 3e5 },
  };
  const ios = [
    [0, 65_536],
    [0, 262_144],
    [0.01, 4096],
    [0.3, 524_288],
    [0.35, 4096],
  ].map(([atS, bytes]) => ({ atS: atS!, cost: { ops: 1, bytes: bytes! } }));

  test('the example', () => {
    const answer = bucketPerIo({ buckets, ios, mode: 'shape' });
    [0, 0.02768, 0.031776, 0.331776, 0.56016].forEach((go, k) => near(answer.ios[k]!.goS, go, 1e-9));
    const bounded = bucketPerIo({ buckets, ios, mode: 'shape', maxWaitS: 0.1 });
    expect(bounded.ios.at(-1)!.goS).toBeNull();
    expect(bounded.rejected).toBe(1);
    expect(bucketPerIo({ buckets, ios, mode: 'police' }).admitted).toBeLessThan(5);
    expect(bucketPerIo({ buckets, ios: [], mode: 'police' })).toMatchObject({ maxWaitS: null, p95WaitS: null });
  });

  test('any stretch of time admits no more than the depth and the rate', () => {
    for (let seed = 1; seed <= 100; seed++) {
      const random = randomFrom(`bucket ${seed}`);
      const one = { ratePerS: 5 + random() * 50, depth: 1 + random() * 20, initial: 20 };
      let at = 0;
      const some = Array.from({ length: 60 }, () => ({ atS: (at += random() * 0.05), cost: { a: 1 } }));
      const went = bucketPerIo({ buckets: { a: one }, ios: some, mode: 'shape' }).ios.map(({ goS }) => goS!);
      let over = -Infinity;
      for (let from = 0; from < went.length; from++)
        for (let to = from; to < went.length; to++)
          over = Math.max(over, to - from + 1 - one.depth - one.ratePerS * (went[to]! - went[from]!));
      // The last one of an interval may take what the depth is rounded up to.
      expect(over).toBeLessThanOrEqual(1 + 1e-6);
    }
  });
});

describe('shares', () => {
  test('the example, floors that do not fit, and refusals', () => {
    const answer = waterFill({
      capacity: 12_000,
      items: [
        { id: 'cargo-data', weight: 4, floor: 3000 },
        { id: 'tickets', weight: 2, limit: 2500 },
        { id: 'stores-1', weight: 1, group: 'deck' },
        { id: 'stores-2', weight: 1, floor: 800, group: 'deck' },
      ],
      groups: { deck: 2400 },
    });
    if (!answer.ok) throw new Error(answer.refusal.code);
    expect(answer.floorsFit).toBe(true);
    near(answer.theta, 1775, 1e-9);
    const expected = { 'cargo-data': 7100, tickets: 2500, 'stores-1': 1200, 'stores-2': 1200 };
    for (const [id, iops] of Object.entries(expected)) near(answer.alloc[id], iops, 1e-9);

    const short = waterFill({
      capacity: 5000,
      items: [
        { id: 'a', weight: 1, floor: 4000 },
        { id: 'b', weight: 1, floor: 2000 },
        { id: 'c', weight: 1 },
      ],
    });
    if (!short.ok) throw new Error(short.refusal.code);
    expect(short.floorsFit).toBe(false);
    near(short.alloc['a'], 10_000 / 3, 1e-9);
    near(short.alloc['b'], 5000 / 3, 1e-9);
    near(short.alloc['c']! + 1, 1, 1e-9);

    expect(waterFill({ capacity: 1, items: [{ id: 'a', weight: 0 }] })).toMatchObject({
      ok: false,
      refusal: { code: 'qos-weight-not-positive' },
    });
    expect(waterFill({ capacity: 1, items: [{ id: 'a', weight: 1, floor: 2, limit: 1 }] })).toMatchObject({
      refusal: { code: 'qos-floor-above-limit' },
    });
    expect(waterFill({ capacity: 10, items: [{ id: 'a', weight: 1, demand: 3 }] })).toMatchObject({
      alloc: { a: 3 },
      theta: null,
    });
  });

  test('what is given out adds up to the capacity or to all that is asked, within each end', () => {
    for (let seed = 1; seed <= 300; seed++) {
      const random = randomFrom(`shares ${seed}`);
      const items = Array.from({ length: 7 }, (_, k): Claim => {
        const limit = random() < 0.5 ? 50 + random() * 100 : Infinity;
        return {
          id: `v${k}`,
          weight: 0.5 + random() * 5,
          floor: random() * 40,
          limit,
          demand: random() < 0.5 ? random() * 120 : 400,
          ...(random() < 0.5 ? { group: 'g' } : {}),
        };
      });
      const capacity = 20 + random() * 800;
      const answer = waterFill({ capacity, items, groups: { g: 30 + random() * 300 } });
      if (!answer.ok) throw new Error(answer.refusal.code);
      const sum = Object.values(answer.alloc).reduce((all, one) => all + one, 0);
      expect(sum).toBeLessThanOrEqual(capacity * (1 + 1e-9));
      if (answer.theta !== null) near(sum, capacity, 1e-9);
      for (const { id, limit = Infinity, demand = Infinity } of items)
        expect(answer.alloc[id]!).toBeLessThanOrEqual(Math.min(limit, demand) * (1 + 1e-9));
    }
  });
});

describe('tags', () => {
  test('the example', () => {
    const four = (client: string) => Array.from({ length: 4 }, () => ({ client, atS: 0 }));
    const { dispatch } = tagSchedule({
      serverPerS: 100,
      clients: [
        { id: 'cargo', weight: 1, floorPerS: 40 },
        { id: 'radar', weight: 3, limitPerS: 50 },
      ],
      arrivals: [...four('cargo'), ...four('radar')],
    });
    expect(dispatch.map(({ client, phase }) => `${client} ${phase}`)).toEqual([
      'cargo floor',
      'radar weight',
      'radar weight',
      'cargo floor',
      'radar weight',
      'cargo floor',
      'radar weight',
      'cargo weight',
    ]);
  });

  test('weights in the long run, and a server never does two things at once', () => {
    const arrivals = ['a', 'b'].flatMap((client) => Array.from({ length: 400 }, () => ({ client, atS: 0 })));
    const { dispatch } = tagSchedule({
      serverPerS: 100,
      clients: [
        { id: 'a', weight: 3 },
        { id: 'b', weight: 1 },
      ],
      arrivals,
    });
    const first = dispatch.slice(0, 400).filter(({ client }) => client === 'a').length;
    expect(first).toBeGreaterThanOrEqual(299);
    expect(first).toBeLessThanOrEqual(301);
    for (let k = 1; k < dispatch.length; k++)
      expect(dispatch[k]!.startS).toBeGreaterThanOrEqual(dispatch[k - 1]!.endS - 1e-9);
  });
});

describe('what to set', () => {
  test('the limit that keeps a neighbour in time', () => {
    const four = limitForNeighbour({ serviceS: 5e-4, servers: 4, neighbourPerS: 3000, targetS: 2e-3, percentile: 95 });
    near(four.ok && four.limitPerS, 2882.85, 1e-6);
    const one = limitForNeighbour({ serviceS: 1e-3, servers: 1, neighbourPerS: 200, targetS: 6e-3, percentile: 95 });
    near(one.ok && one.limitPerS, 1000 - Math.log(20) / 0.006 - 200, 1e-9);
    const none = limitForNeighbour({ serviceS: 2e-3, servers: 4, neighbourPerS: 300, targetS: 4e-3, percentile: 95 });
    expect(none).toMatchObject({ ok: false, code: 'qos-target-missed-without-x' });
    near(!none.ok && none.responseS, 6e-3, 0.05);
    expect(limitForNeighbour({ serviceS: 1e-3, servers: 1, neighbourPerS: 1000, targetS: 1, percentile: 95 }).ok).toBe(
      false,
    );
  });

  test('floors', () => {
    const items = [
      { id: 'cargo-data', floorIops: 4000, ioBytes: 8192, unitBytes: 65_536, readFraction: 0.6, writeFactor: 3 },
      { id: 'stores-1', floorIops: 1500, ioBytes: 131_072, unitBytes: 65_536, readFraction: 0.8, writeFactor: 3 },
    ];
    const answer = floorsFeasible({ capacityUnitsPerS: 24_000, headroom: 0.25, items });
    if (!answer.ok) throw new Error(answer.code);
    near(answer.perItem['cargo-data'], 7200, 1e-9);
    near(answer.perItem['stores-1'], 4200, 1e-9);
    expect(answer).toMatchObject({ limitUnitsPerS: 18_000, fits: true });
    expect(floorsFeasible({ capacityUnitsPerS: 15_000, headroom: 0.25, items })).toMatchObject({ fits: false });
    expect(
      floorsFeasible({ capacityUnitsPerS: 1, headroom: 0, items: [{ ...items[0]!, limitIops: 3000 }] }),
    ).toMatchObject({ code: 'qos-floor-above-limit' });
  });
});
