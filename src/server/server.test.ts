import { once } from 'node:events';
import { rmSync } from 'node:fs';
import path from 'node:path';
import { brokenRules } from '@/core/rules/book';
import { estateToDocument } from '@/core/estate/document';
import { changed, created } from '@/core/estate/effects';
import { kinds } from '@/core/estate/entities';
import type { OperationDocument } from '@/core/change/registry';
import { readLabLog } from '@/store/change-rows';
import { isBusy } from '@/store/database';
import { HOUR } from '@/core/units/duration';
import { iqn } from '../../demo/names';
import { differences } from '../../demo/workbench';
import { preparedChange } from '../../demo/waiting';
import { listCollection, oneOfCollection } from './collections';
import { exportEstate, importEstate } from './estate-transfer';
import type { ServerEvent } from './events';
import { answerForm } from './form';
import { importHosts } from './import-lists';
import { fillWith } from './fill';
import { openTrabes, type Trabes } from './instance';
import { nearlyDone } from './nearly-done.fixture';
import { ownProcess } from './own-process.fixture';
import { copyPristine, makePristine } from './pristine.fixture';
import { changeFault, labView, setTraffic } from './lab';
import { openApi } from './openapi';
import { Problem } from './problem';

let folder: string;
let file: string;
let trabes: Trabes;
beforeAll(makePristine, 180_000);
beforeEach(() => {
  ({ folder, file } = copyPristine());
  trabes = openTrabes(file, 'demo');
  trabes.clock.setSpeed(0);
});
afterEach(() => {
  trabes.plant.close();
  rmSync(folder, { recursive: true });
});

const restart = () => {
  trabes.plant.close();
  trabes = openTrabes(file, 'demo');
};
const codeOf = async (work: () => unknown): Promise<string> => {
  try {
    await work();
  } catch (error) {
    return error instanceof Problem ? error.code : String(error);
  }
  return 'none';
};
const bodyOf = (text: string) => new Response(text).body;
const volumes = (count: number, more: Record<string, unknown> = {}): OperationDocument[] => [
  { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'new', size: '10 GiB', count, ...more },
];
const named = (name: string) =>
  [...trabes.plant.estate.table('volume').values()].filter((volume) => volume.name.startsWith(name));

test('the drawing is told once a version, by array and host; too many hosts and no array are refused in words', async () => {
  const { drawing, plant } = trabes;
  const sight = drawing.sight();
  expect(drawing.sight()).toBe(sight);
  expect(JSON.parse(await sight)).toMatchObject({ version: plant.version });
  expect(JSON.parse(await drawing.storey('lintel-1'))).toMatchObject({ name: 'lintel-1' });
  const host = [...plant.estate.table('host').values()][0]!;
  expect(JSON.parse(drawing.hosts([host.id]))).toMatchObject({ items: [{ name: host.name }] });
  expect(() => drawing.hosts(Array.from({ length: 201 }, () => host.id))).toThrow(/201 hosts .* at most 200/);
  expect(() => drawing.storey('no-array')).toThrow(/no array no-array/);
  plant.commit({ effects: [changed('host', host, { restarts: host.restarts + 1 })] });
  expect(drawing.sight()).not.toBe(sight);
});

test('the demo keeps its own rules, and a change waits in the tray', async () => {
  expect(brokenRules(trabes.plant.estate)).toEqual([]);
  const tray = await trabes.changes.view(trabes.changes.tray()!);
  expect(tray).toMatchObject({ title: preparedChange.title, state: 'draft' });
  expect(tray.preview!.refusals).toEqual([]);
  expect(trabes.plant.estate.table('job').size).toBe(1);
});

