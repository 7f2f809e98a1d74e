import { ggc, mmc } from '../load/queue';
import { whole } from '../units/in-parts';
import { simulateInParts, type Simulation } from './simulate';
import { waterFill } from './water-fill';

const simulated = (simulation: Simulation) => whole(simulateInParts(simulation));
const poisson = (perS: number) => ({ perS, scv: 1 });

test('one queue agrees with the closed form, and the same seed gives the same answer', () => {
  const simulation: Simulation = {
    volumes: [
      { id: 'a', arrivals: poisson(2400), service: { meanS: 5e-4, scv: 1 }, weight: 1 },
      { id: 'b', arrivals: poisson(600), service: { meanS: 5e-4, scv: 1 }, weight: 1 },
    ],
    servers: 2,
    ios: 400_000,
    seed: 7,
  };
  const answer = simulated(simulation);
  const exact = mmc({ arrivalsPerS: 3000, serviceS: 5e-4, servers: 2 });
  if (exact.saturated) throw new Error('saturated');
  const [a, b] = answer.volumes as [(typeof answer.volumes)[0], (typeof answer.volumes)[0]];
  const mean = (a.meanS * a.done + b.meanS * b.done) / (a.done + b.done);
  expect(Math.abs(mean / exact.responseS - 1)).toBeLessThan(0.03);
  expect(simulated(simulation)).toEqual(answer);
  expect(a.p50S).toBeLessThan(a.p95S);
  expect(a.p95S).toBeLessThan(a.p99S);
});

test('percentiles of one volume, first come first served', () => {
  const { volumes } = simulated({
    volumes: [{ id: 'a', arrivals: poisson(2400), service: { meanS: 5e-4, scv: 1 }, weight: 1 }],
    servers: 2,
    ios: 400_000,
    seed: 3,
  });
  const exact = mmc({ arrivalsPerS: 2400, serviceS: 5e-4, servers: 2, percentiles: [95] });
  if (exact.saturated) throw new Error('saturated');
  expect(Math.abs(volumes[0]!.p95S / exact['responseP95']! - 1)).toBeLessThan(0.03);
  expect(Math.abs(volumes[0]!.meanS - exact.responseS)).toBeLessThan(4 * volumes[0]!.plusMinusS);
});

test('uneven arrivals and services within the error of Allen and Cunneen', () => {
  const { volumes } = simulated({
    volumes: [{ id: 'a', arrivals: { perS: 2400, scv: 2 }, service: { meanS: 8e-4, scv: 0.6 }, weight: 1 }],
    servers: 3,
    ios: 400_000,
    seed: 11,
  });
  const near = ggc({ arrivalsPerS: 2400, serviceS: 8e-4, servers: 3, arrivalScv: 2, serviceScv: 0.6 });
  if (near.saturated) throw new Error('saturated');
  expect(Math.abs(volumes[0]!.meanS / near.responseS - 1)).toBeLessThan(0.08);
});

test('in the long run it agrees with the fluid shares', () => {
  const volumes = [
    { id: 'cargo-data', weight: 4, floor: 300 },
    { id: 'tickets', weight: 2, limit: 250 },
    { id: 'stores-1', weight: 1 },
  ];
  const fluid = waterFill({ capacity: 1000, items: volumes });
  if (!fluid.ok) throw new Error(fluid.refusal.code);
  const { volumes: seen, seconds } = simulated({
    volumes: volumes.map(({ id, weight, floor, limit }) => ({
      id,
      weight,
      arrivals: poisson(3000),
      service: { meanS: 1e-3, scv: 0 },
      ...(floor ? { floorPerS: floor } : {}),
      ...(limit ? { limit: { ratePerS: limit, depth: 1 } } : {}),
    })),
    servers: 1,
    ios: 60_000,
    seed: 5,
    maxWaitS: 0.5,
  });
  for (const { id, done } of seen) expect(Math.abs(done / seconds / fluid.alloc[id]! - 1)).toBeLessThan(0.05);
});

test('a group shares one limit; what would wait too long is refused', () => {
  const { volumes, seconds } = simulated({
    volumes: ['a', 'b'].map((id) => ({
      id,
      arrivals: poisson(500),
      service: { meanS: 1e-4, scv: 1 },
      weight: 1,
      group: 'deck',
    })),
    groups: { deck: { ratePerS: 200, depth: 10 } },
    servers: 4,
    ios: 20_000,
    seed: 2,
    maxWaitS: 0.2,
  });
  const done = volumes.reduce((sum, one) => sum + one.done, 0);
  expect(Math.abs(done / seconds / 200 - 1)).toBeLessThan(0.02);
  for (const one of volumes) expect(one.refused).toBeGreaterThan(0);
});

test('a trace goes as it came', () => {
  const { volumes } = simulated({
    volumes: [{ id: 'a', arrivals: { atS: Float64Array.of(0, 0, 1) }, service: { meanS: 0.25, scv: 0 }, weight: 1 }],
    servers: 1,
    ios: 100,
    seed: 1,
  });
  expect(volumes[0]).toMatchObject({ done: 3, refused: 0, queued: 0 });
  expect(volumes[0]!.waitS).toBeCloseTo(0.25 / 3, 12);
});

test('first come, first served: a light volume waits for a heavy one as the closed form says', () => {
  const { volumes } = simulated({
    volumes: [
      { id: 'light', arrivals: poisson(50), service: { meanS: 1e-3, scv: 1 }, weight: 1 },
      { id: 'heavy', arrivals: poisson(850), service: { meanS: 1e-3, scv: 1 }, weight: 1 },
    ],
    servers: 1,
    ios: 400_000,
    seed: 4,
    order: 'arrival',
  });
  const exact = mmc({ arrivalsPerS: 900, serviceS: 1e-3, servers: 1 });
  if (exact.saturated) throw new Error('saturated');
  for (const { meanS } of volumes) expect(Math.abs(meanS / exact.responseS - 1)).toBeLessThan(0.12);
});
