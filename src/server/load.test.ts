import { rmSync } from 'node:fs';
import { Book } from '@/core/performance/book';
import { SLOTS_AN_HOUR } from '@/core/performance/choices';
import { slotOf } from '@/core/performance/profile';
import { mergedRows, unpackRow, type LoadRow } from '@/core/performance/row';
import { DAY, HOUR } from '@/core/units/duration';
import { KEPT, closeDay, readAllHours, readAllRows, readHoursOf } from '@/store/load-rows';
import { importTrace } from './import-lists';
import { openTrabes, type Trabes } from './instance';
import { fleet } from './load-fleet';
import { limitRows } from './load-limits';
import { effect, whatIfLoad, why } from './load-questions';
import { room } from './load-room';
import { threadTasks } from './thread-tasks';
import { propose, queueOf, simulateLoad, type Aside } from './load-simulation';
import { pointsOf } from './load-spans';
import { subjectLoad } from './load-subject';
import { metrics } from './load-export';
import { loadFacts } from './load-facts';
import { planOn } from '../../demo/scenario';
import { copyPristine, makePristine } from './pristine.fixture';

/** On this very thread: threads of their own are for the built server. */
const inline: Aside = (task, given) => Promise.resolve(threadTasks[task](given));

beforeAll(makePristine, 180_000);

const opened: { trabes: Trabes; folder: string }[] = [];
const open = (at = copyPristine()): Trabes => {
  const trabes = openTrabes(at.file, 'demo');
  opened.push({ trabes, folder: at.folder });
  return trabes;
};
afterEach(() => {
  for (const { trabes, folder } of opened.splice(0)) {
    trabes.plant.close();
    rmSync(folder, { recursive: true, force: true });
  }
});
const volume = ({ plant }: Trabes, name: string) =>
  [...plant.estate.table('volume').values()].find((one) => one.name === name)!.id;

test('an hour that was written is what its five seconds come to when they are worked out again', () => {
  const { plant, clock } = open();
  clock.advance(2 * HOUR);
  const from = Math.floor(plant.lab.now / HOUR - 1) * HOUR;
  const book = new Book(slotOf(from), 60, 12);
  plant.telemetry.again(from, from + HOUR, book);
  let seen = 0;
  for (const { subject, parts } of book.all()) {
    const again = mergedRows(parts);
    const [written] = readHoursOf(plant.store.db, subject, from, from + HOUR);
    expect(again.slots).toBe(SLOTS_AN_HOUR);
    for (const field of ['asked', 'served', 'refused', 'held', 'mostQueue', 'used'] as const)
      expect(written!.row[field]).toBeCloseTo(again[field], 3);
    seen += 1;
  }
  expect(seen).toBeGreaterThan(20);
});

test('what replications carried is seen on their line, five seconds by five seconds, and after the server has begun anew', () => {
  const at = copyPristine();
  const { plant, clock } = open(at);
  clock.advance(3 * HOUR);
  const line = [...plant.estate.table('siteLink').values()].find(({ name }) => name === 'leased line')!;
  const hours = readHoursOf(plant.store.db, line.id, plant.lab.now - 2 * HOUR, plant.lab.now);
  const seen = hours.reduce((sum, { row }) => sum + row.used, 0);
  const [from, to] = [hours[0]!.at, hours.at(-1)!.at + HOUR];
  // What a cycle sent within these hours, by the share of its time that lies in them.
  const cycles = [...plant.estate.table('cycle').values()].filter(
    ({ replication }) => plant.estate.table('replication').get(replication)!.link === line.id,
  );
  const within = (begun: number, end: number) => Math.max(0, Math.min(end, to) - Math.max(begun, from)) / (end - begun);
  const sent = cycles.reduce((sum, { startedAt, finishedAt, wire }) => sum + wire * within(startedAt, finishedAt), 0);
  expect(sent).toBeGreaterThan(2 ** 30);
  expect(seen).toBeGreaterThan(0.6 * sent);
  const again = (of: Trabes['plant']) => {
    const book = new Book(slotOf(from), 12, 60, (id) => id === line.id);
    of.telemetry.again(from, from + HOUR, book);
    return [...book.all()].flatMap(({ parts }) => parts.map(({ used }) => used));
  };
  const before = again(plant);
  expect(new Set(before).size).toBeGreaterThan(1);
  plant.close();
  opened.splice(0);
  const anew = openTrabes(at.file, 'demo');
  opened.push({ trabes: anew, folder: at.folder });
  expect(again(anew.plant)).toEqual(before);
});

