import { once } from 'node:events';
import { rmSync } from 'node:fs';
import { brokenRules } from '@/core/rules/book';
import { lookUp } from '@/core/operation/inquiry';
import { HOUR } from '@/core/units/duration';
import { sentBy } from '@/core/replicate/carry';
import { decisionOf } from '@/core/stretch/decide';
import { openTrabes } from './instance';
import { ownProcess } from './own-process.fixture';
import { copyPristine, makePristine } from './pristine.fixture';

const folders: string[] = [];
beforeAll(makePristine, 180_000);
afterAll(() => {
  for (const folder of folders) rmSync(folder, { recursive: true, force: true });
});

/** Lets a scene go on for some moments of half a second, and kills it. */
async function killed(scene: string, moments: number): Promise<string> {
  const { folder, file } = copyPristine();
  folders.push(folder);
  const child = ownProcess('src/server/elsewhere-crash.fixture.ts', file, scene);
  let seen = 0;
  child.stdout.on('data', (chunk: Buffer) => {
    seen += chunk.toString().trim().split('\n').length;
    if (seen >= moments) child.kill('SIGKILL');
  });
  await once(child, 'exit');
  return file;
}

/** The database as the kill left it, an hour later; never do hosts write at both sides. */
function reopened(db: string, name: string) {
  const trabes = openTrabes(db, 'demo');
  trabes.clock.setSpeed(0);
  const row = () => lookUp(trabes.plant.estate, 'replication', name)!;
  const before = row();
  expect(brokenRules(trabes.plant.estate)).toEqual([]);
  expect([before.accessP, before.accessS]).not.toEqual(['yes', 'yes']);
  return { trabes, before, row };
}

test.each([1, 6, 20])(
  'killed in a switch after %d moments, one side serves, and it can be carried on',
  async (moments) => {
    const { trabes, before, row } = reopened(await killed('switch', moments), 'Accounts');
    const [change] = trabes.changes.list();
    expect(['stopped', 'done']).toContain(change!.state);
    expect(before.source).toBe(change!.state === 'done' ? 'S' : 'P');
    if (change!.state === 'stopped') await trabes.changes.retry(change!.id);
    trabes.clock.advance(HOUR);
    expect(row()).toMatchObject({ source: 'S', accessP: 'no', accessS: 'yes' });
    expect(brokenRules(trabes.plant.estate)).toEqual([]);
    trabes.plant.close();
  },
  180_000,
);

test.each([2, 30, 80])(
  'killed in a failover after %d moments',
  async (moments) => {
    const { trabes, before, row } = reopened(await killed('failover', moments), 'Accounts');
    const [change] = trabes.changes.list();
    expect(before.state).toBe(change!.state === 'done' ? 'failed-over' : 'broken');
    if (change!.state === 'stopped') await trabes.changes.retry(change!.id);
    trabes.clock.advance(HOUR);
    expect(row()).toMatchObject({ state: 'failed-over', accessS: 'yes' });
    expect(row().accessP).not.toBe('yes');
    trabes.plant.close();
  },
  180_000,
);

test('killed in a first copy, it goes on from what was sent', async () => {
  const { trabes, before, row } = reopened(await killed('first copy', 12), 'Berth planning');
  expect(before).toMatchObject({ state: 'copying', pit: null });
  trabes.clock.advance(HOUR);
  const after = row();
  const sent = sentBy(before.carrying!, trabes.plant.lab.now - HOUR);
  expect(sent).toBeGreaterThan(0);
  expect(after.pit !== null || sentBy(after.carrying!, trabes.plant.lab.now) > sent).toBe(true);
  expect(after.carrying?.pit ?? before.carrying!.pit).toBe(before.carrying!.pit);
  trabes.plant.close();
}, 180_000);

test.each([1, 7, 11])(
  'killed %d moments after a site is lost, the other goes on alone all the same',
  async (moments) => {
    const { trabes, row } = reopened(await killed('parting', moments), 'Virtual deck');
    trabes.clock.advance(60_000);
    expect(decisionOf(row().stretch!.pair)).toMatchObject({ A: 'DOWN', B: 'SOLO', serving: ['B'] });
    expect(row()).toMatchObject({ source: 'S', state: 'broken' });
    expect(brokenRules(trabes.plant.estate)).toEqual([]);
    trabes.plant.close();
  },
  180_000,
);