describe('a change', () => {
  test('runs step by step in the lab’s time, and its record is what was done', async () => {
    const change = await trabes.changes.prepare('Two volumes', volumes(2), 'test');
    const preview = change.preview!.steps.map((step) => step.title);
    await trabes.changes.run(change.id);
    expect(named('new')).toHaveLength(0);
    trabes.clock.advance(2000);
    expect(named('new')).toHaveLength(1);
    expect(await trabes.changes.view(change.id)).toMatchObject({
      state: 'running',
      steps: [{ state: 'done' }, { state: 'running' }],
    });
    trabes.clock.advance(2000);
    const done = await trabes.changes.view(change.id);
    expect(done).toMatchObject({ state: 'done', undo: { possible: true } });
    expect(done.steps.map((step) => step.title)).toEqual(preview);
    expect(done.log.map((row) => row.message)).toEqual(['Prepared', 'Run', ...preview, 'Done']);
    expect(done.finishedLab! - done.startedLab!).toBe(4000);
  });

  test('comes out as it was previewed', async () => {
    const operations = [
      ...volumes(3, { provisioning: 'thick' }),
      { do: 'mapping.create', host: 'gate-1', array: 'lintel-1', volumes: ['new-1', 'new-2', 'new-3'] },
      { do: 'host.rescan', host: 'gate-1' },
    ];
    const change = await trabes.changes.prepare('Chain', operations, 'test');
    const before = (await trabes.changes.preview(operations, change.id)).figures;
    await trabes.changes.run(change.id);
    trabes.clock.advance(HOUR);
    expect((await trabes.changes.view(change.id)).state).toBe('done');
    const paths = before.find((figure) => figure.label === 'Paths')!;
    const finder = trabes.plant.finder();
    const gate = [...trabes.plant.estate.table('host').values()].find((host) => host.name === 'gate-1')!;
    const usable = trabes.plant.estate
      .table('mapping')
      .by('host', gate.id)
      .reduce((sum, mapping) => sum + finder.count(mapping).usable, 0);
    expect(paths.after).toBe(`${usable}/${usable}`);
  });

  test('can be undone, and then the estate is as before', async () => {
    trabes.plant.commit({
      effects: [...trabes.plant.estate.table('hostDevice').values()].map((row) => ({
        kind: 'hostDevice' as const,
        id: row.id,
        before: row,
        after: { ...row, writeRate: 0 },
      })),
    });
    // Nor is anything rewritten, or copied by plan or to another site.
    trabes.plant.commit({
      effects: [
        ...[...trabes.plant.estate.table('volume').values()].map((row) => changed('volume', row, { activity: null })),
        ...[...trabes.plant.estate.table('plan').values()].map((row) => changed('plan', row, { paused: true })),
        ...[...trabes.plant.estate.table('replication').values()].map((row) =>
          changed('replication', row, { state: 'paused', carrying: null }),
        ),
      ],
    });
    const document = estateToDocument(trabes.plant.estate);
    const change = await trabes.changes.prepare('Two volumes', volumes(2), 'test');
    await trabes.changes.run(change.id);
    trabes.clock.advance(4000);
    await trabes.changes.undo(change.id);
    expect((await trabes.changes.view(change.id)).state).toBe('undoing');
    trabes.clock.advance(4000);
    expect(await trabes.changes.view(change.id)).toMatchObject({
      state: 'undone',
      steps: [{ state: 'undone' }, { state: 'undone' }],
    });
    expect(estateToDocument(trabes.plant.estate)).toEqual(document);
    restart();
    expect(estateToDocument(trabes.plant.estate)).toEqual(document);
  });

  test('stops where a device refuses, says why, and goes on with a retry', async () => {
    const change = await trabes.changes.prepare('Three volumes', volumes(3), 'test');
    await trabes.changes.run(change.id);
    trabes.clock.advance(2000);
    for (const name of ['lintel-1/a', 'lintel-1/b']) changeFault(trabes.plant, 'controller-down', name, false);
    trabes.clock.advance(2000);
    const stopped = await trabes.changes.view(change.id);
    expect(stopped).toMatchObject({
      state: 'stopped',
      problem: { code: 'array-does-not-answer' },
      steps: [{ state: 'done' }, { state: 'waiting' }, { state: 'waiting' }],
    });
    expect(named('new')).toHaveLength(1);
    changeFault(trabes.plant, 'controller-down', 'lintel-1/b', true);
    await trabes.changes.retry(change.id);
    trabes.clock.advance(4000);
    expect((await trabes.changes.view(change.id)).state).toBe('done');
    expect(named('new')).toHaveLength(3);
  });

  test('stops by hand, and what stands can be undone', async () => {
    const change = await trabes.changes.prepare('Three volumes', volumes(3), 'test');
    await trabes.changes.run(change.id);
    trabes.clock.advance(3000);
    await trabes.changes.cancel(change.id);
    expect(await trabes.changes.view(change.id)).toMatchObject({
      state: 'stopped',
      problem: { code: 'cancelled' },
      undo: { possible: true },
    });
    await trabes.changes.undo(change.id);
    trabes.clock.advance(HOUR);
    expect(named('new')).toHaveLength(0);
  });

  test('is planned anew at each step: another that came first is noticed', async () => {
    const change = await trabes.changes.prepare('Three volumes', volumes(3), 'test');
    const other = await trabes.changes.prepare('In the way', volumes(1, { name: 'new-2' }), 'test');
    await trabes.changes.run(change.id);
    await trabes.changes.run(other.id);
    trabes.clock.advance(HOUR);
    expect((await trabes.changes.view(other.id)).state).toBe('done');
    expect(await trabes.changes.view(change.id)).toMatchObject({ state: 'stopped', problem: { code: 'name-taken' } });
    expect(brokenRules(trabes.plant.estate)).toEqual([]);
  });

  test('refuses what its state forbids', async () => {
    const change = await trabes.changes.prepare('Refused', volumes(1, { size: '10' }), 'test');
    expect(await codeOf(() => trabes.changes.run(change.id))).toBe('unit-missing');
    expect(await codeOf(() => trabes.changes.undo(change.id))).toBe('wrong-state');
    expect(await codeOf(() => trabes.changes.retry(change.id))).toBe('wrong-state');
    expect(await codeOf(() => trabes.changes.view('chg_none'))).toBe('change-unknown');
    await trabes.changes.revise(change.id, { title: 'Mended', operations: volumes(1) });
    expect(await trabes.changes.view(change.id)).toMatchObject({ title: 'Mended', preview: { refusals: [] } });
    trabes.changes.discard(change.id);
    expect(await codeOf(() => trabes.changes.view(change.id))).toBe('change-unknown');
    expect(trabes.changes.tray()).toBeNull();
  });
});