test('a long span is read by whole days where they are over, and comes to the same', () => {
  const { plant } = open();
  const { db } = plant.store;
  const merged = (rows: Iterable<{ subject: string; data: Buffer }>) => {
    const found = new Map<string, LoadRow>();
    for (const { subject, data } of rows)
      found.set(subject, mergedRows([...(found.has(subject) ? [found.get(subject)!] : []), unpackRow(data)]));
    return found;
  };
  for (const [back, until] of [
    [6.3 * DAY, 0],
    [5 * DAY, 2 * DAY],
    [2 * HOUR, 0],
    [1.2 * DAY, 0.1 * DAY],
  ] as const) {
    const [from, to] = [plant.lab.now - back, plant.lab.now - until];
    const rows = [...readAllRows(db, from, to)];
    const hours = [...readAllHours(db, from, to)];
    if (back > 4 * DAY) expect(rows.length).toBeLessThan(hours.length / 2);
    const [one, other] = [merged(rows), merged(hours)];
    expect([...one.keys()].sort()).toEqual([...other.keys()].sort());
    for (const [subject, row] of one) {
      const same = other.get(subject)!;
      expect([row.slots, row.mostIops, row.mostIopsAt]).toEqual([same.slots, same.mostIops, same.mostIopsAt]);
      expect(Math.abs(row.asked - same.asked)).toBeLessThanOrEqual(1e-9 * same.asked);
    }
  }
});

test('whoever is closed in the middle of an hour goes on as if he had not been', () => {
  const at = copyPristine();
  const broken = openTrabes(at.file, 'demo');
  broken.clock.advance(1.4 * HOUR);
  broken.plant.close();
  const resumed = open(at);
  resumed.clock.advance(1.6 * HOUR);
  const straight = open();
  straight.clock.advance(1.4 * HOUR);
  straight.clock.advance(1.6 * HOUR);
  const { now } = straight.plant.lab;
  for (const name of ['tickets', 'crew-rota', 'stores-1', 'scanner']) {
    const id = volume(straight, name);
    const [one, other] = [resumed, straight].map(({ plant }) => readHoursOf(plant.store.db, id, now - 3 * HOUR, now));
    expect(one!.length).toBeGreaterThan(1);
    one!.forEach(({ at: hour, row }, k) => {
      expect(hour).toBe(other![k]!.at);
      for (const field of ['asked', 'served', 'refused', 'held'] as const)
        expect(row[field]).toBeCloseTo(other![k]!.row[field], 3);
    });
  }
});

