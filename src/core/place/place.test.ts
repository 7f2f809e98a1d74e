import { randomFrom } from '../estate/random';
import { packAll, packVolumes, type Packed, type PackPool } from './pack';
import { rankPairs } from './pairs';
import { rankCandidates, type Candidate } from './rank';

const TIB = 2 ** 40;
const GIB = 2 ** 30;

const room = (limit: number, used: number, perfLimit: number, perfUsed: number) => ({
  limitBytes: limit * TIB,
  usedBytes: used * TIB,
  perfLimit,
  perfUsed,
});
const quay: Candidate = {
  id: 'quay',
  ...room(20, 9, 40_000, 22_000),
  growthBytesPerDay: 20 * GIB,
  replica: room(20, 16, 40_000, 10_000),
};
const hold: Candidate = {
  id: 'hold',
  ...room(30, 18, 25_000, 9000),
  growthBytesPerDay: 10 * GIB,
  replica: room(30, 12, 25_000, 5000),
};
const tide: Candidate = { id: 'tide', ...room(6, 5, 9000, 3000), growthBytesPerDay: 0 };
const request = {
  bytes: 2 * TIB,
  perfUnits: 8000,
  growthBytesPerDay: 4 * GIB,
  replica: true,
  replicaBytes: 2.4 * TIB,
  replicaPerfUnits: 4000,
};

describe('ranking', () => {
  test('the example', () => {
    const { ranked, excluded } = rankCandidates({ request, candidates: [quay, tide, hold] });
    expect(ranked.map(({ id }) => id)).toEqual(['hold', 'quay']);
    expect(ranked[0]!.score).toBeCloseTo(50.06, 1);
    expect(ranked[1]!.score).toBeCloseTo(39.36, 2);
    const terms = Object.fromEntries(
      Object.entries(ranked[1]!.terms).map(([term, x]) => [term, Math.round(x * 1e6) / 1e6]),
    );
    expect(terms).toEqual({
      capacity: 0.45,
      performance: 0.25,
      replicaCapacity: 0.08,
      replicaPerformance: 0.65,
      fit: 0.8,
      runway: 1,
      preference: 1,
    });
    expect(excluded).toEqual([{ id: 'tide', reasons: ['capacity', 'performance', 'replica-missing'] }]);
  });

  test('every reason, in order; exactly full is allowed', () => {
    const all = rankCandidates({
      request,
      candidates: [
        {
          ...quay,
          id: 'b',
          matches: false,
          allotmentFreeBytes: TIB,
          usedBytes: 19 * TIB,
          perfUsed: 39_000,
          replica: room(2, 1, 10, 9),
        },
        { ...quay, id: 'a', matches: false },
      ],
    });
    expect(all.ranked).toEqual([]);
    expect(all.excluded).toEqual([
      { id: 'a', reasons: ['rules'] },
      {
        id: 'b',
        reasons: ['rules', 'capacity', 'performance', 'allotment', 'replica-capacity', 'replica-performance'],
      },
    ]);
    const full = rankCandidates({
      request: { bytes: 11 * TIB, perfUnits: 18_000 },
      candidates: [{ ...quay, allotmentFreeBytes: 11 * TIB }],
    });
    expect(full.ranked[0]!.terms).toMatchObject({ capacity: 0, performance: 0, fit: 1, runway: 0 });
    expect(rankCandidates({ request, candidates: [] })).toEqual({ ranked: [], excluded: [] });
  });

  test('weights given replace all; without any that is weak the mean stands alone', () => {
    const only = (weights: object) =>
      rankCandidates({ request: { bytes: 2 * TIB, perfUnits: 8000 }, candidates: [quay], weights }).ranked[0]!.score;
    expect(only({ capacity: 1 })).toBeCloseTo(45, 9);
    expect(only({ fit: 2 })).toBeCloseTo(80, 9);
    expect(only({ capacity: 1, fit: 1 })).toBeCloseTo(100 * (0.7 * 0.625 + 0.3 * 0.45), 9);
    expect(only({ replicaCapacity: 5 })).toBe(0);
  });

  test('preferences by weight; of equal scores the roomier, then the name', () => {
    const like = (met: boolean): Candidate => ({
      ...quay,
      replica: null,
      preferences: [
        { weight: 3, met },
        { weight: 1, met: true },
      ],
    });
    const one = rankCandidates({ request: { bytes: TIB, perfUnits: 1 }, candidates: [like(false)] }).ranked[0]!;
    expect(one.terms.preference).toBe(0.25);
    const twins = rankCandidates({
      request: { bytes: 0, perfUnits: 0 },
      candidates: [
        { ...quay, id: 'z' },
        { ...quay, id: 'b', limitBytes: 2 * quay.limitBytes, usedBytes: 2 * quay.usedBytes, growthBytesPerDay: 0 },
        { ...quay, id: 'a' },
      ],
    });
    expect(twins.ranked.map(({ id }) => id)).toEqual(['b', 'a', 'z']);
  });
});

