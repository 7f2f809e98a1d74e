import { randomFrom } from '../estate/random';
import { boundsOf, feasible, type TierPolicy } from './bounds';
import { exchanges, thrash, type TieredExtent } from './exchange';
import { accessWeight, heatAt, steadyHeat } from './heat';
import { placeAtLeastCost } from './optimum';
import { placeByHeat } from './place';
import { KIB } from '../units/bytes';
import { DAY, HOUR } from '../units/duration';

describe('heat', () => {
  test('it halves in a day, and settles under a steady rate', () => {
    expect(heatAt({ heat: 40, since: 0, at: DAY })).toBe(20);
    expect(heatAt({ heat: 40, since: 0, at: DAY, accesses: 5 })).toBe(25);
    expect(heatAt({ heat: 1e-9, since: 0, at: DAY })).toBe(0);
    let heat = 0;
    for (let hour = 1; hour <= 24 * 60; hour++)
      heat = heatAt({ heat, since: (hour - 1) * HOUR, at: hour * HOUR, accesses: 12 });
    expect(heat).toBeCloseTo(steadyHeat({ ratePerHour: 12 }), 3);
  });

  test('what an access counts', () => {
    expect(accessWeight({ ioBytes: 64 * KIB, sequential: true })).toBe(1);
    expect(accessWeight({ ioBytes: 256 * KIB, sequential: true })).toBe(0.25);
    expect(accessWeight({ ioBytes: 256 * KIB, sequential: false })).toBe(1);
  });
});

describe('bounds', () => {
  test('counts are whole; what they lack goes to the slowest tier that may be used', () => {
    expect(boundsOf('p', { extents: 5, percent: [10, 50, 50] })).toMatchObject({ ok: true, most: [0, 2, 3] });
    expect(boundsOf('p', { extents: 5, percent: [50, 50, 0] })).toMatchObject({ ok: true, most: [2, 3, 0] });
    expect(boundsOf('p', { extents: 5, percent: [50, 80], least: [20, 0] })).toEqual({
      ok: true,
      most: [2, 4],
      least: [1, 0],
    });
    expect(boundsOf('p', { extents: 5, percent: [10, 100], least: [20, 0] })).toMatchObject({
      refusal: { code: 'bounds-cross', tier: 0 },
    });
    expect(boundsOf('p', { extents: 5, percent: [100, 100], least: [60, 50] })).toMatchObject({
      refusal: { code: 'bounds-above-100' },
    });
    expect(boundsOf('p', { extents: 5, percent: [50, 49, 0] })).toMatchObject({
      refusal: { code: 'bounds-below-100' },
    });
    expect(boundsOf('p', { extents: 5, percent: [101, 0] })).toMatchObject({ refusal: { code: 'bound-out-of-range' } });
    expect(boundsOf('p', { extents: 5, percent: [50.5, 50] })).toMatchObject({
      refusal: { code: 'bound-out-of-range' },
    });
  });

  test('what cannot be placed names the tiers and what they lack', () => {
    const tiers = [2, 3, 20].map((capacity, k) => ({ capacity, service: k + 1 }));
    const policies = { fast: { extents: 8, percent: [100, 100, 25] }, rest: { extents: 4, percent: [100, 100, 100] } };
    expect(feasible({ tiers, policies })).toMatchObject({
      ok: false,
      refusal: { code: 'tiers-too-small', tiers: [0, 1], excess: 1 },
    });
    expect(feasible({ tiers, policies: { ...policies, fast: { extents: 8, percent: [100, 100, 38] } } }).ok).toBe(true);
  });
});

