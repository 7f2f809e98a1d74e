import { named, snapshot as textOf } from '../../../demo/workbench';
import { stage, type Stage } from '../../../demo/protected';
import { planUndo } from '../change/undo';
import { planChange } from '../change/plan';
import { basis } from '../../../demo/workbench';
import { areaBytes, copiesOf } from '../copies/area';
import { deleteFile, writeFile } from '../attach/files';
import { changed, compacted } from '../estate/effects';
import { newIds } from '../estate/new-ids';
import type { Snapshot } from '../estate/entities';
import { brokenRules } from '../rules/book';
import { brokenSums, poolWaterfall } from '../space/waterfall';
import { MIB } from '../units/bytes';
import { DAY, HOUR, MINUTE } from '../units/duration';
import { proveDue } from './prove-due';
import { ofWorkload, pointsOf } from './subject';

const copyNow = { do: 'snapshot.create', workload: 'Ticketing' };
const halfHourly = {
  do: 'plan.create',
  name: 'Harbour day',
  zone: 'Europe/Oslo',
  rpo: '30 min',
  every: '30 min',
  keepDays: 1,
  quiesce: true,
};
const attach = { do: 'plan.attach', plan: 'Harbour day', workloads: ['Ticketing'] };

const points = ({ estate }: Stage) => pointsOf(estate, ofWorkload(estate, named(estate, 'workload', 'Ticketing')));
const tickets = ({ estate }: Stage) => named(estate, 'volume', 'tickets-1');
const device = ({ estate }: Stage) => [...estate.table('hostDevice').values()].find((row) => row.mountPoint !== null)!;
const set = ({ estate }: Stage, copies: Snapshot[], fields: Partial<Snapshot>) =>
  estate.apply(copies.map((copy) => changed('snapshot', copy, fields)));

function whole({ estate }: Stage): void {
  expect(brokenRules(estate)).toEqual([]);
  for (const pool of estate.table('pool').values()) expect(brokenSums(estate, poolWaterfall(estate, pool))).toEqual([]);
}

const unmount = { do: 'host-device.unmount', host: 'gate-1', device: 'tickets-1' };
const newId = newIds('protect operations');
let step = 0;
const file = (at: Stage, path: string, size: number | null) => {
  const done =
    size === null
      ? deleteFile(at.estate, device(at), path, at.now, newId)
      : writeFile(at.estate, device(at), { path, size }, at.now, newIds(`file ${step++}`));
  if (!done.ok) throw new Error(done.refusal.message);
  at.estate.apply(compacted(done.effects));
};

