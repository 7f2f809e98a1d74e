import { mkdtempSync, rmSync, statSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { Estate, Overlay } from '@/core/estate/estate';
import { hourBook } from '@/core/performance/book';
import { SLOT, SLOTS_AN_HOUR } from '@/core/performance/choices';
import { Course } from '@/core/performance/course';
import { loadModel } from '@/core/performance/model';
import { slotOf } from '@/core/performance/profile';
import type { LoadModel } from '@/core/performance/shape';
import { solveLimit } from '@/core/performance/solve-limit';
import { topBy, topOf, type LoadSummary } from '@/core/performance/top';
import { planChange } from '@/core/change/plan';
import { simulateInParts, type Simulation } from '@/core/qos/simulate';
import { Chance } from '@/core/qos/chance';
import { placeByHeat } from '@/core/tier/place';
import { randomFrom } from '@/core/estate/random';
import { whole } from '@/core/units/in-parts';
import { DAY, HOUR } from '@/core/units/duration';
import { closeDay, readHoursOf, writeHours, writeMark, writeModel } from '@/store/load-rows';
import { Store } from '@/store/store';
import { LAB_START } from '../demo/hardware';
import { protectedEstate } from './protected-estate';
import { generateEstate } from './estate';

export interface LoadTask {
  name: string;
  /** Milliseconds, or a figure of its own beside which the target stands. */
  took: number;
  target?: number;
}

const timed = (work: () => void): number => {
  const begun = performance.now();
  work();
  return performance.now() - begun;
};

/** A day of telemetry of many volumes with its rows in a database; what is read of it then. */
export function telemetry(): LoadTask[] {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'trabes-load-'));
  const store = new Store(path.join(folder, 'load.db'));
  const effects = protectedEstate({ volumes: 2000, protectedVolumes: 1000, workloads: 250, seed: 'protected' });
  const estate = Estate.of(effects.map((effect) => ({ kind: effect.kind, row: effect.after! })));
  const start = Math.floor(slotOf(LAB_START) / (24 * SLOTS_AN_HOUR)) * 24 * SLOTS_AN_HOUR;
  const tasks: LoadTask[] = [];
  let model: LoadModel | null = null;
  const day = timed(() => {
    model = loadModel(estate);
    const id = writeModel(store.db, start * SLOT, model);
    const capacities = new Map(model.resources.map((one) => [one.id, one.capacity]));
    const course = new Course(model, start);
    const book = hourBook(course.slot).by(course.model);
    for (let hour = 0; hour < 24; hour++) {
      book.restart(course.slot);
      course.run(book.end, book);
      store.db.transaction(() => {
        writeHours(
          store.db,
          [...book.all()].map((one) => ({ ...one, at: book.start * SLOT, capacity: capacities.get(one.subject) ?? 0 })),
        );
        writeMark(store.db, { at: course.slot * SLOT, model: id, state: course.state(), timed: [] });
      })();
    }
    closeDay(store.db, start * SLOT);
  });
  tasks.push({ name: '24 h of five-second telemetry of 2,000 volumes, written', took: day, target: 10_000 });
  tasks.push({ name: 'memory after it, MB', took: process.memoryUsage().rss / 1e6, target: 600 });
  store.db.pragma('wal_checkpoint(TRUNCATE)');
  tasks.push({
    name: 'database after it, MB a day of 2,000 volumes',
    took: statSync(path.join(folder, 'load.db')).size / 1e6,
  });

  const known: LoadModel = model!;
  const subject = known.volumes[0]!.id;
  const [hour] = readHoursOf(store.db, subject, start * SLOT, start * SLOT + HOUR);
  const insert = store.db.prepare(
    'INSERT OR REPLACE INTO load_hour (subject, at, data, parts) SELECT subject, at + ?, data, parts FROM load_hour WHERE subject = ? AND at < ?',
  );
  for (let back = 1; back < 30; back++) insert.run(back * DAY, subject, start * SLOT + DAY);
  tasks.push({
    name: 'chart of 30 days of one volume',
    took: timed(
      () => void readHoursOf(store.db, subject, start * SLOT, start * SLOT + 30 * DAY).map(({ row }) => row.mostIops),
    ),
    target: 200,
  });
  if (!hour) throw new Error('nothing was written');
  const pool = known.volumes[0]!.pool;
  const other = known.volumes.find((one) => one.pool === pool && one.id !== subject)!.id;
  const busy = { ...known, volumes: known.volumes.filter((one) => one.pool === pool) };
  tasks.push({
    name: 'solver: the limit that keeps a neighbour in time',
    took: timed(() => void solveLimit(busy, start + 7000, { x: other, y: subject, targetS: 1e-9 })),
    target: 100,
  });
  store.close();
  rmSync(folder, { recursive: true });
  return tasks;
}