describe('a hard stop', () => {
  test('in the middle of a change leaves exactly the committed steps, which can be retried or undone', async () => {
    trabes.plant.close();
    for (const [killAt, then] of [
      [3, 'retry'],
      [7, 'undo'],
    ] as const) {
      const { file: db } = copyPristine(folder, `crash-${killAt}`);
      const child = ownProcess('src/server/crash.fixture.ts', db, '20');
      let id = '';
      child.stdout.on('data', (chunk: Buffer) => {
        for (const line of chunk.toString().trim().split('\n')) {
          const [change = '', done] = line.split(' ');
          id = change;
          if (Number(done) >= killAt) child.kill('SIGKILL');
        }
      });
      await once(child, 'exit');
      trabes = openTrabes(db, 'demo');
      trabes.clock.setSpeed(0);
      const stopped = await trabes.changes.view(id);
      const done = stopped.steps.filter((step) => step.state === 'done').length;
      expect(stopped).toMatchObject({ state: 'stopped', problem: { code: 'interrupted' } });
      expect(done).toBeGreaterThanOrEqual(killAt);
      expect(done).toBeLessThan(20);
      expect(stopped.steps.some((step) => step.state === 'running')).toBe(false);
      // The estate holds what the record says, no more and no less.
      expect(named('crash')).toHaveLength(done);
      expect(stopped.log.filter((row) => row.message.startsWith('Carve'))).toHaveLength(done);
      expect(brokenRules(trabes.plant.estate)).toEqual([]);
      await trabes.changes[then](id);
      trabes.clock.advance(HOUR);
      expect((await trabes.changes.view(id)).state).toBe(then === 'retry' ? 'done' : 'undone');
      expect(named('crash')).toHaveLength(then === 'retry' ? 20 : 0);
      trabes.plant.close();
    }
    trabes = openTrabes(file, 'demo');
  }, 180_000);

  test('the clock goes on where it stood, and jobs with it', async () => {
    trabes.clock.advance(HOUR);
    const { now } = trabes.plant.lab;
    const jobs = [...trabes.plant.estate.table('job').values()];
    restart();
    expect(trabes.plant.lab).toEqual({ now, speed: 0 });
    expect([...trabes.plant.estate.table('job').values()]).toEqual(jobs);
  });
});