describe('killed in a move', () => {
  /** What hosts hold in a volume, and who answers for it: one array, whichever. */
  function opened(db: string, name: string) {
    const trabes = openTrabes(db, 'demo');
    trabes.clock.setSpeed(0);
    const { estate } = trabes.plant;
    const move = () => lookUp(estate, 'move', name)!;
    const volume = () => estate.table('volume').get(move().volume)!;
    const device = () => estate.table('hostDevice').by('volume', move().volume)[0]!;
    expect(brokenRules(estate)).toEqual([]);
    const answering = () => [...estate.table('volume').values()].filter(({ naa }) => naa === device().naa);
    expect(answering().map(({ id }) => id)).toEqual([volume().id]);
    return { trabes, move, volume, device };
  }
  const settle = async (trabes: ReturnType<typeof openTrabes>) => {
    const [change] = trabes.changes.list();
    if (change?.state === 'stopped') await trabes.changes.retry(change.id);
    trabes.clock.advance(HOUR / 12);
  };
  const first = () => {
    const { folder, file } = copyPristine();
    folders.push(folder);
    const { trabes, volume, device } = opened(file, 'stowage');
    const held = { id: volume().id, written: volume().written, used: device().used, mountPoint: device().mountPoint };
    trabes.plant.close();
    return held;
  };

  test.each([1, 2, 3, 5])(
    'at the cut, after %d moments: it is cut over or stays, whole either way',
    async (moments) => {
      const held = first();
      const { trabes, move, volume, device } = opened(await killed('cut', moments), 'stowage');
      expect(['waiting', 'cutting', 'proving']).toContain(move().state);
      await settle(trabes);
      expect(move().state).toBe('proving');
      expect(volume().id).toBe(held.id);
      expect(volume().written).toBeGreaterThanOrEqual(held.written);
      expect(device()).toMatchObject({ mountPoint: held.mountPoint, readOnly: false });
      expect(device().used).toBeGreaterThanOrEqual(held.used);
      expect(brokenRules(trabes.plant.estate)).toEqual([]);
      trabes.plant.close();
    },
    180_000,
  );

  test.each([
    ['way back', 'waiting'],
    ['clean up', 'done'],
  ])(
    'on the %s',
    async (scene, state) => {
      const { trabes, move } = opened(await killed(scene, 3), 'manifests');
      await settle(trabes);
      expect(move().state).toBe(state);
      expect(brokenRules(trabes.plant.estate)).toEqual([]);
      trabes.plant.close();
    },
    180_000,
  );

  test('in a round, it goes on from what was sent', async () => {
    const { trabes, move } = opened(await killed('first copy', 12), 'charts');
    const before = move();
    expect(before.state).toBe('copying');
    const sent = sentBy(before.round!, trabes.plant.lab.now);
    expect(sent).toBeGreaterThan(0);
    trabes.clock.advance(HOUR / 12);
    expect(sentBy(move().round!, trabes.plant.lab.now)).toBeGreaterThan(sent);
    expect(move().round!.pit).toBe(before.round!.pit);
    trabes.plant.close();
  }, 180_000);
});

test.each([2, 4, 7])(
  'killed %d moments into a change that runs by itself, it goes on by itself',
  async (moments) => {
    const trabes = openTrabes(await killed('by night', moments), 'demo');
    trabes.clock.setSpeed(0);
    const { id } = trabes.changes.list()[0]!;
    expect(brokenRules(trabes.plant.estate)).toEqual([]);
    trabes.clock.advance(HOUR / 6);
    expect(trabes.runner.read(id)).toMatchObject({ state: 'done', problem: null });
    for (const letter of ['a', 'b', 'c', 'd'])
      expect(
        [...trabes.plant.estate.table('volume').values()].filter(({ name }) => name === `night-${letter}`),
      ).toHaveLength(1);
    trabes.plant.close();
  },
  180_000,
);

test.each([3, 12, 30])(
  'killed %d moments into bringing an outside LUN in, it goes on; its host has one way to the data, and no page is lost',
  async (moments) => {
    const trabes = openTrabes(await killed('bring in', moments), 'demo');
    trabes.clock.setSpeed(0);
    const { id } = trabes.changes.list()[0]!;
    const volumes = () => [...trabes.plant.estate.table('volume').values()].filter(({ name }) => name === 'chronicle');
    const shown = () => volumes().filter((row) => trabes.plant.estate.table('mapping').countBy('volume', row.id) > 0);
    expect(brokenRules(trabes.plant.estate)).toEqual([]);
    expect(shown().length).toBeLessThan(2);
    if (trabes.runner.read(id)?.state === 'stopped') await trabes.changes.retry(id);
    trabes.clock.advance(HOUR / 6);
    expect(trabes.runner.read(id)).toMatchObject({ state: 'done' });
    expect(volumes()).toHaveLength(2);
    expect(shown()).toHaveLength(1);
    expect(new Set(volumes().map(({ written }) => written)).size).toBe(1);
    expect(trabes.plant.estate.table('move').by('going', shown()[0]!.id)).toHaveLength(1);
    expect(brokenRules(trabes.plant.estate)).toEqual([]);
    trabes.plant.close();
  },
  180_000,
);
