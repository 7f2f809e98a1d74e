import { stage, type Stage } from '../../../demo/protected';
import { changed } from '../estate/effects';
import { noFacts, watchedDay } from '../performance/facts';
import { named } from '../../../demo/workbench';
import { DAY } from '../units/duration';
import { appearAndGo, found, type Cases } from './appears-and-goes.fixture';
import { loadChecks } from './load-checks';

const ACTIVITY = { do: 'volume.activity', array: 'lintel-1', volumes: ['tickets-1'] };
const sound = (): Stage => stage({ ...ACTIVITY, reads: 300, writes: 10, burst: 1, week: 'even' });
const asks = (at: Stage, more: Record<string, unknown>) => at.run({ ...ACTIVITY, ...more });
const quiet = (at: Stage, iops: number) =>
  at.run({ do: 'limit.create', array: 'lintel-1', name: 'quiet', volumes: ['tickets-1'], iops });
const drop = (at: Stage) => at.run({ do: 'limit.delete', array: 'lintel-1', limit: 'quiet' });
let disturbed: string[] = [];

const cases: Cases = {
  'volume-idle': {
    make: (at) => {
      at.run({ ...ACTIVITY, kind: 'none' });
      at.now += 70 * DAY;
    },
    mend: (at) => at.run({ ...ACTIVITY, volumes: ['tickets-1', 'tickets-2'], kind: 'database' }),
  },
  'path-unbalanced': {
    make: (at) => at.run({ do: 'host.configure', host: 'gate-1', selector: 'failover' }),
    mend: (at) => at.run({ do: 'host.configure', host: 'gate-1', selector: 'round-robin' }),
  },
  'controller-no-headroom': {
    make: (at) => asks(at, { reads: 130_000, ioSize: '4 KiB' }),
    mend: (at) => asks(at, { reads: 300 }),
  },
  'media-hot': {
    make: (at) => asks(at, { writes: 30_000, ioSize: '64 KiB' }),
    mend: (at) => asks(at, { writes: 10, ioSize: '8 KiB' }),
  },
  'micro-burst': {
    make: (at) => asks(at, { reads: 300, burst: 900, burstSeconds: 10, burstsAnHour: 0.05 }),
    mend: (at) => asks(at, { burst: 1 }),
  },
  'noisy-neighbour': {
    make: (at) => {
      const [x, y] = ['tickets-2', 'tickets-1'].map((name) => named(at.estate, 'volume', name).id);
      disturbed = [x!, y!];
    },
    mend: () => {
      disturbed = [];
    },
  },
  'demand-unserved': {
    make: (at) => asks(at, { reads: 400_000 }),
    mend: (at) => asks(at, { reads: 300 }),
  },
  'qos-always-limited': { make: (at) => quiet(at, 100), mend: drop },
  'qos-floors-too-many': {
    make: (at) => {
      at.run({ do: 'limit.create', array: 'lintel-1', name: 'quiet', volumes: ['tickets-1'], floor: 100 });
      const limit = named(at.estate, 'loadLimit', 'quiet');
      at.estate.apply([changed('loadLimit', limit, { floor: 1e8 })]);
    },
    mend: drop,
  },
  'qos-limit-without-use': { make: (at) => quiet(at, 90_000), mend: drop },
};

appearAndGo(loadChecks, cases, sound, ({ estate, now }) => ({
  ...watchedDay(estate, now),
  disturbed:
    disturbed.length === 2
      ? [{ x: disturbed[0]!, y: disturbed[1]!, at: now, addedS: 1.2, share: 0.9, usualS: 0.01, proposed: 400 }]
      : [],
}));

test('where nothing was measured, nothing measured is found', () => {
  expect(noFacts.hours.size).toBe(0);
});

test.each([
  ['controller-no-headroom', { do: 'volume.move', params: { volumes: ['tickets-1'] } }],
  ['media-hot', { do: 'pool.extend', params: { array: 'lintel-1', name: 'quay' } }],
  ['micro-burst', { do: 'limit.create', params: { volumes: ['tickets-1'], iops: expect.closeTo(620, -2) as number } }],
  ['demand-unserved', { do: 'volume.move', params: { volumes: ['tickets-1'] } }],
])('%s opens on what mends it', (id, mend) => {
  const at = sound();
  cases[id]!.make(at);
  const [first] = found(at, id, ({ estate, now }) => watchedDay(estate, now));
  expect(first!.mend).toMatchObject(mend);
});
