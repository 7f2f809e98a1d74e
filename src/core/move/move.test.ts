import { randomFrom } from '../estate/random';
import type { WriteClass } from '../protect/changed-bytes';
import { GIB, KIB } from '../units/bytes';
import { eta } from './eta';
import { fairRates } from './fair-rates';
import { precopy, throttleToConverge } from './precopy';
import { lpt, planWaves, type PlannedMove, type Waves } from './waves';

const MB = 1e6;
const TB = 1e12;
const linear = (bytesPerS: number): WriteClass => ({
  kind: 'linear',
  bytesPerS,
  ioBytes: 8 * KIB,
  alignBytes: 4 * KIB,
  extentBytes: 64 * KIB,
  workingSetBytes: TB,
});
const ledger = { allocatedBytes: 2 * TB, copyBytesPerS: 400 * MB, barrierS: 1, pauseMaxS: 4 };

describe('pre-copy', () => {
  test('the examples: it converges, it does not, scattered writes', () => {
    const answer = precopy({ ...ledger, classes: [linear(60 * MB)] });
    if (!answer.ok) throw new Error(answer.message);
    expect(answer.value.rounds.map(({ seconds }) => seconds)).toEqual([5000, 750, 112.5, 16.875]);
    expect(answer.value.cutBytes).toBeCloseTo(1.0125e9, 0);
    expect(answer.value.pauseS).toBeCloseTo(3.53125, 9);
    expect(answer.value.totalS).toBeCloseTo(5882.90625, 6);
    expect(answer.value.outcome).toBe('converged');

    const never = precopy({ ...ledger, classes: [linear(380 * MB)] });
    expect(never).toMatchObject({ ok: true, value: { outcome: 'not-converging', totalS: null } });
    expect(never.ok && never.value.rounds.map(({ bytes }) => bytes)).toEqual([2 * TB, 1.9 * TB]);

    const scattered = precopy({
      ...ledger,
      allocatedBytes: 200 * GIB,
      pauseMaxS: 10,
      classes: [{ ...linear(30 * MB), kind: 'random', workingSetBytes: 20 * GIB }],
    });
    if (!scattered.ok) throw new Error(scattered.message);
    expect(scattered.value.rounds.map(({ bytes }) => Math.round(bytes / 1e7) / 100)).toEqual([
      214.75, 21.44, 10.11, 5.57,
    ]);
    expect(scattered.value.cutBytes / 1e9).toBeCloseTo(3.272, 2);
    expect(scattered.value.pauseS).toBeCloseTo(9.18, 2);
  });

  test('a pause no longer than the barrier is refused; what fits at once needs no round; rounds have an end', () => {
    expect(precopy({ ...ledger, pauseMaxS: 1, classes: [] })).toMatchObject({ reason: 'move-pause-below-barrier' });
    expect(precopy({ ...ledger, allocatedBytes: 0, classes: [linear(60 * MB)] })).toMatchObject({
      value: { outcome: 'converged', rounds: [], cutBytes: 0, pauseS: 1, totalS: 1 },
    });
    expect(precopy({ ...ledger, classes: [linear(300 * MB)], maxRounds: 3 })).toMatchObject({
      value: { outcome: 'round-limit', totalS: null },
    });
    expect(precopy({ ...ledger, classes: [{ ...linear(1), kind: 'random', workingSetBytes: 1 }] })).toMatchObject({
      reason: 'writes-working-set-below-extent',
    });
  });

  test('linear writes follow the closed form', () => {
    for (let seed = 1; seed <= 60; seed++) {
      const random = randomFrom(`linear ${seed}`);
      const [V, C] = [(0.5 + random()) * TB, (100 + 400 * random()) * MB];
      const rho = 0.05 + 0.8 * random();
      const [barrierS, pauseMaxS] = [0.5, 2 + 10 * random()];
      const answer = precopy({
        allocatedBytes: V,
        copyBytesPerS: C,
        classes: [linear(rho * C)],
        barrierS,
        pauseMaxS,
        maxRounds: 1000,
      });
      if (!answer.ok) throw new Error(answer.message);
      const budget = (pauseMaxS - barrierS) * C;
      const n = Math.ceil(Math.log(budget / V) / Math.log(rho));
      expect(answer.value.rounds).toHaveLength(n);
      expect(
        answer.value.totalS! / ((V / C) * ((1 - rho ** n) / (1 - rho)) + (V * rho ** n) / C + barrierS),
      ).toBeCloseTo(1, 9);
    }
  });

  test('throttled to what it says it converges within the rounds allowed, and no sooner', () => {
    const asked = { ...ledger, writeBytesPerS: 380 * MB, roundsAllowed: 10 };
    const answer = throttleToConverge(asked);
    if (!answer.ok) throw new Error(answer.message);
    expect(answer.value.writeBytesPerS / MB).toBeCloseTo(190.5, 1);
    expect(answer.value.throttled).toBe(true);
    const rounds = (writeBytesPerS: number) => {
      const run = precopy({ ...ledger, classes: [linear(writeBytesPerS)], maxRounds: 1000 });
      return run.ok ? run.value.rounds.length : Infinity;
    };
    expect(rounds(answer.value.writeBytesPerS * 0.9999)).toBe(10);
    expect(rounds(answer.value.writeBytesPerS * 1.001)).toBeGreaterThan(10);
    expect(throttleToConverge({ ...asked, writeBytesPerS: 10 * MB })).toMatchObject({
      value: { writeBytesPerS: 10 * MB, throttled: false },
    });
    expect(throttleToConverge({ ...asked, allocatedBytes: 1 })).toMatchObject({ value: { throttled: false } });
    expect(throttleToConverge({ ...asked, pauseMaxS: 1 })).toMatchObject({ reason: 'move-pause-below-barrier' });
  });

  test('when it will be done', () => {
    const asked = {
      copiedBytes: 600e9,
      totalBytes: 2 * TB,
      dirtyBytes: 40e9,
      ratesBytesPerS: [300 * MB, 420 * MB, 380 * MB],
      alpha: 0.25,
      dirtyBytesPerS: 60 * MB,
      barrierS: 1,
    };
    const answer = eta(asked);
    expect(answer.rateBytesPerS).toBeCloseTo(342.5 * MB, 3);
    expect(answer.seconds).toBeCloseTo(5098.3, 0);
    expect(answer.leastS!).toBeLessThan(answer.seconds!);
    expect(answer.mostS!).toBeGreaterThan(answer.seconds!);
    expect(eta({ ...asked, ratesBytesPerS: [] })).toMatchObject({ rateBytesPerS: null, seconds: null });
    expect(eta({ ...asked, dirtyBytesPerS: 342.5 * MB })).toMatchObject({ seconds: null });
  });
});