describe('a copy by hand', () => {
  test('is cut of all volumes at one instant, paused where agents confirm', () => {
    const at = stage();
    at.run({ ...copyNow, quiesce: true });
    const [point] = points(at);
    expect(point!.copies.map((copy) => [copy.at, copy.label, copy.cut])).toEqual([
      [at.now, 'application', point!.cut],
      [at.now, 'application', point!.cut],
    ]);
    whole(at);
  });

  test.each([
    ['absent', 'crash', 'did not pause'],
    ['slow', 'crash', 'did not pause'],
    ['silent', 'crash', 'may still be paused'],
    ['none', 'crash', 'no agent'],
  ] as const)('with an agent that is %s it is never told to be better than was confirmed', (agent, label, why) => {
    const at = stage();
    at.estate.apply([changed('host', named(at.estate, 'host', 'gate-1'), { agent })]);
    at.run({ ...copyNow, quiesce: true });
    expect(points(at)[0]!.copies[0]).toMatchObject({ label });
    expect(points(at)[0]!.copies[0]!.reason).toContain(why);
    expect(at.codes({ ...copyNow, quiesce: true, onTimeout: 'fail' })).toEqual(
      agent === 'silent' ? [] : ['not-paused'],
    );
  });

  test('names are free once, refusals name what is wrong', () => {
    const at = stage({ ...copyNow, name: 'before-fares' });
    expect(at.codes({ ...copyNow, name: 'before-fares' })).toEqual(['name-taken']);
    expect(at.codes({ ...copyNow, name: 'no good' })).toEqual(['name-bad-char']);
    expect(at.codes({ ...copyNow, workload: 'Nothing' })).toEqual(['workload-unknown']);
    expect(at.codes({ do: 'snapshot.delete', workload: 'Ticketing', copies: ['gone'] })).toEqual([
      'restore-snapshot-missing',
    ]);
  });

  test('taken back, it is as if it had never been, though hosts wrote on meanwhile', () => {
    const at = stage();
    const plan = planChange(at.estate, [copyNow], { ...basis, now: at.now });
    for (const one of plan.steps) at.estate.apply(one.effects);
    at.pass(2 * HOUR);
    expect(areaBytes(at.estate, tickets(at))).toBeGreaterThan(0);
    const undo = planUndo(at.estate, plan.steps);
    expect(undo.refusals).toEqual([]);
    for (const effects of undo.effects) at.estate.apply(effects);
    expect(at.estate.table('snapshot').size).toBe(0);
    expect(areaBytes(at.estate, tickets(at))).toBe(0);
    whole(at);
  });

  test('taken back after the copy before it was deleted, the volume stands on nothing that is gone', () => {
    const at = stage({ ...copyNow, name: 'before' });
    const plan = planChange(at.estate, [copyNow], { ...basis, now: at.now });
    for (const one of plan.steps) at.estate.apply(one.effects);
    at.run({ do: 'snapshot.delete', workload: 'Ticketing', copies: ['before'] });
    const undo = planUndo(at.estate, plan.steps);
    expect(undo.refusals).toEqual([]);
    for (const effects of undo.effects) at.estate.apply(effects);
    expect(at.estate.table('snapshot').size).toBe(0);
    whole(at);
  });

  test('is not taken back once somebody holds it', () => {
    const at = stage();
    const plan = planChange(at.estate, [{ ...copyNow, name: 'one' }], { ...basis, now: at.now });
    for (const one of plan.steps) at.estate.apply(one.effects);
    at.run({ do: 'snapshot.configure', workload: 'Ticketing', copies: ['one'], hold: 'audit' });
    expect(planUndo(at.estate, plan.steps).refusals[0]!.code).toBe('snapshot-held');
  });
});

describe('a lock', () => {
  const lock = (until: string, more = {}) => ({
    do: 'snapshot.lock',
    workload: 'Ticketing',
    copies: ['one'],
    until,
    ...more,
  });

  test('is only lengthened, and keeps copy, volume and pool', () => {
    const at = stage({ ...copyNow, name: 'one' }, lock('10 d'));
    expect(at.codes(lock('9 d'))).toEqual(expect.arrayContaining(['lock-cannot-shorten']));
    expect(at.codes(lock('none'))).toEqual(expect.arrayContaining(['lock-cannot-shorten']));
    expect(at.codes(lock('11 d'))).toEqual([]);
    expect(at.codes({ do: 'snapshot.delete', workload: 'Ticketing', copies: ['one'] })).toEqual(['snapshot-locked']);
    expect(at.codes({ do: 'volume.delete', array: 'lintel-1', volumes: ['tickets-2'] })).toContain('snapshot-locked');
    at.pass(10 * DAY);
    expect(at.codes({ do: 'snapshot.delete', workload: 'Ticketing', copies: ['one'] })).toEqual([]);
  });

  test('of two people is shortened by two different ones', () => {
    const at = stage({ ...copyNow, name: 'one' }, lock('10 d', { mode: 'dual' }));
    expect(at.codes(lock('none', { mode: 'dual', approvers: ['ida', 'Ida '] }))).toContain('lock-needs-two-people');
    expect(at.codes(lock('none', { mode: 'dual', approvers: ['ida', 'tor'] }))).toEqual([]);
  });

  test('that would outlast the room is refused with the day', () => {
    const at = stage({ ...copyNow, name: 'one' });
    at.estate.apply([changed('hostDevice', device(at), { writeRate: 400 * MIB })]);
    expect(at.codes(lock('30 d'))).toEqual(['lock-outlasts-room']);
  });
});

