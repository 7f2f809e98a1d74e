import { matchRules, outcomes, type Fact, type RequestRule } from '@/core/classes/rules';
import { randomFrom } from '@/core/estate/random';
import { planWaves, type PlannedMove } from '@/core/move/waves';
import { rankPairs } from '@/core/place/pairs';
import { rankCandidates, type Candidate } from '@/core/place/rank';
import type { LoadTask } from './loading';

const timed = (work: () => void): number => {
  const begun = performance.now();
  work();
  return performance.now() - begun;
};

/** Plans of moves, places and classes at the size of a large house. */
export function moveTasks(): LoadTask[] {
  const random = randomFrom('moves');
  const arrays = Object.fromEntries(
    Array.from({ length: 40 }, (_, k) => [
      `a${k}`,
      { bytesPerS: (300 + random() * 900) * 1e6, concurrent: 2 + (k % 4) },
    ]),
  );
  const links = Object.fromEntries(
    Array.from({ length: 10 }, (_, k) => [`l${k}`, { bytesPerS: (200 + random() * 1000) * 1e6 }]),
  );
  const moves = Array.from({ length: 2000 }, (_, k): PlannedMove => {
    const [from, to] = [Math.floor(random() * 40), Math.floor(random() * 40)];
    return {
      id: `m${k}`,
      bytes: (0.05 + random() * 4) * 1e12,
      from: `a${from}`,
      to: `a${to}`,
      link: from === to ? null : `l${(from + to) % 10}`,
      maxBytesPerS: random() < 0.3 ? 150e6 : null,
      after: k > 0 && random() < 0.1 ? `m${Math.floor(random() * k)}` : null,
    };
  });
  const windows = Array.from({ length: 30 }, (_, k) => [k * 86_400, k * 86_400 + (k === 29 ? 1e9 : 50_000)] as const);
  let ratio = 0;
  const waves = timed(() => {
    const plan = planWaves({ moves, arrays, links, windows });
    ratio = plan.ok ? (plan.value.ratio ?? 0) : Infinity;
  });
  const room = () => ({
    limitBytes: 1e14,
    usedBytes: random() * 1e14,
    perfLimit: 1e5,
    perfUsed: random() * 1e5,
  });
  const pools = Array.from({ length: 1000 }, (_, k): Candidate => ({
    id: `p${k}`,
    ...room(),
    growthBytesPerDay: random() * 1e11,
    replica: room(),
  }));
  const request = { bytes: 2e12, perfUnits: 8000 };
  const rank = timed(() => void rankCandidates({ request, candidates: pools }));
  const pairs = timed(
    () =>
      void rankPairs({
        request,
        candidates: pools.map(({ replica: _replica, ...one }, k) => ({ ...one, array: `a${k % 40}` })),
        replicas: pools.map(({ id, limitBytes, usedBytes, perfLimit, perfUsed }, k) => ({
          id,
          array: `a${k % 40}`,
          limitBytes,
          usedBytes,
          perfLimit,
          perfUsed,
        })),
        peered: (from, to) => from !== to,
      }),
  );
  const facts: Record<string, Fact> = {
    protection: { value: 2, origin: 'derived', ageS: 5 },
    media: { value: 'ssd-nvme', origin: 'derived', ageS: 5 },
    place: { value: 'Nordkai', origin: 'declared' },
    cost: { value: 48, origin: 'declared' },
  };
  const rules: RequestRule[] = [
    { op: 'atLeast', key: 'protection', value: 2 },
    { op: 'atLeast', key: 'media', value: 'ssd-sata' },
    { op: 'range', key: 'cost', min: 40, max: 60 },
    { op: 'not', rule: { op: 'equals', key: 'place', value: 'Molenhaven' } },
  ];
  const orders = { media: ['hdd-7k', 'hdd-10k', 'ssd-sata', 'ssd-sas', 'ssd-nvme'] };
  matchRules({ facts, rules, orders, maxFactAgeS: 3600 });
  const match = timed(() => {
    for (let k = 0; k < 100_000; k++) outcomes(rules, facts, orders, 3600);
  });
  return [
    { name: 'plan of 2,000 moves over 40 arrays, 10 links, 30 windows', took: waves, target: 1000 },
    { name: 'ratio of that plan to its bound', took: ratio },
    { name: 'ranking of 1,000 pools', took: rank, target: 200 },
    { name: 'pairs of 1,000 by 1,000 pools', took: pairs, target: 200 },
    { name: '100,000 volumes against four rules', took: match, target: 300 },
  ];
}