describe('fair rates', () => {
  test('caps first, then what is full, and what is left goes to the others', () => {
    expect([...fairRates([10, 100], [[0], [0, 1], [1]], [Infinity, 3, Infinity])]).toEqual([7, 3, 97]);
    expect([...fairRates([10], [[0], [0]], [Infinity, Infinity])]).toEqual([5, 5]);
    expect([...fairRates([10], [[0], []], [2, 4])]).toEqual([2, 4]);
  });

  test('nothing is over its capacity, and whoever is below its cap has something full on its way where none has more', () => {
    for (let seed = 1; seed <= 200; seed++) {
      const random = randomFrom(`fair ${seed}`);
      const capacities = Array.from({ length: 5 }, () => 1 + Math.floor(random() * 50));
      const ways = Array.from({ length: 8 }, () => capacities.flatMap((_, r) => (random() < 0.4 ? [r] : [])));
      const caps = ways.map((way) => (random() < 0.5 || way.length === 0 ? 1 + random() * 20 : Infinity));
      const rates = fairRates(capacities, ways, caps);
      const used = capacities.map((_, r) => ways.reduce((sum, way, f) => sum + (way.includes(r) ? rates[f]! : 0), 0));
      used.forEach((sum, r) => expect(sum).toBeLessThanOrEqual(capacities[r]! * (1 + 1e-9)));
      ways.forEach((way, f) => {
        if (rates[f]! >= caps[f]! * (1 - 1e-9)) return;
        const bound = way.some(
          (r) =>
            used[r]! >= capacities[r]! * (1 - 1e-9) &&
            ways.every((other, g) => !other.includes(r) || rates[g]! <= rates[f]! * (1 + 1e-9)),
        );
        expect(bound).toBe(true);
      });
    }
  });
});