describe('a plan', () => {
  test('copies when it is due, keeps what it says, and tells its runs', () => {
    const at = stage(halfHourly, attach);
    at.pass(2 * DAY);
    expect(points(at)).toHaveLength(49);
    expect(points(at).every(({ copies }) => copies.every((copy) => copy.label === 'application'))).toBe(true);
    const runs = [...at.estate.table('planRun').values()];
    expect(runs.length).toBeLessThanOrEqual(20);
    expect(runs.every((run) => run.result === 'done')).toBe(true);
    whole(at);
  });

  test('of several schedules makes one copy where they meet; any of them keeps it', () => {
    const at = stage(halfHourly, attach, {
      do: 'plan.schedule',
      plan: 'Harbour day',
      schedule: 'nightly',
      every: 'day 04:00',
      daily: 5,
      lockDays: 2,
    });
    at.pass(4 * DAY);
    const nightly = points(at).filter(({ copies }) => copies[0]!.schedules.includes('nightly'));
    expect(nightly).toHaveLength(4);
    expect(nightly.at(-1)!.copies[0]!.schedules.sort()).toEqual(['30 min', 'nightly']);
    expect(nightly.filter(({ copies }) => copies[0]!.lockedUntil! > at.now)).toHaveLength(2);
    whole(at);
  });

  test('keeps what is locked or held past its time, and goes on deleting the others', () => {
    const at = stage(halfHourly, attach);
    at.pass(HOUR);
    set(at, points(at)[0]!.copies, { hold: 'audit' });
    at.pass(2 * DAY);
    expect(points(at)[0]!.copies[0]!.hold).toBe('audit');
    expect(points(at)).toHaveLength(50);
    const last = [...at.estate.table('planRun').values()].sort((a, b) => b.at - a.at)[0]!;
    expect(last).toMatchObject({ deleted: 1, heldBack: 1 });
  });

  test('misses runs while its array is silent and makes up for the latest', () => {
    const at = stage(halfHourly, attach);
    at.pass(HOUR);
    const controllers = [...at.estate.table('controller').values()].filter((row) => row.array === tickets(at).array);
    at.estate.apply(controllers.map((row) => changed('controller', row, { state: 'down' })));
    at.pass(3 * HOUR);
    expect(points(at)).toHaveLength(2);
    at.estate.apply(
      controllers.map((row) => changed('controller', at.estate.table('controller').get(row.id)!, { state: 'up' })),
    );
    at.pass(10 * MINUTE);
    const runs = [...at.estate.table('planRun').values()].sort((a, b) => a.at - b.at);
    expect(runs.filter((run) => run.result === 'missed')).toHaveLength(6);
    expect(runs.at(-1)).toMatchObject({ result: 'done', dueAt: at.now - 10 * MINUTE });
    expect(points(at)).toHaveLength(3);
  });

  test('paused makes none; changed, it says what would go', () => {
    const at = stage(halfHourly, attach);
    at.pass(5 * HOUR);
    at.run({ do: 'plan.configure', plan: 'Harbour day', paused: true });
    at.pass(5 * HOUR);
    expect(points(at)).toHaveLength(10);
    const shorter = { do: 'plan.schedule', plan: 'Harbour day', schedule: '30 min', keepDays: 0.25 };
    const { steps } = planChange(at.estate, [shorter], { ...basis, now: at.now });
    expect(steps[0]!.notes.join(' ')).toContain('would delete 7 copies');
  });

  test.each([
    [{ ...halfHourly, every: 'FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30' }, ['rrule-never-fires']],
    [{ ...halfHourly, every: 'FREQ=DAILY;COUNT=2;UNTIL=20310501T000000Z' }, ['rrule-count-and-until']],
    [{ ...halfHourly, zone: 'Europe/Atlantis' }, ['schedule-zone-unknown']],
    [{ ...halfHourly, every: 'sometimes' }, ['every-unreadable']],
    [{ ...halfHourly, rpo: 'soon' }, ['span-unreadable']],
    [{ ...halfHourly, pattern: '{nobody}' }, ['pattern-part-unknown']],
    [{ do: 'plan.attach', plan: 'None such', workloads: ['Ticketing'] }, ['plan-unknown']],
    [{ do: 'plan.run', workload: 'Ticketing' }, ['no-plan']],
  ])('refuses %j', (operation, codes) => {
    expect(stage().codes(operation)).toEqual(codes);
  });

  test('that is in use does not go; one that is free leaves its copies to whoever deletes them', () => {
    const at = stage(halfHourly, attach);
    at.pass(HOUR);
    expect(at.codes({ do: 'plan.delete', plan: 'Harbour day' })).toEqual(['plan-in-use']);
    at.run({ do: 'plan.attach', plan: 'none', workloads: ['Ticketing'] }, { do: 'plan.delete', plan: 'Harbour day' });
    expect(points(at)).toHaveLength(2);
    expect(at.estate.table('planRun').size).toBe(0);
    whole(at);
  });

  test('a run by hand copies as the plan does', () => {
    const at = stage(halfHourly, attach);
    at.run({ do: 'plan.run', workload: 'Ticketing' });
    expect(points(at)[0]!.copies[0]).toMatchObject({ schedules: ['30 min'], label: 'application', madeBy: 'by hand' });
  });
});

