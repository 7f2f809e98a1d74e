import { MINUTE, SECOND } from '../units/duration';
import { changed, compacted, created } from '../estate/effects';
import { rowOf } from '../estate/entities';
import { lookUp } from '../operation/inquiry';
import { stage } from '../../../demo/protected';
import { copying } from '../../../demo/replicated';
import { slots } from '../../../demo/names';
import { estateAfter, mounted, named } from '../../../demo/workbench';
import { FIXED } from '../replicate/choices';
import { Book } from './book';
import { SLOT_S } from './choices';
import { Course } from './course';
import { loadModel, timedOf } from './model';
import { model, timedBy, madeUp, volume } from './models.fixture';
import { oneSlot } from './one-slot';
import type { LoadModel, TimedWork } from './shape';
import { touchesCarried, touchesLoad } from './touched';

/** A second, smaller group in the pool. */
const second = [
  { do: 'raid-group.create', array: 'lintel-1', name: 'rg-2', level: 'raid6', drives: slots(0, 12, 17) },
  { do: 'pool.extend', array: 'lintel-1', name: 'quay', raidGroups: ['rg-2'] },
];

/** What is used of each resource, slot by slot. */
function used(made: LoadModel, slots: number): number[][] {
  const found = made.resources.map(() => Array.from({ length: slots }, () => 0));
  new Course(made, 0).run(slots, {
    volume: () => undefined,
    resource: (r, from, to, units) => found[r]!.fill(units, from, to),
  });
  return found;
}
const work = (more: Partial<TimedWork>): TimedWork => ({
  resource: 0,
  perS: 10,
  name: 'replication',
  from: 12 * SECOND,
  until: 31 * SECOND,
  ...more,
});

test('a slot in which work begins or ends takes its share of it', () => {
  const made = { ...model([100], [volume('a', 20, [[0, 1]])]), timed: [work({})] };
  expect(used(made, 8)[0]).toEqual([20, 20, 26, 30, 30, 30, 22, 20]);
  // Several on one resource add up, whatever is always there.
  const more = {
    ...made,
    background: [{ resource: 0, perS: 5, name: 'raid-scrub' }],
    timed: [work({}), work({ from: 14 * SECOND, until: 15 * SECOND })],
  };
  expect(used(more, 5)[0]).toEqual([25, 25, 33, 35, 35]);
});

test('all of what is carried is counted, however it falls on slots', () => {
  for (let seed = 0; seed < 20; seed++) {
    const made = madeUp(`whole ${seed}`, 50);
    const timed = timedBy(`${seed}`, made).map((one) => ({ ...one, perS: one.perS / 10 }));
    const slots = 4 * 720;
    const [beside, alone] = [used({ ...made, timed }, slots), used(made, slots)];
    made.resources.forEach(({ capacity }, r) => {
      const more = beside[r]!.reduce((sum, one, k) => sum + (one - alone[r]![k]!) * SLOT_S, 0);
      const carried = timed
        .filter(({ resource }) => resource === r)
        .reduce((sum, { perS, from, until }) => sum + (perS * (until - from)) / SECOND, 0);
      expect(Math.abs(more - carried)).toBeLessThan(1e-6 * capacity * slots);
    });
  }
});

test('beside it hosts wait longer, and are short where it leaves too little; over a link between sites they go first', () => {
  const made = { ...model([100], [volume('a', 60, [[0, 1]])]), timed: [work({ perS: 30, from: 0, until: MINUTE })] };
  const { volumes: alone } = oneSlot({ ...made, timed: [] }, 0);
  const { volumes: beside, used: all } = oneSlot(made, 0);
  expect(beside[0]!.latency).toBeGreaterThan(alone[0]!.latency);
  expect(all[0]).toBe(90);
  const heavy = { ...made, timed: [work({ perS: 70, from: 0, until: MINUTE })] };
  expect(oneSlot(heavy, 0).volumes[0]!.served).toBeCloseTo(30, 6);
  const line = (of: LoadModel): LoadModel => ({ ...of, resources: [{ ...of.resources[0]!, kind: 'line' }] });
  const { volumes: first, used: full } = oneSlot(line(heavy), 0);
  expect(first[0]!.served).toBe(60);
  expect(first[0]!.latency).toBe(alone[0]!.latency);
  // No more goes over it than it carries.
  expect(full[0]).toBe(100);
});

test('work on a pool is read from and written to all of its groups, as long as it is not paused', () => {
  const estate = estateAfter([...mounted, ...second]);
  const pool = named(estate, 'pool', 'quay');
  const job = rowOf('job', {
    id: 'job_reduce',
    kind: 'pool-dedupe',
    array: pool.array,
    raidGroup: null,
    pool: pool.id,
    drive: null,
    total: 1e12,
    rate: 50e6,
    asOf: 0,
    startedAt: 0,
    finishesAt: 2e7,
  });
  estate.apply([created('job', job)]);
  const made = loadModel(estate);
  const groups = new Map<string, number>();
  const onPool = (model: LoadModel) => model.background.filter(({ name }) => name === 'pool-dedupe');
  for (const { resource, perS } of onPool(made)) {
    const group = made.resources[resource]!.name;
    groups.set(group, (groups.get(group) ?? 0) + perS);
  }
  expect([...groups.keys()].sort()).toEqual(['lintel-1 rg-1', 'lintel-1 rg-2']);
  // The larger group takes the larger part.
  expect(groups.get('lintel-1 rg-1')! / groups.get('lintel-1 rg-2')!).toBeGreaterThan(1.1);
  estate.apply([changed('job', job, { paused: true })]);
  expect(onPool(loadModel(estate))).toEqual([]);
});