describe('the lab', () => {
  test('jobs end when they are due, within one jump', async () => {
    const { finishesAt } = nearlyDone(trabes);
    trabes.clock.advance(finishesAt - trabes.plant.lab.now - 1);
    expect(trabes.plant.estate.table('job').size).toBe(1);
    trabes.clock.advance(1);
    expect(trabes.plant.estate.table('job').size).toBe(0);
    expect(readLabLog(trabes.plant.store.db, 1)[0]!.message).toBe('lintel-1 rg-4 is initialised');
  });

  test('a jump of hours is the same as hour by hour', async () => {
    const other = openTrabes(copyPristine(folder, 'b').file, 'demo');
    for (let k = 0; k < 6; k++) other.clock.advance(HOUR);
    trabes.clock.advance(6 * HOUR);
    const used = (one: Trabes) => [...one.plant.estate.table('hostDevice').values()].map((row) => row.used).sort();
    expect(used(other)).toEqual(used(trabes));
    other.plant.close();
  });

  test('events tell commits, clock with jobs, and changes', async () => {
    const heard: ServerEvent[] = [];
    const stop = trabes.plant.events.listen((event) => heard.push(event));
    const change = await trabes.changes.prepare('One', volumes(1), 'test');
    await trabes.changes.run(change.id);
    trabes.clock.advance(2000);
    stop();
    expect(heard.map((event) => event.type)).toEqual(expect.arrayContaining(['tray', 'change', 'commit', 'clock']));
    const clock = heard.findLast((event) => event.type === 'clock')!;
    expect(clock).toMatchObject({
      jobs: [{ progress: expect.any(Number) as number, left: expect.any(Number) as number }],
    });
    const before = heard.length;
    trabes.clock.advance(1000);
    expect(heard).toHaveLength(before);
  });

  test('rates and faults are set by name, and refused in words', async () => {
    expect(setTraffic(trabes.plant, 'gate-1', 'tickets', '64 MiB/s').rate).toBe('64 MiB/s');
    expect(await codeOf(() => setTraffic(trabes.plant, 'gate-1', 'tickets', 'fast'))).toBe('unit-missing');
    expect(await codeOf(() => setTraffic(trabes.plant, 'gate-1', 'disk9', '1 MiB/s'))).toBe('not-mounted');
    expect(await codeOf(() => setTraffic(trabes.plant, 'gate-9', 'disk9', '1 MiB/s'))).toBe('host-unknown');
    expect(changeFault(trabes.plant, 'drive-failed', 'lintel-1/0:3', false).said).toBe(
      'lintel-1 drive 0:3 has failed; a spare stands in',
    );
    // The drive that expects to fail, the failed one, the spare that is written, the interface, and the slow agent.
    expect(changeFault(trabes.plant, 'interface-down', 'gate-1/eth0', false).faults).toHaveLength(5);
    expect(await codeOf(() => changeFault(trabes.plant, 'port-down', 'lintel-1/z9', false))).toBe('component-unknown');
    expect(labView(trabes.plant).faults).toHaveLength(5);
  });
});