/** The least cost over every way to place a few extents, or null. */
function bruteForce(
  tiers: readonly { capacity: number; service: number }[],
  policies: Readonly<Record<string, TierPolicy>>,
  extents: readonly { heat: number; policy: number }[],
): number | null {
  const bounds = Object.entries(policies).map(([name, policy]) => boundsOf(name, policy));
  const rooms = tiers.map(({ capacity }) => capacity);
  const most = bounds.map((one) => (one.ok ? [...one.most] : []));
  const least = bounds.map((one) => (one.ok ? one.least : []));
  const placed = most.map((one) => one.map(() => 0));
  let best: number | null = null;
  const go = (k: number, cost: number) => {
    if (k === extents.length) {
      if (placed.every((own, p) => own.every((here, tier) => here >= least[p]![tier]!)))
        best = best === null ? cost : Math.min(best, cost);
      return;
    }
    const { heat, policy } = extents[k]!;
    for (let tier = 0; tier < tiers.length; tier++) {
      if (rooms[tier]! <= 0 || most[policy]![tier]! <= 0) continue;
      rooms[tier]! -= 1;
      most[policy]![tier]! -= 1;
      placed[policy]![tier]! += 1;
      go(k + 1, cost + heat * tiers[tier]!.service);
      rooms[tier]! += 1;
      most[policy]![tier]! += 1;
      placed[policy]![tier]! -= 1;
    }
  };
  go(0, 0);
  return best;
}

describe('placement', () => {
  test('the example', () => {
    const answer = placeByHeat({
      tiers: [
        { capacity: 1, service: 0.1 },
        { capacity: 2, service: 5 },
        { capacity: 9, service: 12.5 },
      ],
      policies: { p: { percent: [50, 50, 100] } },
      extents: { heat: [40, 30, 20, 10], policy: [0, 0, 0, 0] },
    });
    if (!answer.ok) throw new Error(answer.refusal.code);
    expect([...answer.tier]).toEqual([0, 1, 1, 2]);
    expect(answer.meanService).toBeCloseTo(3.79, 12);
  });

  test('the greedy answer says so where bounds bind', () => {
    const answer = placeByHeat({
      tiers: [
        { capacity: 1, service: 0 },
        { capacity: 1, service: 1 },
        { capacity: 2, service: 10 },
      ],
      policies: { P: { percent: [100, 100, 100] }, Q: { percent: [100, 0, 100] } },
      extents: { heat: [10, 9], policy: [0, 1] },
    });
    expect(answer).toMatchObject({ cost: 90, how: 'greedy' });
    expect(
      placeAtLeastCost({
        tiers: [
          { capacity: 1, service: 0 },
          { capacity: 1, service: 1 },
          { capacity: 2, service: 10 },
        ],
        policies: { P: { percent: [100, 100, 100] }, Q: { percent: [100, 0, 100] } },
        extents: { heat: [10, 9], policy: [0, 1] },
      }),
    ).toMatchObject({ cost: 10, how: 'optimal', tier: Uint8Array.from([1, 0]) });
  });

  test('nothing hot: the plain mean', () => {
    expect(
      placeByHeat({
        tiers: [{ capacity: 4, service: 3 }],
        policies: { p: { percent: [100] } },
        extents: { heat: [0, 0], policy: [0, 0] },
      }),
    ).toMatchObject({ meanService: null, plainService: 3 });
  });

  test('what it calls optimal is the best of every way; rooms and bounds hold', () => {
    let seen = 0;
    for (let seed = 1; seed <= 400; seed++) {
      const random = randomFrom(`place ${seed}`);
      const K = 2 + Math.floor(random() * 2);
      const tiers = Array.from({ length: K }, (_, k) => ({
        capacity: Math.floor(random() * 5),
        service: k * 3 + random(),
      }));
      const extents = Array.from({ length: 6 }, () => ({
        heat: Math.floor(random() * 20),
        policy: Math.floor(random() * 2),
      }));
      const policies = Object.fromEntries(
        ['p', 'q'].map((name, p) => [
          name,
          {
            extents: extents.filter((one) => one.policy === p).length,
            percent: Array.from({ length: K }, (_, k) => (k === K - 1 ? 100 : Math.floor(random() * 101))),
            // Of some seeds a policy wants some of its extents in the slowest tier.
            ...(seed % 3 === 0
              ? { least: Array.from({ length: K }, (_, k) => (k === K - 1 ? Math.floor(random() * 101) : 0)) }
              : {}),
          },
        ]),
      );
      const answer = placeByHeat({
        tiers,
        policies,
        extents: { heat: extents.map(({ heat }) => heat), policy: extents.map(({ policy }) => policy) },
      });
      const best = bruteForce(tiers, policies, extents);
      expect(answer.ok).toBe(best !== null);
      const repaired = placeAtLeastCost({
        tiers,
        policies,
        extents: { heat: extents.map(({ heat }) => heat), policy: extents.map(({ policy }) => policy) },
      });
      if (best !== null) expect(repaired).toMatchObject({ ok: true, how: 'optimal' });
      if (repaired.ok) {
        expect(repaired.cost).toBeCloseTo(best!, 9);
        // Rooms and bounds hold.
        Object.entries(policies).forEach(([name, policy], p) => {
          const bounds = boundsOf(name, policy);
          if (!bounds.ok) throw new Error(bounds.refusal.message);
          tiers.forEach(({ capacity }, k) => {
            const here = extents.filter((one, e) => one.policy === p && repaired.tier[e] === k).length;
            expect(here).toBeLessThanOrEqual(bounds.most[k]!);
            expect(here).toBeGreaterThanOrEqual(bounds.least[k]!);
            expect(repaired.tier.filter((one) => one === k).length).toBeLessThanOrEqual(capacity);
          });
        });
      }
      if (!answer.ok) continue;
      seen += 1;
      tiers.forEach(({ capacity }, k) =>
        expect(answer.tier.filter((one) => one === k).length).toBeLessThanOrEqual(capacity),
      );
      if (answer.how === 'optimal') expect(answer.cost).toBeCloseTo(best!, 9);
      else expect(answer.cost).toBeGreaterThanOrEqual(best! - 1e-9);
    }
    expect(seen).toBeGreaterThan(50);
  });
});