describe('what replications carry', () => {
  /** The first copy of Ticketing is whole, its line is narrow, and a cycle is on its way. */
  function carrying() {
    const at = copying();
    at.pass(30 * MINUTE);
    const volume = named(at.estate, 'volume', 'tickets-1');
    at.estate.apply([changed('volume', volume, { activity: { ...volume.activity!, writes: 500 } })]);
    at.run({ do: 'site-link.configure', link: 'dark fibre', dayCap: '4 MiB/s', nightCap: '4 MiB/s' });
    at.pass(MINUTE);
    for (let k = 0; k < 200 && !lookUp(at.estate, 'replication', 'Ticketing')!.carrying; k++) at.pass(5 * SECOND);
    return at;
  }

  test('is taken of the line, of the groups it is read from and of those it is written to, as long as it lasts', () => {
    const at = carrying();
    const row = lookUp(at.estate, 'replication', 'Ticketing')!;
    const made = loadModel(at.estate);
    const timed = timedOf(at.estate, made);
    const of = (kind: string, name: string) =>
      timed.find(({ resource }) => made.resources[resource]!.kind === kind && made.resources[resource]!.name === name)!;
    const line = of('line', 'dark fibre');
    expect(line.perS).toBe(4 * 2 ** 20);
    expect((line.perS * (line.until - line.from)) / SECOND).toBeCloseTo(row.carrying!.wire, 0);
    expect(line.from - row.carrying!.startedAt).toBe(FIXED);
    // What is written comes with its parity, so that it costs more than what is read.
    expect(of('group', 'lintel-1 rg-1').perS).toBeGreaterThan(0);
    expect(of('group', 'lintel-2 rg-1').perS).toBeGreaterThan(of('group', 'lintel-1 rg-1').perS);
    at.run({ do: 'replication.pause', replication: 'Ticketing' });
    expect(timedOf(at.estate, made)).toEqual([]);
  });

  test('writes that are mirrored go over the line with the hosts’, before all that is copied', () => {
    const at = carrying();
    const row = lookUp(at.estate, 'replication', 'Ticketing')!;
    at.estate.apply(compacted([changed('replication', row, { mode: 'sync', state: 'protected', carrying: null })]));
    const made = loadModel(at.estate);
    const line = made.resources.findIndex(({ kind }) => kind === 'line');
    const mirrored = made.volumes.find(({ name }) => name === 'tickets-1')!;
    const use = mirrored.uses.find(({ resource }) => resource === line)!;
    expect([use.read, use.write, use.readVisits, use.writeVisits]).toEqual([0, mirrored.ioBytes, 0, 1]);
    const book = new Book(0, 720, 1).by(made);
    new Course(made, 0).run(720, book);
    const row2 = [...book.all()].find(({ subject }) => subject === made.resources[line]!.id)!.parts[0]!;
    expect(row2.used).toBeGreaterThan(0);
  });
});

test('a round of a move is work of its own, at the rate it goes now', () => {
  const at = stage(...second.slice(0, 1), {
    do: 'pool.create',
    array: 'lintel-1',
    name: 'hold',
    raidGroups: ['rg-2'],
  });
  at.run({ do: 'volume.move', array: 'lintel-1', volumes: ['tickets-1'], pool: 'hold', cap: '50 MiB/s' });
  at.pass(10 * SECOND);
  const move = () => [...at.estate.table('move').values()][0]!;
  expect(move().round!.rate).toBe(50 * 2 ** 20);
  const made = loadModel(at.estate);
  expect(made.background.some(({ name }) => name === 'move')).toBe(false);
  const moving = () => timedOf(at.estate, made).filter(({ name }) => name === 'move');
  expect(
    moving()
      .map(({ resource }) => made.resources[resource]!.name)
      .sort(),
  ).toEqual(['lintel-1 rg-1', 'lintel-1 rg-2']);
  const [{ from, until }] = moving() as [TimedWork];
  expect(((until - from) / SECOND) * move().round!.rate).toBeCloseTo(move().round!.wire - move().round!.sent, 0);
  // Another rate is another piece of work, and is noticed; where nothing gets over there is none.
  const slower = changed('move', move(), { round: { ...move().round!, rate: 1e6 } });
  expect(touchesCarried([slower])).toBe(true);
  expect(touchesLoad([slower])).toBe(false);
  at.estate.apply([slower]);
  expect(moving()[0]!.perS).toBeLessThan(1e6);
  at.estate.apply([changed('move', move(), { flows: false })]);
  expect(moving()).toEqual([]);
});