describe('lists and documents', () => {
  test('a list of hosts becomes a change; bad lines are told with their number', async () => {
    const report = await importHosts(
      trabes,
      `name,cluster,site,os,initiators,addresses
rota-1,crew,Nordkai,linux,${iqn('rota-1')},10.40.1.71/24
rota-2,crew,Nordkai,linux,${iqn('rota_2')},10.40.1.72/24
rota-3,crew,Nordkai,linux,${iqn('rota-3')},10.40.1.71/24
rota-4,crew,Nordkai,mainframe,${iqn('rota-4')},10.40.1.74/24`,
    );
    expect(report).toMatchObject({ taken: 1, refused: 3 });
    expect(report.lines.map((line) => [line.line, line.taken])).toEqual([
      [2, true],
      [3, false],
      [4, false],
      [5, false],
    ]);
    expect(report.lines[1]!.said).toContain('Perhaps - is meant');
    expect(report.lines[2]!.said).toContain('10.40.1.71 belongs to eth0 of rota-1 already');
    expect(report.change!.operations).toHaveLength(1);
    expect(await codeOf(() => importHosts(trabes, 'a,b\n1,2'))).toBe('not-a-host-list');
  });

  test('an exported estate goes into an empty instance and is the same there', async () => {
    const document = exportEstate(trabes.plant);
    expect(await codeOf(() => importEstate(trabes.plant, bodyOf(JSON.stringify(document)), false))).toBe(
      'estate-not-empty',
    );
    const other = openTrabes(path.join(folder, 'empty.db'), 'empty');
    expect(
      await codeOf(() =>
        importEstate(
          other.plant,
          bodyOf(
            '{"trabes":1,"estate":{"site":[{"id":"a","name":"x","purpose":""},{"id":"b","name":"X","purpose":""}]}}',
          ),
          false,
        ),
      ),
    ).toBe('estate-inconsistent');
    expect(await codeOf(() => importEstate(other.plant, bodyOf('{}'), false))).toBe('not-an-estate');
    await importEstate(other.plant, bodyOf(JSON.stringify(document)), false);
    // Secrets do not travel: another key sealed them, and they are written anew.
    const unlike = differences(other.plant.estate, trabes.plant.estate);
    expect(unlike.filter((row) => !/Secret/.test(row))).toEqual([]);
    expect(exportEstate(other.plant)).toEqual(document);
    other.plant.close();
  });

  test('while an estate is written down nobody else writes, and what is broken off leaves nothing', () => {
    const { plant } = openTrabes(path.join(folder, 'coming.db'), 'empty');
    const { estate } = trabes.plant;
    const effects = kinds.flatMap((kind) => [...estate.table(kind).values()].map((row) => created(kind, row as never)));
    const brokenOff = plant.replacing(estate, effects, 'Estate imported');
    brokenOff.next();
    let busy: unknown;
    try {
      plant.commit({ settings: { tray: 'other' } });
    } catch (error) {
      busy = error;
    }
    expect(isBusy(busy)).toBe(true);
    brokenOff.return();
    expect([...plant.store.estate().table('site').values()]).toEqual([]);
    plant.commit({ settings: { tray: 'other' } });
    for (const _ of plant.replacing(estate, effects, 'Estate imported'));
    expect(differences(plant.store.estate(), estate)).toEqual([]);
    plant.close();
  });

  test('an empty instance can be filled once', async () => {
    const other = openTrabes(path.join(folder, 'empty.db'), 'empty');
    await fillWith(other, 'bare');
    expect(other.plant.estate.table('drive').size).toBe(180);
    expect(await codeOf(() => fillWith(other, 'demo'))).toBe('estate-not-empty');
    other.plant.close();
  });

  test('collections are filtered by fields and names, paged, and looked up by name', async () => {
    const view = trabes.plant.estate;
    const page = listCollection(view, 'volume', new URLSearchParams('array=lintel-1&provisioning=thin&limit=2'), 2, 1);
    const thin = [...view.table('volume').values()].filter(
      (one) => view.table('array').get(one.array)!.name === 'lintel-1' && one.provisioning === 'thin',
    );
    expect(page).toMatchObject({ total: thin.length, limit: 2, offset: 1 });
    expect(page.items).toHaveLength(2);
    expect(await codeOf(() => listCollection(view, 'volume', new URLSearchParams('colour=red'), 1, 0))).toBe(
      'filter-unknown',
    );
    expect(oneOfCollection(view, 'volume', ['tickets'])).toMatchObject({
      name: 'tickets',
      held: expect.any(Number) as number,
    });
    expect(oneOfCollection(view, 'drive', ['lintel-1', '0:3'])).toMatchObject({ slot: 3 });
    expect(await codeOf(() => oneOfCollection(view, 'raidGroup', ['rg-1']))).toBe('name-ambiguous');
    expect(oneOfCollection(view, 'raidGroup', ['purlin-1', 'rg-1'])).toMatchObject({ tolerates: 2 });
    expect(await codeOf(() => oneOfCollection(view, 'pool', ['none']))).toBe('not-found');
  });

  test('a form is answered on the estate as the draft would leave it', async () => {
    const answer = await answerForm(
      trabes,
      'mapping.create',
      { host: 'gate-1', array: 'lintel-1', volumes: ['summer-1'] },
      trabes.changes.tray(),
    );
    expect(answer.preview.refusals[0]).toMatchObject({ code: 'shared-unclustered' });
    expect(answer.fields.volumes!.choices!.map((choice) => choice.value)).toContain('summer-2');
    const before = await answerForm(
      trabes,
      'mapping.create',
      { host: 'gate-1', array: 'lintel-1', volumes: ['summer-1'] },
      trabes.changes.tray(),
      0,
    );
    expect(before.preview.refusals[0]).toMatchObject({ code: 'volume-unknown' });
    expect(await codeOf(() => answerForm(trabes, 'nothing', {}, null))).toBe('operation-unknown');
  });

  test('the API description names every operation and every path has an answer', async () => {
    const description = openApi() as {
      paths: Record<string, object>;
      components: { schemas: Record<string, unknown> };
    };
    expect(Object.keys(description.components.schemas)).toEqual(
      expect.arrayContaining(['volume.create', 'mapping.create', 'Problem', 'volume']),
    );
    expect(Object.keys(description.paths)).toEqual(
      expect.arrayContaining(['/changes/{id}/run', '/lab/faults', '/raid-groups']),
    );
  });
});