describe('going back', () => {
  const back = { do: 'snapshot.restore', workload: 'Ticketing', copy: 'one' };

  test('waits for its hosts, brings the files of that moment, and can be gone back on', () => {
    const at = stage();
    file(at, 'fares.db', 100 * MIB);
    at.run({ ...copyNow, name: 'one' });
    at.pass(HOUR);
    file(at, 'fares.db', null);
    file(at, 'gates.conf', MIB);
    expect(at.codes(back)).toEqual(['restore-hosts-active']);
    at.run(unmount, back);
    expect(tickets(at).files.map((one) => one.path)).toEqual(['fares.db']);
    whole(at);
    const safety = points(at).at(-1)!;
    expect(safety.name).toMatch(/^before-/);
    at.run({ ...back, copy: safety.name });
    expect(tickets(at).files.map((one) => one.path)).toEqual(['gates.conf']);
    whole(at);
  });

  test('without a safety copy keeps nothing of what was written since', () => {
    const at = stage({ ...copyNow, name: 'one' }, unmount);
    at.run({ ...back, safety: false });
    expect(points(at)).toHaveLength(1);
    expect(at.codes({ ...back, safety: true })).toEqual([]);
  });

  test('to a copy that reaches beyond the volume is refused with the size that would do', () => {
    const at = stage({ ...copyNow, name: 'one' }, unmount);
    at.estate.apply([changed('snapshot', points(at)[0]!.copies[0]!, { written: 2 ** 40, size: 2 ** 40 })]);
    expect(at.codes(back)).toContain('restore-size-differs');
  });
});

