import { rmSync } from 'node:fs';
import { componentIds, hostSheet, loginTest, mergeAnswer, topologyAnswer, whatIfAnswer } from './attach-views';
import { importZoning } from './import-lists';
import { openTrabes, type Trabes } from './instance';
import { changeFault, labView } from './lab';
import { copyPristine } from './pristine.fixture';
import { Problem } from './problem';

let folder: string;
let trabes: Trabes;
beforeAll(() => {
  const copy = copyPristine();
  folder = copy.folder;
  trabes = openTrabes(copy.file, 'demo');
}, 180_000);
afterAll(() => {
  trabes.plant.close();
  rmSync(folder, { recursive: true });
});
const codeOf = async (work: () => unknown): Promise<string> => {
  try {
    await work();
  } catch (error) {
    return error instanceof Problem ? error.code : String(error);
  }
  return 'none';
};

test('a change that gives storage to the new ticketing host waits unfolded, and nothing in it is refused', async () => {
  const waiting = trabes.changes.list().find((change) => change.title === 'Storage for a new ticketing host')!;
  const view = await trabes.changes.view(waiting.id);
  expect(view.operations.map((operation) => operation.do)).toEqual([
    'host.create',
    'volume.create',
    'zoning.join',
    'zoning.join',
    'mapping.create',
    'host.rescan',
    'host-device.format',
  ]);
  expect(view.preview!.refusals).toEqual([]);
  expect(
    view.preview!.figures.find((figure) => figure.label === 'Paths' && figure.subject.name === 'ticket-3'),
  ).toMatchObject({ after: '4/4' });
});

test.each([
  ['switch-down', 'a1'],
  ['isl-down', 'a1-a2-1'],
  ['network-down', 'iscsi-a'],
  ['adapter-down', 'cargo-db-1/card 0'],
  ['array-down', 'purlin-1'],
] as const)('%s of %s is set, seen and mended', async (kind, ref) => {
  const before = labView(trabes.plant).faults.length;
  const { said } = changeFault(trabes.plant, kind, ref, false);
  expect(said).toMatch(/is down$/);
  expect(labView(trabes.plant).faults.length).toBeGreaterThan(before);
  expect(await codeOf(() => changeFault(trabes.plant, kind, ref, false))).toBe('fault-set');
  changeFault(trabes.plant, kind, ref, true);
  expect(labView(trabes.plant).faults.length).toBe(before);
  expect(await codeOf(() => changeFault(trabes.plant, kind, ref, true))).toBe('no-fault');
  expect(await codeOf(() => changeFault(trabes.plant, kind, 'nothing', false))).toBe('component-unknown');
});

test('what happens to paths is written down for their host, with how long it took to notice', async () => {
  changeFault(trabes.plant, 'switch-down', 'b2', false);
  const { events } = hostSheet(trabes.plant, 'deck-4');
  const there = events.find(({ array, after }) => array === 'lintel-1' && after === 'down');
  expect(there).toMatchObject({ from: 'hba1', noticedAfter: 200 });
  changeFault(trabes.plant, 'switch-down', 'b2', true);
  expect(hostSheet(trabes.plant, 'deck-4').events[0]).toMatchObject({ before: 'down', noticedAfter: 0 });
  expect(hostSheet(trabes.plant, 'gate-1').events.every((event) => event.from.startsWith('eth'))).toBe(true);
});

test('a login is run with the sealed secrets', async () => {
  expect(loginTest(trabes.plant, 'gate-1', 'lintel-1')).toMatchObject({ ok: true, status: '0000' });
  const { operations } = await trabes.changes.prepare(
    'CHAP',
    [
      { do: 'host.configure', host: 'gate-1', chapSecret: 'tide tables of 2031' },
      {
        do: 'initiator.configure',
        host: 'gate-1',
        initiator: 'iqn.2031-04.example.skarholt:gate-1',
        chapSecret: 'tide tables of 2031',
      },
    ],
    'test',
  );
  expect(JSON.stringify(operations)).not.toContain('tide tables');
  expect(operations[0]!.chapSecret).toMatch(/^sealed:/);
  expect(await codeOf(() => loginTest(trabes.plant, 'gate-9', 'lintel-1'))).toBe('host-unknown');
});

test('components are named by id or name; whom it hurts follows', async () => {
  const [a2] = componentIds(trabes.plant, ['A2']);
  expect(componentIds(trabes.plant, [a2!])).toEqual([a2]);
  expect(await codeOf(() => componentIds(trabes.plant, ['a9']))).toBe('component-unknown');
  const answer = whatIfAnswer(trabes.plant, [a2!]);
  expect(answer.outage.counts.lost).toBe(1);
  expect(whatIfAnswer(trabes.plant, [a2!]).spofs).toBe(answer.spofs);
  expect(whatIfAnswer(trabes.plant, [], 'ledger-1 hba0').components).toHaveLength(1);
});

test('the topology takes a trace or failures', async () => {
  const marked = (query: string) =>
    topologyAnswer(trabes.plant, new URLSearchParams(query)).nodes.filter((node) => node.mark).length;
  expect(marked('')).toBe(0);
  expect(marked('failed=a2')).toBeGreaterThan(2);
  expect(marked('host=ledger-1&volume=lintel-2/ledger')).toBe(3);
  expect(await codeOf(() => marked('host=ledger-1&volume=nothing'))).toBe('volume-unknown');
});

test('two fabrics with other zones would merge into one', async () =>
  expect(mergeAnswer(trabes.plant, new URLSearchParams('a=A&b=B'))).toMatchObject({
    a: 'A',
    b: 'B',
    outcome: 'merged',
  }));

test('a zoning list becomes a change, line by line', async () => {
  const report = await importZoning(
    trabes,
    'fabric,what,name,members\nA,alias,rota_hba0,50:00:0a:66:d4:00:00:01\nA,alias,deck-1_hba0,nonsense!\nB,alias,quay-old_hba1,"11,40"',
  );
  expect(report.lines.map((line) => line.taken)).toEqual([true, false, true]);
  expect(report.lines[2]!.said).toBe('It is there as it stands');
  expect(report.change!.operations).toHaveLength(1);
  expect(await codeOf(() => importZoning(trabes, 'x'))).toBe('not-a-zoning-list');
});