test('the first page, a volume, why it waited, what a limit would have done, and the one that is proposed', async () => {
  const trabes = open();
  const { plant } = trabes;
  const [scanner, stores] = [volume(trabes, 'scanner'), volume(trabes, 'stores-1')];
  const page = fleet(plant, 86_400, null);
  expect(page.attention[0]!.others.map(({ name }) => name)).toContain('stores-1');
  expect(page.subjects.workload.length).toBeGreaterThan(3);
  const seen = subjectLoad(plant, scanner, 86_400, null);
  expect(seen.points).toHaveLength(240);
  expect(seen.spikes[0]!.latencyS).toBeGreaterThan(0.5);
  const reason = why(plant, scanner, 86_400, null);
  expect(reason.at).toBe(seen.spikes[0]!.at);
  expect(reason.neighbours[0]!.name).toBe('stores-1');
  expect(reason.overlap[stores]!).toBeGreaterThan(0.9);
  const { proposal, simulated, at } = await propose(
    plant,
    { x: stores, y: scanner, targetS: 0.04, seconds: 86_400 },
    undefined,
    inline,
  );
  if (!proposal.ok) throw new Error(proposal.message);
  expect(proposal.p95S).toBeLessThanOrEqual(0.04);
  expect(simulated!.p95S).toBeLessThan(simulated!.wasS);
  expect(queueOf(plant, { x: stores, y: scanner, iops: proposal.iops, at }).resource).toBe('lintel-1 b');
  // The same I/O by I/O: two lines of a trace are bad, and a name stands for nobody.
  const lines = Array.from({ length: 3000 }, (_, n) => `${((n + 1) / 1500).toFixed(5)},scanner,${n * 8192},8192,read`);
  const trace = [
    'time,volume,offset,size,type',
    ...lines,
    '1,scanner,0,8192,read',
    '2.1,ghost,0,8192,write',
    'x,scanner,0,8192,read',
  ];
  const asked = { x: null, iops: null, y: scanner, at, ios: 400_000, seed: 3 };
  const played = await simulateLoad(plant, { ...asked, trace: trace.join('\n') }, undefined, inline);
  expect(played.trace).toMatchObject({ taken: { scanner: 3000 }, strange: { ghost: 1 } });
  expect(played.trace!.problems.map(({ line }) => line)).toEqual([3002, 3004]);
  expect(played.seconds).toBeGreaterThan(1.9);
  expect(played.volumes.map(({ name }) => name)).toContain('stores-1');
  const again = await simulateLoad(plant, { ...asked, trace: null }, undefined, inline);
  expect(again).toMatchObject({ trace: null, resource: played.resource });
  const would = effect(plant, {
    volume: stores,
    neighbour: scanner,
    replaces: null,
    seconds: 86_400,
    until: null,
    variants: [{ label: 'limited', iops: proposal.iops, burst: 0 }],
  });
  expect(would.variants[0]!.worst[scanner]!).toBeGreaterThan(0.5);
  expect(would.variants[1]!.worst[scanner]!).toBeLessThan(0.05);
  expect(would.variants[1]!.heldSlots).toBeGreaterThan(0);
  const workload = plant.estate.table('volume').get(scanner)!.workload!;
  expect(pointsOf(plant, new Set([scanner]), seen.from, seen.to)).toEqual(seen.points);
  expect(subjectLoad(plant, workload, 604_800, null).points.length).toBeGreaterThan(100);
  expect(limitRows(plant)[0]).toMatchObject({ name: 'rota-quiet', volumes: ['crew-rota'] });
  expect(metrics(plant)).toMatch(/# EOF\n$/);
});

test('who disturbed whom is known until a limit cures it; hosts of a cluster share what is asked', () => {
  const trabes = open();
  const { plant } = trabes;
  const disturbs = () => loadFacts(plant).disturbed.filter(({ x }) => x === volume(trabes, 'stores-1'));
  expect(disturbs().length).toBeGreaterThan(0);
  expect(disturbs()[0]!.share).toBeGreaterThan(0.5);
  const limit = { do: 'limit.create', array: 'lintel-1', name: 'quiet', volumes: ['stores-1'], iops: 20_000 };
  plant.commit({ effects: planOn(plant.estate, [limit], 'quiet', plant.lab.now) });
  trabes.clock.advance(HOUR);
  expect(disturbs()).toEqual([]);
  const { subjects } = fleet(plant, 3600, null);
  const of = (kind: 'host' | 'volume', name: string) => subjects[kind].find((one) => one.name === name)!.iops;
  expect(of('host', 'cargo-db-1') + of('host', 'cargo-db-2')).toBeCloseTo(
    of('volume', 'cargo-data') + of('volume', 'cargo-log'),
    6,
  );
});

test('what is not there is said in words', async () => {
  const { plant } = open();
  expect(() => subjectLoad(plant, 'vol_none', 600, null)).toThrow('There is no volume');
  expect(() => why(plant, 'vol_none', 600, null)).toThrow('Nothing is known');
  expect(() => whatIfLoad(plant, { lost: 'ctl_none' })).toThrow('There is no controller');
  const asked = { x: 'a', y: 'b', targetS: 1, seconds: 600 };
  await expect(propose(plant, asked, undefined, inline)).rejects.toThrow('One of the two');
});

test('a pool is what its volumes are together, on the first page and on its own', () => {
  const { plant } = open();
  const { subjects } = fleet(plant, DAY / 1000, null);
  const quay = subjects.pool.find(({ name }) => name === 'lintel-1 quay')!;
  const of = subjects.volume.filter((one) => one.of === 'lintel-1 quay');
  expect(of.length).toBeGreaterThan(2);
  expect(quay.iops).toBeCloseTo(
    of.reduce((sum, { iops }) => sum + iops, 0),
    3,
  );
  const page = subjectLoad(plant, quay.id, 3600, null);
  expect(page).toMatchObject({ kind: 'pool', name: 'lintel-1 quay', arrayName: 'lintel-1' });
  expect(page.volumes.map(({ name }) => name)).toEqual(expect.arrayContaining(of.map(({ name }) => name)));
});

test('what is left of an array and of links is told with the worst that may be lost', async () => {
  const { plant } = open();
  await expect(room(plant, 'arr_none')).rejects.toThrow('There is no');
  const array = [...plant.estate.table('array').values()].find(({ name }) => name === 'lintel-1')!;
  const { rooms } = await room(plant, array.id);
  const ports = rooms.filter(({ kind, rho }) => kind === 'port' && rho > 0);
  expect(ports.length).toBeGreaterThan(1);
  // What one port carried others carry once it is lost.
  for (const { worst, rho, worstState } of ports) {
    expect(worst).toBeGreaterThan(rho);
    expect(worstState).toMatch(/^(port|controller|switch|link) .* lost$/);
  }
  const links = await room(plant, 'links');
  expect(new Set(links.rooms.map(({ kind }) => kind))).toEqual(new Set(['isl', 'line']));
  // Hosts send nothing over the leased line: what is left of it is what replications leave, on the mean of their busiest hour.
  const leased = links.rooms.find(({ name }) => name === 'leased line')!;
  expect(leased.rho).toBeGreaterThan(0.04);
});

test('what was never measured nearly as busy is called a guess', () => {
  const { plant } = open();
  const { estate } = plant;
  const { workload } = estate
    .table('volume')
    .get([...estate.table('volume').values()].find(({ name }) => name === 'tickets')!.id)!;
  const grown = (factor: number) => whatIfLoad(plant, { grows: { workload: workload!, factor } });
  const [vast, slight] = [grown(500), grown(1.01)];
  const [first] = vast.guesses;
  const resource = vast.resources.find(({ id }) => id === first!.id)!;
  expect(resource.is).toBeGreaterThan(1);
  expect(first!.message).toMatch(
    new RegExp(
      `^${resource.name} was never measured above \\d+ %; this forecast needs ${Math.round(resource.is * 100)} %\\.$`,
    ),
  );
  expect(slight.guesses).toEqual([]);
});

test('what is kept of a year is bounded: days stay, parts and marks go', () => {
  const { plant } = open();
  const { db } = plant.store;
  const count = (what: string) => (db.prepare(`SELECT count(*) AS n FROM ${what}`).get() as { n: number }).n;
  const day = Math.floor(plant.lab.now / (24 * HOUR)) * 24 * HOUR;
  closeDay(db, day + KEPT.parts + 24 * HOUR);
  expect(count('load_hour WHERE parts IS NOT NULL')).toBe(0);
  expect(count('load_mark')).toBe(0);
  expect(count('load_hour')).toBeGreaterThan(0);
  closeDay(db, day + KEPT.hours + 24 * HOUR);
  expect(count('load_hour')).toBe(0);
  expect(count('load_day')).toBeGreaterThan(0);
});

test('a trace becomes a change of what is known of volumes; lines that cannot be read are told', async () => {
  const trabes = open();
  const report = await importTrace(
    trabes,
    'time,volume,offset,size,type\n0,scanner,0,4096,read\n1,nobody,0,4096,read\n1,scanner,x,4096,read\n2,scanner,4096,4096,write\n',
  );
  expect(report).toMatchObject({ taken: 1, refused: 2 });
  expect(report.lines.map(({ said }) => said).join(' ')).toMatch(/There is no volume nobody\..*Line 4: its offset/);
});