describe('packing', () => {
  const volumes: Packed[] = [
    { id: 'cargo-data', bytes: 40, perf: 30, together: 'cargo' },
    { id: 'cargo-log', bytes: 10, perf: 20, together: 'cargo' },
    { id: 'node-1', bytes: 20, perf: 10, apart: 'nodes' },
    { id: 'node-2', bytes: 20, perf: 10, apart: 'nodes' },
    { id: 'radar-1', bytes: 70, perf: 5 },
  ];
  const pools: PackPool[] = [
    { id: 'quay', freeBytes: 80, freePerf: 90 },
    { id: 'hold', freeBytes: 90, freePerf: 40 },
  ];

  test('the example, spread and filled', () => {
    expect(packVolumes({ volumes, pools, strategy: 'spread' })).toMatchObject({
      value: {
        placed: { 'radar-1': 'hold', 'cargo-data': 'quay', 'cargo-log': 'quay', 'node-1': 'quay', 'node-2': 'hold' },
        unplaced: [],
      },
    });
    expect(packVolumes({ volumes, pools, strategy: 'fill' })).toMatchObject({
      value: {
        placed: { 'radar-1': 'quay', 'node-1': 'hold' },
        unplaced: [
          { ids: ['cargo-data', 'cargo-log'], reasons: ['capacity', 'performance'] },
          { ids: ['node-2'], reasons: ['apart', 'capacity'] },
        ],
      },
    });
  });

  test('together and apart at once is refused; allowed pools of those together are what they have in common', () => {
    expect(
      packVolumes({
        volumes: [
          { id: 'a', bytes: 1, perf: 1, together: 't', apart: 'x' },
          { id: 'b', bytes: 1, perf: 1, together: 't', apart: 'x' },
        ],
        pools,
        strategy: 'fill',
      }),
    ).toMatchObject({ reason: 'pack-together-and-apart', message: 'a and b must be together and apart.' });
    const answer = packVolumes({
      volumes: [
        { id: 'a', bytes: 1, perf: 1, together: 't', allowed: ['hold', 'quay'] },
        { id: 'b', bytes: 1, perf: 1, together: 't', allowed: ['quay'] },
        { id: 'c', bytes: 1, perf: 1, allowed: [] },
      ],
      pools,
      strategy: 'spread',
    });
    expect(answer).toMatchObject({
      value: { placed: { a: 'quay', b: 'quay' }, unplaced: [{ ids: ['c'], reasons: ['not-allowed'] }] },
    });
  });

  test('before it says no, every way is tried', () => {
    const filled = packAll({ volumes, pools, strategy: 'fill' });
    expect(filled).toMatchObject({ value: { how: 'spread', unplaced: [] } });
    let [found, tight] = [0, 0];
    for (let seed = 1; seed <= 300; seed++) {
      const random = randomFrom(`pack ${seed}`);
      const some: Packed[] = Array.from({ length: 6 }, (_, k) => ({
        id: `v${k}`,
        // In every other round some of them are alike.
        bytes: seed % 2 === 0 ? 1 + Math.floor(random() * 20) : 5 + 6 * Math.floor(random() * 2),
        perf: seed % 2 === 0 ? 1 + Math.floor(random() * 20) : 5 + 6 * Math.floor(random() * 2),
        ...(random() < 0.3 ? { apart: 'x' } : {}),
      }));
      const rooms: PackPool[] = ['p', 'q', 'r'].map((id) => ({
        id,
        freeBytes: 10 + Math.floor(random() * 25),
        freePerf: 10 + Math.floor(random() * 25),
      }));
      const answer = packAll({ volumes: some, pools: rooms, strategy: 'spread' });
      if (!answer.ok) throw new Error(answer.message);
      const { placed, unplaced, how } = answer.value;
      for (const { id, freeBytes, freePerf } of rooms) {
        const here = some.filter((one) => placed[one.id] === id);
        expect(here.reduce((sum, { bytes }) => sum + bytes, 0)).toBeLessThanOrEqual(freeBytes);
        expect(here.reduce((sum, { perf }) => sum + perf, 0)).toBeLessThanOrEqual(freePerf);
        expect(here.filter(({ apart }) => apart).length).toBeLessThanOrEqual(1);
      }
      // Every way, without cleverness.
      let possible = false;
      for (let code = 0; code < 3 ** 6 && !possible; code++) {
        const at = some.map((_, k) => Math.floor(code / 3 ** k) % 3);
        possible = rooms.every(({ freeBytes, freePerf }, r) => {
          const here = some.filter((_, k) => at[k] === r);
          return (
            here.reduce((sum, { bytes }) => sum + bytes, 0) <= freeBytes &&
            here.reduce((sum, { perf }) => sum + perf, 0) <= freePerf &&
            here.filter(({ apart }) => apart).length <= 1
          );
        });
      }
      expect(unplaced.length === 0).toBe(possible);
      if (how === 'search') found += 1;
      if (!possible) tight += 1;
    }
    expect(found).toBeGreaterThan(3);
    expect(tight).toBeGreaterThan(30);
  });
});