/** The same queue in a plain loop, as a yardstick for the simulation: Poisson arrivals, exponential service, first come first served. */
function handWritten({
  ios,
  perS,
  meanS,
  servers,
  seed,
}: {
  ios: number;
  perS: number;
  meanS: number;
  servers: number;
  seed: number;
}): number {
  const chance = new Chance(seed);
  const free = new Float64Array(servers);
  let [at, sum] = [0, 0];
  for (let k = 0; k < ios; k++) {
    at += chance.exponential(1 / perS);
    let first = 0;
    for (let s = 1; s < servers; s++) if (free[s]! < free[first]!) first = s;
    const begins = Math.max(at, free[first]!);
    free[first] = begins + chance.exponential(meanS);
    sum += free[first]! - at;
  }
  return sum / ios;
}

/** Simulation by I/O, top fives, placement and the preview of a limit. */
export function loadTasks(): LoadTask[] {
  const ios = 3_000_000;
  const simulation: Simulation = {
    volumes: [1400, 600, 400].map((perS, k) => ({
      id: `v${k}`,
      arrivals: { perS, scv: 1 },
      service: { meanS: 5e-4, scv: 1 },
      weight: 1,
    })),
    servers: 2,
    ios,
    seed: 7,
  };
  const simulated = timed(() => void whole(simulateInParts(simulation)));
  const plain = timed(() => void handWritten({ ios, perS: 2400, meanS: 5e-4, servers: 2, seed: 7 }));
  const random = randomFrom('top');
  const rows = Array.from({ length: 100_000 }, (_, k): LoadSummary => ({
    id: `v${k}`,
    name: '',
    of: '',
    fullness: random(),
    iops: random(),
    mostIops: random(),
    mostIopsAt: 0,
    latencyS: random(),
    p95S: random(),
    mostLatencyS: random(),
    mostLatencyAt: 0,
    bytesPerS: random(),
    mostBytesPerS: random(),
    unserved: random(),
    mostUnserved: random(),
    mostQueue: random(),
    held: 0,
  }));
  const heat = Float64Array.from({ length: 1_000_000 }, () => random() ** 4 * 1000);
  const policy = Uint16Array.from({ length: 1_000_000 }, (_, k) => k % 3);
  const place = () =>
    placeByHeat({
      tiers: [
        { capacity: 200_000, service: 0.1 },
        { capacity: 400_000, service: 5 },
        { capacity: 900_000, service: 12.5 },
      ],
      policies: { a: { percent: [50, 100, 100] }, b: { percent: [0, 60, 100] }, c: { percent: [100, 100, 100] } },
      extents: { heat, policy },
    });
  const large = new Estate();
  large.apply(generateEstate({ arrays: 10, volumes: 100_000, hosts: 300, seed: 'limits' }));
  const volume = [...large.table('volume').values()][0]!;
  const array = large.table('array').get(volume.array)!.name;
  const limit = { do: 'limit.create', array, name: 'quiet', volumes: [volume.name], iops: 500 };
  const basis = { seed: 'bench', now: LAB_START, month: '2031-04' };
  planChange(large, [limit], basis);
  return [
    { name: 'simulation of 3,000,000 I/Os', took: simulated, target: 1000 },
    { name: 'the same queue in a plain loop', took: plain },
    {
      name: 'all top fives over 100,000 volumes',
      took: timed(() => topBy.forEach((by) => (topOf(rows, by, 'mean'), topOf(rows, by, 'most')))),
      target: 200,
    },
    { name: 'placement of 1,000,000 extents by heat', took: timed(() => void place()), target: 1000 },
    {
      name: 'preview of a limit on 100,000 volumes',
      took: timed(() => {
        const plan = planChange(large, [limit], basis);
        new Overlay(large).apply(plan.steps.flatMap((step) => step.effects));
      }),
      target: 50,
    },
  ];
}
