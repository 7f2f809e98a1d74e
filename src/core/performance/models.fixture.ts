import { randomFrom } from '../estate/random';
import { burstsOf } from './profile';
import { HOUR, MINUTE } from '../units/duration';
import type { LoadModel, LoadVolume, ModelLimit, TimedWork } from './shape';

export const steady = { high: 1, low: 1, slots: 0, period: 0 };

export const volume = (
  id: string,
  iops: number,
  uses: [number, number][],
  more: Partial<LoadVolume> = {},
): LoadVolume => ({
  id,
  name: id,
  array: 'arr',
  pool: 'pool',
  workload: null,
  hosts: [],
  seed: 7,
  bursts: steady,
  week: 'even',
  reads: iops,
  writes: 0,
  ioBytes: 8192,
  hit: 1,
  readS: 1e-4,
  missS: 5e-3,
  writeS: 2e-4,
  outstanding: 32,
  uses: uses.map(([resource, read]) => ({ resource, read, write: read, readVisits: 1, writeVisits: 1 })),
  media: [],
  ...more,
});

export const model = (capacities: number[], volumes: LoadVolume[], limits: ModelLimit[] = []): LoadModel => ({
  resources: capacities.map((capacity, k) => ({
    id: `r${k}`,
    kind: 'controller',
    name: `r${k}`,
    array: 'arr',
    capacity,
    servers: 4,
    limit: 0.7,
  })),
  volumes,
  limits,
  background: [],
});

export const limit = (members: ModelLimit['members'], more: Partial<ModelLimit> = {}): ModelLimit => ({
  id: 'l',
  name: 'l',
  shared: false,
  weight: 1,
  burst: 0,
  fromHour: null,
  untilHour: null,
  together: null,
  members,
  ...more,
});

/** Work that comes and goes on some resources of a model within two hours, by chance. */
export function timedBy(seed: string, { resources }: LoadModel, count = 6): TimedWork[] {
  const random = randomFrom(`timed ${seed}`);
  return Array.from({ length: count }, () => {
    const resource = Math.floor(random() * resources.length);
    const from = random() * 2 * HOUR;
    const perS = resources[resource]!.capacity * random() * 0.9;
    return { resource, perS, name: 'replication', from, until: from + random() * (random() < 0.5 ? MINUTE : HOUR) };
  });
}

/** A model made up by chance: a few volumes on a few resources, some of them bursting; with more `room` little of it waits. */
export function madeUp(seed: string, room = 1): LoadModel {
  const random = randomFrom(seed);
  const capacities = Array.from({ length: 4 }, () => room * (200 + random() * 800));
  const volumes = Array.from({ length: 8 }, (_, k) =>
    volume(
      `v${k}`,
      random() * 300,
      [0, 1, 2, 3].filter(() => random() < 0.5).map((r): [number, number] => [r, 0.2 + random()]),
      {
        seed: k * 31,
        bursts: burstsOf({ burst: 1 + random() * 6, burstSeconds: 10, burstsAnHour: 1 + Math.floor(random() * 6) }),
      },
    ),
  );
  return model(capacities, volumes);
}