describe('clones and views', () => {
  const clone = { do: 'snapshot.clone', array: 'lintel-1', volume: 'tickets-1', copy: 'one', name: 'trial', count: 3 };

  test('take no room, share what they show, and keep their copy from going', () => {
    const at = stage({ ...copyNow, name: 'one' });
    const before = areaBytes(at.estate, tickets(at));
    at.run(clone);
    expect(areaBytes(at.estate, tickets(at))).toBe(before);
    expect(at.codes({ do: 'snapshot.delete', workload: 'Ticketing', copies: ['one'] })).toEqual(['snapshot-held']);
    expect(at.codes({ do: 'volume.delete', array: 'lintel-1', volumes: ['tickets-1'] })).toContain('base-has-clones');
    expect(at.codes({ do: 'volume.convert', array: 'lintel-1', volumes: ['trial-1'], to: 'thick' })).toContain(
      'clone-shares',
    );
    expect(at.codes({ ...clone, name: 'tickets-2', count: 1 })).toEqual(['name-taken']);
    const names = new Set([...at.estate.table('volume').values()].map((row) => row.naa));
    expect(names.size).toBe(at.estate.table('volume').size);
    whole(at);
    at.run({ do: 'volume.detach', array: 'lintel-1', volumes: ['trial-1'] });
    expect(named(at.estate, 'volume', 'trial-1')).toMatchObject({ origin: null, written: tickets(at).written });
    at.run({
      do: 'volume.delete',
      array: 'lintel-1',
      volumes: ['trial-2', 'trial-3'],
      confirm: ['trial-2', 'trial-3'],
      keepDays: 0,
    });
    at.run({ do: 'snapshot.delete', workload: 'Ticketing', copies: ['one'] });
    whole(at);
  });

  test('of what stands there now a base is cut first, which stays while they rest on it', () => {
    const at = stage();
    at.run({ do: 'snapshot.clone', array: 'lintel-1', volume: 'tickets-1', name: 'desk', count: 2 });
    const [base] = copiesOf(at.estate, tickets(at).id);
    expect(base!.name).toMatch(/^base-/);
    expect(named(at.estate, 'volume', 'desk-2')).toMatchObject({ base: base!.id, origin: tickets(at).id });
    expect(at.codes({ do: 'snapshot.delete', array: 'lintel-1', volume: 'tickets-1', copies: [base!.name] })).toEqual([
      'snapshot-held',
    ]);
    whole(at);
  });

  test('a clone takes the place of its origin where nothing is copied, and lets it go', () => {
    const at = stage({ ...copyNow, name: 'zero' });
    at.pass(DAY);
    at.run({ ...copyNow, name: 'one' }, clone, { ...copyNow, name: 'two' });
    at.pass(DAY);
    const held = () => {
      const { occupancy } = at.estate;
      return [...at.estate.table('raidGroup').values()].reduce((sum, group) => sum + occupancy.used(group.id), 0);
    };
    const places = () => new Set([...at.estate.table('extent').values()].map((run) => run.raidGroup));
    const [before, lay] = [held(), places()];
    at.run({ do: 'volume.promote', array: 'lintel-1', volume: 'trial-2' });
    const trial = named(at.estate, 'volume', 'trial-2');
    expect(trial).toMatchObject({ origin: null });
    expect(tickets(at).origin).toBe(trial.id);
    expect(named(at.estate, 'volume', 'trial-1').origin).toBe(trial.id);
    // Rounding to whole extents may move one.
    expect(Math.abs(held() - before)).toBeLessThanOrEqual(1);
    expect(places()).toEqual(lay);
    expect(copiesOf(at.estate, trial.id).map(({ name }) => name)).toEqual(['zero', 'one']);
    expect(copiesOf(at.estate, tickets(at).id).map(({ name }) => name)).toEqual(['two']);
    whole(at);
    at.run({ do: 'snapshot.delete', array: 'lintel-1', volume: 'tickets-1', copies: ['two'] });
    at.run(
      unmount,
      { do: 'mapping.delete', host: 'gate-1', array: 'lintel-1', volumes: ['tickets-1'] },
      { do: 'host.rescan', host: 'gate-1' },
      { do: 'volume.delete', array: 'lintel-1', volumes: ['tickets-1'], confirm: ['tickets-1'], keepDays: 0 },
    );
    expect(named(at.estate, 'volume', 'tickets-1')).toBeUndefined();
    expect(named(at.estate, 'volume', 'trial-2').written).toBeGreaterThan(0);
    whole(at);
  });

  test('a promotion that would break a lock, a name or a thick origin is refused', () => {
    const at = stage({ ...copyNow, name: 'one' }, clone);
    const promote = { do: 'volume.promote', array: 'lintel-1', volume: 'trial-1' };
    set(at, points(at)[0]!.copies, { lockedUntil: at.now + DAY });
    expect(at.codes(promote)).toEqual(['snapshot-locked']);
    set(at, points(at)[0]!.copies, { hold: 'audit' });
    expect(at.codes(promote)).toEqual(['snapshot-held']);
    set(at, points(at)[0]!.copies, { hold: '', lockedUntil: null });
    at.run({ do: 'snapshot.create', array: 'lintel-1', volume: 'trial-1', name: 'one' });
    expect(at.codes(promote)).toEqual(['name-taken']);
    expect(at.codes({ ...promote, volume: 'tickets-1' })).toEqual(['no-clone']);
    at.estate.apply([changed('volume', tickets(at), { provisioning: 'thick' })]);
    expect(at.codes({ ...promote, volume: 'trial-2' })).toEqual(['origin-thick']);
  });

  test('a shown copy is a device with its files; one is taken out, and it is hidden again', () => {
    const at = stage();
    file(at, 'fares.db', 100 * MIB);
    at.run({ ...copyNow, name: 'one' });
    const [sum] = tickets(at).files.map((one) => one.checksum);
    file(at, 'fares.db', null);
    at.run({ do: 'copy.show', array: 'lintel-1', volume: 'tickets-1', copy: 'one', host: 'gate-1' });
    const view = named(at.estate, 'volume', 'tickets-1-of-one');
    expect(view).toMatchObject({ view: true, written: points(at)[0]!.copies[0]!.written });
    at.run({ do: 'host-device.take-file', host: 'gate-1', device: view.name, path: 'fares.db', to: 'tickets-1' });
    expect(tickets(at).files).toMatchObject([{ path: 'fares.db', checksum: sum }]);
    at.run({ do: 'copy.hide', host: 'gate-1', array: 'lintel-1', volumes: [view.name] });
    expect(named(at.estate, 'volume', view.name)).toBeUndefined();
    expect(copiesOf(at.estate, tickets(at).id)).toHaveLength(1);
    whole(at);
  });

  test('a copy is proven where nobody works with the data', () => {
    const at = stage({ ...copyNow, name: 'one' });
    const prove = { do: 'snapshot.validate', array: 'lintel-1', volume: 'tickets-1', copy: 'one' };
    expect(at.codes({ ...prove, host: 'gate-1' })).toEqual(['host-not-apart']);
    at.run(
      {
        do: 'host.create',
        name: 'proof-1',
        os: 'linux',
        site: 'Nordkai',
        initiators: ['iqn.2031-04.example.skarholt:proof-1'],
      },
      { ...prove, host: 'proof-1' },
    );
    const [copy] = copiesOf(at.estate, tickets(at).id);
    expect(copy!.verdict).toMatchObject({ good: true, host: 'proof-1' });
    const [empty] = copiesOf(at.estate, named(at.estate, 'volume', 'tickets-2').id);
    at.estate.apply([changed('snapshot', empty!, { written: MIB })]);
    at.run({ ...prove, volume: 'tickets-2', host: 'proof-1' });
    expect(at.estate.table('snapshot').get(empty!.id)!.verdict).toMatchObject({ good: false });
  });
});

