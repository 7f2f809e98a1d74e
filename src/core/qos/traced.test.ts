import { whole } from '../units/in-parts';
import { simulateInParts, type Simulation } from './simulate';
import { traced } from './traced';

const volume = (id: string, perS: number) => ({
  id,
  arrivals: { perS, scv: 1 },
  service: { meanS: 0.001, scv: 1 },
  weight: 1,
});
const queue: Omit<Simulation, 'ios' | 'seed'> = {
  servers: 2,
  order: 'arrival',
  volumes: [volume('x', 100), volume('y', 50)],
};
const ids: Record<string, string> = { ex: 'x', why: 'y', other: 'z' };
const volumeOf = (name: string) => ids[name];
const every = (volume: string, gapS: number, count: number) =>
  Array.from({ length: count }, (_, k) => ({ atS: (k + 1) * gapS, volume }));
const arrivalsOf = (of: ReturnType<typeof traced>, id: string) => {
  const { arrivals } = of.simulation.volumes.find((one) => one.id === id)!;
  return 'atS' in arrivals ? [...arrivals.atS] : null;
};

test('those that a trace names arrive as it has it, the others by their profile until it ends', () => {
  const rows = [...every('ex', 0.5, 4), { atS: 2.5, volume: 'other' }, { atS: 3, volume: 'nobody' }];
  const found = traced(queue, rows, volumeOf, {});
  expect(arrivalsOf(found, 'x')).toEqual([0.5, 1, 1.5, 2]);
  expect(arrivalsOf(found, 'y')).toBeNull();
  expect(found.taken).toEqual({ x: 4 });
  expect(found.strange).toEqual({ other: 1, nobody: 1 });
  const { seconds, volumes } = whole(simulateInParts({ ...found.simulation, ios: 1_000_000, seed: 1 }));
  expect(volumes.find(({ id }) => id === 'x')!.done).toBe(4);
  expect(seconds).toBeLessThan(3.1);
  // Some 50 a second over three seconds.
  const { done } = volumes.find(({ id }) => id === 'y')!;
  expect(done).toBeGreaterThan(100);
  expect(done).toBeLessThan(210);
});

test.each([
  [0.5, 3],
  [1, 6],
  [2.5, 15],
])('an I/O that comes %s times to the queue comes so often evenly', (visits, count) => {
  const times = arrivalsOf(traced(queue, every('ex', 1, 6), volumeOf, { x: visits }), 'x')!;
  expect(times).toHaveLength(count);
  expect([...times].sort((a, b) => a - b)).toEqual(times);
});

test('without an I/O of the queue it stays as it is', () => {
  const found = traced(queue, every('nobody', 1, 3), volumeOf, {});
  expect(found.simulation).toBe(queue);
  expect(found.strange).toEqual({ nobody: 3 });
});

test('steady arrivals wait less than scattered ones of the same rate', () => {
  const one = { ...queue, servers: 1, volumes: [volume('x', 800)] };
  const mean = (of: Omit<Simulation, 'ios' | 'seed'>) =>
    whole(simulateInParts({ ...of, ios: 40_000, seed: 7 })).volumes[0]!.meanS;
  expect(mean(traced(one, every('ex', 1 / 800, 40_000), volumeOf, {}).simulation)).toBeLessThan(mean(one) * 0.8);
});