describe('waves', () => {
  const arrays = {
    'corbel-9': { bytesPerS: 300, concurrent: 2 },
    'lintel-1': { bytesPerS: 900, concurrent: 4 },
    'lintel-2': { bytesPerS: 900, concurrent: 4 },
  };
  const links = { near: { bytesPerS: 600 }, fibre: { bytesPerS: 250 } };
  const moves: PlannedMove[] = [
    { id: 'ledger-old', bytes: 1800, from: 'corbel-9', to: 'lintel-1', link: 'near', group: 'Accounts' },
    { id: 'rota-old', bytes: 900, from: 'corbel-9', to: 'lintel-1', link: 'near', maxBytesPerS: 100 },
    { id: 'vault-old', bytes: 1500, from: 'corbel-9', to: 'lintel-2', link: 'fibre' },
    {
      id: 'ledger-log',
      bytes: 300,
      from: 'corbel-9',
      to: 'lintel-1',
      link: 'near',
      after: 'ledger-old',
      group: 'Accounts',
    },
  ];
  const planned = (more: Partial<Parameters<typeof planWaves>[0]> = {}): Waves => {
    const answer = planWaves({ moves, arrays, links, ...more });
    if (!answer.ok) throw new Error(answer.message);
    return answer.value;
  };

  test('the example', () => {
    const plan = planned();
    expect(plan.moves).toEqual([
      { id: 'ledger-log', startS: 9, finishS: expect.closeTo(11, 9) as number },
      { id: 'ledger-old', startS: 0, finishS: 9 },
      { id: 'rota-old', startS: 0, finishS: 9 },
      { id: 'vault-old', startS: 9, finishS: expect.closeTo(15.8, 9) as number },
    ]);
    expect(plan.lowerBoundS).toBe(15);
    expect(plan.ratio).toBeCloseTo(1.053, 3);
    expect(plan.groupReadyS.Accounts).toBeCloseTo(11, 9);
  });

  test('windows: all pauses outside; work beyond the last is refused with what it would take', () => {
    const plan = planned({
      windows: [
        [0, 9],
        [20, 40],
      ],
    });
    expect(plan.makespanS).toBeCloseTo(26.8, 9);
    expect(plan.lowerBoundS).toBe(26);
    const short = planWaves({
      moves,
      arrays,
      links,
      windows: [
        [0, 9],
        [20, 24],
      ],
    });
    expect(short).toMatchObject({ ok: false, reason: 'waves-windows-too-short' });
    // A bound that fills a window exactly ends at its end.
    const one = [{ id: 'a', bytes: 900, from: 'lintel-1', to: 'lintel-1' }];
    expect(
      planned({
        moves: one,
        windows: [
          [5, 6],
          [9, 20],
        ],
      }),
    ).toMatchObject({ makespanS: 6, lowerBoundS: 6, ratio: 1 });
  });

  test('what cannot be planned is refused, in the order of the reasons', () => {
    const refused = (some: PlannedMove[]) => planWaves({ moves: some, arrays, links });
    const one = moves[0]!;
    expect(refused([{ ...one, after: 'nobody', to: 'nowhere' }])).toMatchObject({
      reason: 'waves-unknown-predecessor',
    });
    expect(
      refused([
        { ...one, id: 'a', after: ['b'] },
        { ...one, id: 'b', after: ['c'] },
        { ...one, id: 'c', after: ['a'] },
        { ...one, id: 'd', after: ['c'], link: 'none' },
      ]),
    ).toMatchObject({ reason: 'waves-cycle' });
    expect(refused([{ ...one, after: 'ledger-old' }])).toMatchObject({ reason: 'waves-cycle' });
    expect(refused([{ ...one, link: 'sea' }])).toMatchObject({ reason: 'waves-unknown-resource' });
    expect(refused([{ ...one, link: null }])).toMatchObject({
      reason: 'waves-no-link',
      message: 'No link between corbel-9 and lintel-1.',
    });
    expect(planned({ moves: [] })).toEqual({ moves: [], makespanS: 0, lowerBoundS: 0, ratio: null, groupReadyS: {} });
  });

  test('no plan is shorter than its bound; slots, rates and predecessors hold', () => {
    for (let seed = 1; seed <= 150; seed++) {
      const random = randomFrom(`waves ${seed}`);
      const names = ['p', 'q', 'r'];
      const some = Object.fromEntries(
        names.map((name) => [name, { bytesPerS: 50 + random() * 100, concurrent: Math.floor(random() * 3) }]),
      );
      const many: PlannedMove[] = Array.from({ length: 10 }, (_, k) => {
        const [from, to] = [names[Math.floor(random() * 3)]!, names[Math.floor(random() * 3)]!];
        return {
          id: `m${k}`,
          bytes: Math.floor(random() * 500),
          from,
          to,
          link: from === to ? null : 'l',
          maxBytesPerS: random() < 0.3 ? 10 + random() * 40 : null,
          after: k > 0 && random() < 0.3 ? `m${Math.floor(random() * k)}` : null,
        };
      });
      const windows =
        random() < 0.5
          ? ([
              [3, 10],
              [15, 30],
              [40, 1e6],
            ] as const)
          : null;
      const answer = planWaves({ moves: many, arrays: some, links: { l: { bytesPerS: 120 } }, windows });
      if (!answer.ok) throw new Error(answer.message);
      const { moves: done, makespanS, lowerBoundS, ratio } = answer.value;
      if (lowerBoundS > 0) expect(ratio!).toBeGreaterThanOrEqual(1 - 1e-9);
      expect(Math.max(...done.map(({ finishS }) => finishS))).toBe(makespanS);
      const at = new Map(done.map((one) => [one.id, one]));
      for (const { id, after } of many)
        if (typeof after === 'string') expect(at.get(id)!.startS).toBeGreaterThanOrEqual(at.get(after)!.finishS);
      for (const name of names) {
        const { concurrent } = some[name]!;
        if (!concurrent) continue;
        for (const { startS, finishS } of done) {
          const here = many.filter(({ id, from, to }) => {
            const other = at.get(id)!;
            return [from, to].includes(name) && other.startS <= startS && other.finishS > startS && finishS > startS;
          });
          expect(here.length).toBeLessThanOrEqual(concurrent);
        }
      }
    }
  });

  test('whoever has the longest work behind it goes first, whatever it is called', () => {
    const one = { from: 'a', to: 'a' };
    const plan = planned({
      arrays: { a: { bytesPerS: 10, concurrent: 1 } },
      links: {},
      moves: [
        { id: 'alone', bytes: 300, ...one },
        { id: 'before', bytes: 100, ...one },
        { id: 'then', bytes: 900, after: 'before', ...one },
      ],
    });
    expect(plan.moves.map(({ id, startS }) => [id, startS])).toEqual([
      ['alone', 100],
      ['before', 0],
      ['then', 10],
    ]);
  });

  test('a link that all share is kept busy: its bytes over its rate, whatever the order', () => {
    const shared = Array.from({ length: 20 }, (_, k) => ({
      id: `m${k}`,
      bytes: 100 + k,
      from: 'a',
      to: 'b',
      link: 'l',
    }));
    const answer = planWaves({
      moves: shared,
      arrays: { a: { bytesPerS: 1e6 }, b: { bytesPerS: 1e6 } },
      links: { l: { bytesPerS: 10 } },
    });
    expect(answer.ok && answer.value.ratio).toBeCloseTo(1, 9);
  });

  test('longest first', () => {
    expect(lpt({ jobs: [9, 7, 6, 5, 5, 4], machines: 3 })).toEqual({
      makespan: 13,
      lowerBound: 12,
      worstRatio: 4 / 3 - 1 / 9,
    });
    expect(lpt({ jobs: [], machines: 2 })).toMatchObject({ makespan: 0, lowerBound: 0 });
    expect(lpt({ jobs: [5, 5, 5], machines: 2 })).toMatchObject({ makespan: 10, lowerBound: 10 });
    for (let seed = 1; seed <= 100; seed++) {
      const random = randomFrom(`lpt ${seed}`);
      const machines = 1 + Math.floor(random() * 3);
      const jobs = Array.from({ length: 7 }, () => 1 + Math.floor(random() * 9));
      const answer = lpt({ jobs, machines });
      let best = Infinity;
      for (let code = 0; code < machines ** jobs.length; code++) {
        const busy = new Array<number>(machines).fill(0);
        let rest = code;
        for (const job of jobs) {
          busy[rest % machines]! += job;
          rest = Math.floor(rest / machines);
        }
        best = Math.min(best, Math.max(...busy));
      }
      expect(answer.lowerBound).toBeLessThanOrEqual(best);
      expect(answer.makespan).toBeLessThanOrEqual(best * answer.worstRatio + 1e-9);
    }
  });
});
