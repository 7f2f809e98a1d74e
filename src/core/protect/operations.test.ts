import { named, snapshot as textOf } from '../../../demo/workbench';
import { stage } from '../../../demo/protected';
import { planUndo } from '../change/undo';
import { planChange } from '../change/plan';
import { basis } from '../../../demo/workbench';
import { areaBytes } from '../copies/area';
import { changed } from '../estate/effects';
import { MIB } from '../units/bytes';
import { DAY, HOUR, MINUTE } from '../units/duration';
import { proveDue } from './prove-due';
import { copyNow, halfHourly, attach, points, tickets, device, set, whole, newId } from './operations.fixture';

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