describe('exchanges', () => {
  const extents = (...heats: [string, number, number][]): TieredExtent[] =>
    heats.map(([id, tier, heat]) => ({ id, tier, heat, policy: 'p' }));
  const most = { p: [2, 9] };

  test('the hottest into free room, then against the coldest until the test fails', () => {
    const some = extents(['a', 0, 10], ['b', 0, 2], ['c', 1, 30], ['d', 1, 12], ['e', 1, 3]);
    expect(exchanges({ fast: 0, extents: some, room: 0, most })).toEqual([
      { id: 'b', from: 0, to: 1 },
      { id: 'c', from: 1, to: 0 },
    ]);
    expect(exchanges({ fast: 0, extents: some.filter(({ id }) => id !== 'a'), room: 1, most })).toEqual([
      { id: 'c', from: 1, to: 0 },
      { id: 'b', from: 0, to: 1 },
      { id: 'd', from: 1, to: 0 },
    ]);
  });

  test('budget, residency and pinned extents hold', () => {
    const some = extents(['a', 0, 1], ['b', 0, 2], ['c', 1, 30], ['d', 1, 20]);
    expect(exchanges({ fast: 0, extents: some, room: 0, most, budget: 3 })).toHaveLength(2);
    expect(exchanges({ fast: 0, extents: some.map((one) => ({ ...one, epochsHere: 1 })), room: 0, most })).toEqual([]);
    expect(
      exchanges({
        fast: 0,
        extents: some.map((one) => (one.tier === 0 ? { ...one, pinned: true } : one)),
        room: 0,
        most,
      }),
    ).toEqual([]);
  });

  test('what moves twice within three epochs', () => {
    expect(thrash({ moved: [[8, 10], [5, 10], [9]], extents: 10, now: 10 })).toBe(0.1);
    expect(thrash({ moved: [], extents: 0, now: 10 })).toBe(0);
  });
});