test('twelve alike that need one pool more than there are do not try every order', () => {
  const allowed = Array.from({ length: 11 }, (_, k) => `p${k}`);
  const answer = packAll({
    volumes: Array.from({ length: 12 }, (_, k) => ({ id: `v${k}`, bytes: 6, perf: 1, apart: 'x', allowed })),
    pools: allowed.map((id) => ({ id, freeBytes: 10, freePerf: 10 })),
    strategy: 'spread',
  });
  expect(answer).toMatchObject({ value: { unplaced: [{ reasons: ['apart'] }] } });
});

describe('pairs', () => {
  test('each pool with the replica pool that suits it best, as if every pair had been tried', () => {
    for (let seed = 1; seed <= 100; seed++) {
      const random = randomFrom(`pairs ${seed}`);
      const some = () => ({
        limitBytes: 50 + random() * 50,
        usedBytes: random() * 80,
        perfLimit: 50 + random() * 50,
        perfUsed: random() * 80,
      });
      const arrays = ['a', 'b', 'c'];
      const candidates = Array.from({ length: 5 }, (_, k) => ({
        id: `p${k}`,
        array: arrays[k % 3]!,
        ...some(),
        growthBytesPerDay: random(),
      }));
      const replicas = Array.from({ length: 6 }, (_, k) => ({ id: `r${k}`, array: arrays[k % 3]!, ...some() }));
      const peered = (from: string, to: string) => from !== to && from !== 'c';
      const asked = { bytes: 10, perfUnits: 8 };
      const { ranked, excluded } = rankPairs({ request: asked, candidates, replicas, peered });
      expect(ranked.length + excluded.length).toBe(candidates.length);
      for (const { array, ...one } of candidates) {
        const every = rankCandidates({
          request: { ...asked, replica: true },
          candidates: replicas
            .filter((replica) => peered(array, replica.array))
            .map((replica) => ({ ...one, id: replica.id, replica })),
        }).ranked;
        const found = ranked.find(({ id }) => id === one.id);
        expect(found?.score ?? null).toEqual(every[0] ? expect.closeTo(every[0].score, 9) : null);
      }
      for (const { reasons } of excluded) expect(reasons.length).toBeGreaterThan(0);
      expect(excluded.find(({ id }) => id === 'p2')?.reasons).toContain('replica-missing');
    }
  });
});
