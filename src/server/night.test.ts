import Database from 'better-sqlite3';
import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import type { ChangeRow } from '@/core/change/record';
import { lookUp } from '@/core/operation/inquiry';
import { DAY, HOUR, MINUTE, SECOND } from '@/core/units/duration';
import { writeChange } from '@/store/change-rows';
import { slots } from '../../demo/names';
import { Estate } from '@/core/estate/estate';
import { bareHardware } from '../../demo/hardware';
import type { ApproveTerms } from './by-night';
import { openTrabes, type Trabes } from './instance';
import { Problem } from './problem';

const folder = mkdtempSync(path.join(os.tmpdir(), 'trabes-night-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

let count = 0;
function opened(): Trabes & { file: string } {
  const file = path.join(folder, `${count++}.db`);
  const trabes = openTrabes(file, 'empty');
  const effects = bareHardware();
  const estate = new Estate();
  estate.apply(effects);
  trabes.plant.replaceEstate(estate, effects, 'Bare');
  trabes.clock.setSpeed(0);
  return { ...trabes, file };
}

const group = { do: 'raid-group.create', array: 'lintel-1', name: 'rg-1', level: 'raid6', drives: slots(0, 0, 9) };
const pool = { do: 'pool.create', array: 'lintel-1', name: 'quay', raidGroups: ['rg-1'] };
const volume = (name: string) => ({
  do: 'volume.create',
  array: 'lintel-1',
  pool: 'quay',
  name,
  size: '10 GiB',
  count: 1,
});
const terms = (more: Partial<ApproveTerms> = {}): ApproveTerms => ({
  approvedBy: 'M. Okkema',
  second: false,
  startAt: null,
  fromHour: null,
  untilHour: null,
  days: [],
  onFailure: 'undo',
  confirm: [],
  waits: 12 * HOUR,
  mail: 'night desk',
  ...more,
});
const codeOf = async (work: () => Promise<unknown>): Promise<string> => {
  try {
    await work();
  } catch (error) {
    if (Problem.is(error)) return error.code;
    throw error;
  }
  return 'none';
};

async function prepared(of: Trabes, operations: Parameters<Trabes['changes']['prepare']>[1], run: ApproveTerms) {
  const { id } = await of.changes.prepare('By night', operations, 'test');
  await of.changes.night.approve(id, run);
  return { id, row: (): ChangeRow => of.runner.read(id)! };
}

/** A group and a pool are there already. */
async function withPool(of: Trabes): Promise<void> {
  await of.changes.run((await of.changes.prepare('First', [group, pool], 'test')).id);
  of.clock.advance(MINUTE);
}

test('an approved change waits for its window, runs in it, and says so', async () => {
  const of = opened();
  const hour = new Date(of.plant.lab.now).getUTCHours();
  const { id, row } = await prepared(
    of,
    [group, pool],
    terms({ fromHour: (hour + 3) % 24, untilHour: (hour + 5) % 24 }),
  );
  expect(row().state).toBe('approved');
  expect(of.changes.night.calendar()).toContain('SUMMARY:By night');
  expect(await codeOf(() => of.changes.run(id))).toBe('wrong-state');
  of.clock.advance(2 * HOUR);
  expect(row().state).toBe('approved');
  of.clock.advance(2 * HOUR);
  expect(row().state).toBe('done');
  expect(lookUp(of.plant.estate, 'pool', 'quay', lookUp(of.plant.estate, 'array', 'lintel-1')!.id)).toBeDefined();
  expect(of.changes.night.mail()[0]).toMatchObject({ recipient: 'night desk', subject: 'By night is done' });
  of.plant.close();
});

test('where a second person is asked, it begins once somebody else approved the very same plan', async () => {
  const of = opened();
  const { id, row } = await prepared(of, [group, pool], terms({ second: true, startAt: of.plant.lab.now + HOUR }));
  const plan = row().run!.approval.plan;
  const say = (by: string, digest = plan) => codeOf(() => of.changes.night.second(id, { by, plan: digest }));
  expect(of.changes.night.mail()[0]!.subject).toBe('By night waits for a second person');
  of.clock.advance(2 * HOUR);
  expect(row().state).toBe('approved');
  expect(of.changes.night.calendar()).not.toContain('By night');
  expect((await of.changes.view(id)).ahead.map(({ title }) => title)).toEqual([
    expect.stringContaining('rg-1'),
    expect.stringContaining('quay'),
  ]);
  for (const same of ['M. Okkema', '  m.  okkema ', 'M. OKKEMA']) expect(await say(same)).toBe('change-same-person');
  expect(await say('T. Wierda', 'another')).toBe('change-approval-stale');
  expect(row()).toMatchObject({ state: 'approved', run: { secondBy: null } });
  expect(await say('T. Wierda')).toBe('none');
  expect(await say('T. Wierda')).toBe('nobody-asked');
  of.clock.advance(MINUTE);
  expect(row()).toMatchObject({ state: 'done', run: { approvedBy: 'M. Okkema', secondBy: 'T. Wierda' } });
  of.plant.close();
});

test('one that waits is listed among those that are not over, however many are newer', async () => {
  const of = opened();
  const { id, row } = await prepared(of, [group], terms({ second: true }));
  const over: ChangeRow = { ...row(), state: 'done', run: null };
  for (let k = 0; k < 120; k++)
    writeChange(of.plant.store.db, { ...over, id: `chg_over_${k}`, createdReal: over.createdReal + 1 + k });
  expect(of.changes.list()).toHaveLength(100);
  expect(of.changes.list().map((change) => change.id)).not.toContain(id);
  expect(of.changes.list(100, 0, true).map((change) => [change.id, change.operations])).toEqual([[id, 1]]);
  expect([of.changes.count(), of.changes.count(true)]).toEqual([121, 1]);
  expect(of.changes.list(100, 100).at(-1)!.id).toBe(id);
});

test('it begins with the next time of a rhythm, by the clock of a zone', async () => {
  const of = opened();
  const { id } = await of.changes.prepare('Sunday', [group], 'test');
  const approve = (begins: string, zone: string) => of.changes.night.approve(id, { ...terms(), begins, zone });
  expect(await codeOf(() => approve('soon', 'UTC'))).toBe('every-unreadable');
  expect(await codeOf(() => approve('SU 02:00', 'Nordkai'))).toBe('schedule-zone-unknown');
  expect((await approve('SU 02:00', 'Europe/Oslo')).run).toMatchObject({ startAt: Date.UTC(2031, 3, 20) });
  of.plant.close();
});

test('a second person is shown that what was approved is otherwise by now', async () => {
  const of = opened();
  await withPool(of);
  const { id, row } = await prepared(of, [volume('late')], terms({ second: true }));
  const other = [{ do: 'pool.configure', array: 'lintel-1', name: 'quay', notice: 55 }];
  await of.changes.run((await of.changes.prepare('Other', other, 'test')).id);
  of.clock.advance(MINUTE);
  const { plan } = row().run!.approval;
  expect(await codeOf(() => of.changes.night.second(id, { by: 'T. Wierda', plan }))).toBe('change-approval-stale');
  expect(row()).toMatchObject({
    state: 'draft',
    run: null,
    problem: { message: 'Pool quay changed since M. Okkema approved it.' },
  });
  of.plant.close();
});

test('a change that was approved before a second person could be asked for begins as ever', async () => {
  const of = opened();
  const { id } = await prepared(of, [group], terms({ startAt: of.plant.lab.now + HOUR }));
  of.plant.close();
  const db = new Database(of.file);
  db.prepare("UPDATE change SET run = json_remove(run, '$.second', '$.secondBy') WHERE id = ?").run(id);
  db.close();
  const again = openTrabes(of.file, 'empty');
  again.clock.setSpeed(0);
  expect(again.runner.read(id)!.run).toMatchObject({ second: false, secondBy: null });
  again.clock.advance(2 * HOUR);
  expect(again.runner.read(id)!.state).toBe('done');
  again.plant.close();
});

test('a step that no longer fits its window waits for the next', async () => {
  const of = opened();
  const hour = new Date(of.plant.lab.now).getUTCHours();
  const midnight = Math.floor(of.plant.lab.now / DAY) * DAY;
  const closes = midnight + ((hour + 2) % 24) * HOUR + (hour >= 22 ? DAY : 0);
  const { id, row } = await prepared(
    of,
    [group, pool, volume('a')],
    terms({ startAt: closes - 7 * SECOND, fromHour: (hour + 1) % 24, untilHour: (hour + 2) % 24 }),
  );
  of.clock.advance(closes + MINUTE - of.plant.lab.now);
  expect(row()).toMatchObject({ state: 'paused', run: { pause: { why: 'window', until: closes + 23 * HOUR } } });
  const done = (await of.changes.view(id)).steps.filter(({ state }) => state === 'done').length;
  expect(done).toBeGreaterThan(0);
  expect(done).toBeLessThan(3);
  of.clock.advance(DAY);
  expect(row().state).toBe('done');
  of.plant.close();
});

test('what was approved is what runs: where a thing changed since, it goes back to be looked at', async () => {
  const of = opened();
  await withPool(of);
  const { row } = await prepared(of, [volume('late')], terms({ startAt: of.plant.lab.now + HOUR }));
  const other = await of.changes.prepare(
    'Other',
    [{ do: 'pool.configure', array: 'lintel-1', name: 'quay', notice: 55 }],
    'test',
  );
  await of.changes.run(other.id);
  of.clock.advance(2 * HOUR);
  expect(row()).toMatchObject({ state: 'draft', run: null, problem: { code: 'change-approval-stale' } });
  expect(row().problem!.message).toBe('Pool quay changed since M. Okkema approved it.');
  expect(of.changes.night.mail()[0]!.subject).toBe('By night did not begin');
  of.plant.close();
});

test('hosts that write, jobs and time make no approval stale', async () => {
  const of = opened();
  const first = await of.changes.prepare('First', [group, pool, volume('a')], 'test');
  await of.changes.run(first.id);
  of.clock.advance(MINUTE);
  const { row } = await prepared(of, [volume('late')], terms({ startAt: of.plant.lab.now + 2 * DAY }));
  of.clock.advance(3 * DAY);
  expect(row().state).toBe('done');
  of.plant.close();
});

test('a person is asked at the marked step with what comes next; yes goes on, and only for what was seen', async () => {
  const of = opened();
  const { id, row } = await prepared(of, [group, pool, volume('asked')], terms({ confirm: [2] }));
  of.clock.advance(10 * MINUTE);
  expect(row()).toMatchObject({ state: 'paused', run: { pause: { why: 'person', step: 2 } } });
  expect(of.changes.night.mail()[0]!.subject).toBe('By night waits for you');
  const { ahead } = await of.changes.view(id);
  expect(ahead.map(({ title }) => title)).toEqual([expect.stringContaining('asked')]);
  expect(
    await codeOf(() => of.changes.night.answer(id, { by: 'T. Wierda', yes: true, seen: ['something else'] })),
  ).toBe('change-approval-stale');
  await of.changes.night.answer(id, { by: 'T. Wierda', yes: true, seen: ahead.map(({ title }) => title) });
  of.clock.advance(MINUTE);
  expect(row().state).toBe('done');
  of.plant.close();
});

test.each([
  [
    'no',
    async (of: Trabes, id: string) =>
      void (await of.changes.night.answer(id, { by: 'T. Wierda', yes: false, seen: [] })),
  ],
  ['no answer', (of: Trabes) => void of.clock.advance(DAY)],
])('%s takes back what was done', async (_, say) => {
  const of = opened();
  const { id, row } = await prepared(of, [group, pool, volume('asked')], terms({ confirm: [2] }));
  of.clock.advance(2 * HOUR);
  expect(row().state).toBe('paused');
  await say(of, id);
  of.clock.advance(10 * MINUTE);
  expect(row().state).toBe('undone');
  expect(of.plant.estate.table('pool').size).toBe(0);
  expect(of.plant.estate.table('raidGroup').size).toBe(0);
  expect(of.changes.night.mail()[0]!.subject).toBe('By night was taken back');
  of.plant.close();
});

test('a step that fails leaves nothing behind, or stops where it stands, as was said', async () => {
  for (const [onFailure, state, groups] of [
    ['undo', 'undone', 0],
    ['stop', 'stopped', 1],
  ] as const) {
    const of = opened();
    const { row } = await prepared(of, [group, pool], terms({ onFailure, confirm: [1] }));
    of.clock.advance(10 * MINUTE);
    const { id, run } = row();
    // Somebody takes the group while the person is asked.
    const rg = lookUp(of.plant.estate, 'raidGroup', 'rg-1', lookUp(of.plant.estate, 'array', 'lintel-1')!.id)!;
    expect(run!.pause!.why).toBe('person');
    const other = await of.changes.prepare('Other', [{ ...pool, name: 'mine' }], 'test');
    await of.changes.run(other.id);
    of.clock.advance(MINUTE);
    const { ahead } = await of.changes.view(id);
    expect(ahead.some(({ refusal }) => refusal !== null)).toBe(true);
    expect(
      await codeOf(() =>
        of.changes.night.answer(id, { by: 'T. Wierda', yes: true, seen: ahead.map(({ title }) => title) }),
      ),
    ).not.toBe('none');
    await of.changes.undo(other.id);
    of.clock.advance(MINUTE);
    await of.changes.night.answer(id, { by: 'T. Wierda', yes: false, seen: [] });
    of.clock.advance(10 * MINUTE);
    expect(row().state).toBe(state);
    expect(of.plant.estate.table('raidGroup').size).toBe(groups);
    expect(rg.name).toBe('rg-1');
    of.plant.close();
  }
});

test('what cannot all be taken back needs hands, and says which steps', async () => {
  const of = opened();
  const { id, row } = await prepared(of, [group, pool], terms({ confirm: [1] }));
  of.clock.advance(10 * MINUTE);
  // The group carries somebody else's pool by the time it would have to go.
  const other = await of.changes.prepare('Other', [{ ...pool, name: 'mine' }], 'test');
  await of.changes.run(other.id);
  of.clock.advance(MINUTE);
  await of.changes.night.answer(id, { by: 'T. Wierda', yes: false, seen: [] });
  of.clock.advance(10 * MINUTE);
  expect(row().state).toBe('stuck');
  expect(row().run!.needsUndo).toEqual([expect.stringContaining('rg-1')]);
  expect(of.changes.night.mail()[0]!.subject).toBe('By night needs hands');
  await of.changes.undo(other.id);
  of.clock.advance(MINUTE);
  await of.changes.undo(id);
  of.clock.advance(MINUTE);
  expect(row().state).toBe('undone');
  of.plant.close();
});

test('a recipe is laid out in steps when it is approved, and those steps run', async () => {
  const of = opened();
  await withPool(of);
  const host = {
    do: 'host.create',
    name: 'gate-1',
    os: 'linux',
    site: 'Nordkai',
    initiators: ['iqn.2031-04.example.skarholt:gate-1'],
    interfaces: [{ name: 'eth0', addresses: ['10.40.1.51/24'] }],
  };
  // As it is prepared nobody knows the host, so that the recipe stays whole.
  const { id } = await of.changes.prepare(
    'Give',
    [{ do: 'storage.give', host: 'gate-1', size: '10 GiB', mount: false }],
    'test',
  );
  const other = await of.changes.prepare('Host', [host], 'test');
  await of.changes.run(other.id);
  of.clock.advance(MINUTE);
  expect(await codeOf(() => of.changes.night.approve(id, terms({ confirm: [40] })))).toBe('confirm-unknown');
  await of.changes.night.approve(id, terms({ startAt: of.plant.lab.now + HOUR }));
  of.clock.advance(2 * HOUR);
  expect(of.runner.read(id)).toMatchObject({ state: 'done', problem: null });
  expect(of.plant.estate.table('mapping').size).toBe(1);
  of.plant.close();
});

test('no window that is long enough, half a window and an approval that was withdrawn', async () => {
  const of = opened();
  const { id } = await of.changes.prepare('Long', [group, pool], 'test');
  expect(await codeOf(() => of.changes.night.approve(id, terms({ fromHour: 3 })))).toBe('change-window-half');
  await of.changes.night.approve(id, terms({ startAt: of.plant.lab.now + HOUR }));
  await of.changes.night.withdraw(id);
  of.clock.advance(2 * HOUR);
  expect(of.runner.read(id)).toMatchObject({ state: 'draft', run: null });
  of.plant.close();
});

test('a server that stops in the middle of a run goes on with it by itself', async () => {
  const of = opened();
  const { id } = await prepared(of, [group, pool, volume('a'), volume('b')], terms());
  of.clock.advance(3 * SECOND);
  of.plant.close();
  const again = openTrabes(of.file, 'empty');
  again.clock.setSpeed(0);
  expect(['paused', 'done']).toContain(again.runner.read(id)!.state);
  again.clock.advance(10 * MINUTE);
  expect(again.runner.read(id)!.state).toBe('done');
  again.plant.close();
});

test('what fails in one of them neither stops the clock nor is forgotten', async () => {
  const of = opened();
  const { row } = await prepared(of, [group], terms({ startAt: of.plant.lab.now + MINUTE }));
  const spy = jest.spyOn(of.runner, 'start').mockImplementation(() => {
    throw new Error('Broken.');
  });
  of.clock.advance(10 * MINUTE);
  expect(row().state).toBe('approved');
  expect(of.plant.troubles.list().some(({ message }) => message.includes('Broken'))).toBe(true);
  spy.mockRestore();
  of.clock.advance(2 * HOUR);
  expect(row().state).toBe('done');
  expect(of.plant.troubles.list()).toEqual([]);
  of.plant.close();
});