test('what a preview shows is what is done', () => {
  const one = stage(halfHourly, attach);
  const two = stage(halfHourly, attach);
  for (const at of [one, two]) at.pass(3 * HOUR);
  expect(textOf(one.estate)).toBe(textOf(two.estate));
});

describe('what goes by the clock', () => {
  test('a clock that jumps ahead frees no locked copy, nor does retention; one that lags holds longer', () => {
    const at = stage({ ...copyNow, name: 'one', lockDays: 10 });
    const drop = { do: 'snapshot.delete', workload: 'Ticketing', copies: ['one'] };
    const array = () => named(at.estate, 'array', 'lintel-1');
    at.estate.apply([changed('array', array(), { clockOff: 90 * DAY })]);
    expect(at.codes(drop)).toEqual(['snapshot-locked']);
    at.now += 10 * DAY + 1;
    expect(at.codes(drop)).toEqual([]);
    at.estate.apply([changed('array', array(), { clockOff: -DAY })]);
    expect(at.codes(drop)).toEqual(['snapshot-locked']);
    at.run({ do: 'array.set-clock', array: 'lintel-1' });
    expect(at.codes(drop)).toEqual([]);
    expect(at.codes({ do: 'array.set-clock', array: 'lintel-1' })).toEqual(['clock-right']);
  });

  test('a plan that names a host has its copies proven there by itself, and tells where it cannot', () => {
    const at = stage(halfHourly, attach, {
      do: 'host.create',
      name: 'proof-1',
      os: 'linux',
      site: 'Nordkai',
      initiators: ['iqn.2031-04.example.skarholt:proof-1'],
    });
    const due = () => proveDue(at.estate, { now: at.now, month: '2031-05', newId });
    at.pass(HOUR);
    expect(due().effects).toEqual([]);
    at.run({ do: 'plan.configure', plan: 'Harbour day', proveDays: 7, proveAt: 'proof-1' });
    const { effects, said } = due();
    at.estate.apply(effects);
    expect(said).toEqual([expect.stringContaining('good')]);
    expect(
      points(at)
        .at(-1)!
        .copies.every(({ verdict }) => verdict?.host === 'proof-1'),
    ).toBe(true);
    expect(due().effects).toEqual([]);
    at.pass(8 * DAY);
    expect(due().effects.length).toBeGreaterThan(0);
    at.run({ do: 'plan.configure', plan: 'Harbour day', proveAt: 'gate-1' });
    expect(due()).toMatchObject({ effects: [], said: [expect.stringContaining('works with the data')] });
    at.run({ do: 'plan.configure', plan: 'Harbour day', proveAt: 'none' });
    expect(due()).toEqual({ effects: [], said: [] });
  });
});
