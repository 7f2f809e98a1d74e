import fc from 'fast-check';
import { DAY, HOUR } from '../units/duration';
import { retain, retainOverTime, type RetainedCopy, type Retention, type RetentionPolicy } from './retain';

const at = (text: string) => Date.parse(text);
const verdict = (snapshots: RetainedCopy[], policy: RetentionPolicy, now: number, tz = 'Europe/Oslo'): Retention => {
  const found = retain({ now, tz, snapshots, policy });
  if (!found.ok) throw new Error(found.message);
  return found.value;
};
const told = (kept: { id: string; reasons: string[] }[]) => kept.map(({ id, reasons }) => `${id} ${reasons.join(' ')}`);
const halfDays = (): RetainedCopy[] =>
  Array.from({ length: 24 }, (_, k) => ({
    id: `s${String(k).padStart(2, '0')}`,
    at: at('2031-04-20T20:00:00Z') + k * 12 * HOUR,
  }));

test('the newest, days and weeks on the local clock; what is locked or mounted is held', () => {
  const copies = halfDays();
  copies[3]!.lockedUntil = at('2031-05-10T00:00:00Z');
  copies[5]!.holds = ['mounted'];
  copies.push({ id: 'hand', at: at('2031-04-25T09:00:00Z'), kind: 'manual' });
  const found = verdict(copies, { count: 2, gfs: { daily: 3, weekly: 2 } }, at('2031-05-02T12:00:00Z'));
  expect(told(found.keep)).toEqual([
    'hand manual',
    's14 weekly',
    's20 daily',
    's22 count daily',
    's23 count daily weekly',
  ]);
  expect(told(found.held)).toEqual(['s03 locked', 's05 mounted']);
  expect(found.delete).toHaveLength(18);
});

test('pruned after each run, one copy serves day and month, another the week', () => {
  const left = retainOverTime({
    firstAt: at('2031-02-01T03:00:00Z'),
    every: DAY,
    runs: 90,
    tz: 'UTC',
    policy: { gfs: { daily: 2, weekly: 2, monthly: 2 } },
  });
  expect(left.ok && left.value.map((one) => new Date(one).toISOString().slice(0, 10))).toEqual([
    '2031-04-27',
    '2031-04-30',
    '2031-05-01',
  ]);
});

test('a lock keeps what the policy would have let go, and nothing else', () => {
  const run = (lock: number) =>
    retainOverTime({ firstAt: 0, every: HOUR, runs: 30, tz: 'UTC', policy: { count: 2 }, lock });
  expect(run(0)).toMatchObject({ value: [28 * HOUR, 29 * HOUR] });
  expect(run(5 * HOUR)).toMatchObject({ value: [25, 26, 27, 28, 29].map((k) => k * HOUR) });
});

test('what has no reason, and what needs none', () => {
  const now = 100 * HOUR;
  const copies: RetainedCopy[] = [
    { id: 'failed', at: now - HOUR, state: 'failed' },
    { id: 'creating by hand', at: now - HOUR, state: 'creating', kind: 'manual' },
    { id: 'ahead', at: now + HOUR },
    { id: 'old', at: now - 90 * HOUR },
  ];
  const found = verdict(copies, { count: 0 }, now);
  expect(told(found.keep)).toEqual(['creating by hand manual', 'ahead future']);
  expect(found.delete).toEqual(['old', 'failed']);
  expect(told(verdict(copies, { minKeep: 1 }, now).keep)).toContain('old no-policy');
  expect(told(verdict(copies, { count: 0, minKeep: 1 }, now).keep)).toContain('old minKeep');
  expect(told(verdict(copies, { maxAge: 90 * HOUR }, now).keep)).toContain('old age');
});

test('an outage uses up no period; an hour that comes twice is two', () => {
  const copies = [0, 1, 2].map((k) => ({ id: `n${k}`, at: at('2031-10-26T00:10:00Z') + k * HOUR }));
  copies.push({ id: 'old', at: at('2031-10-20T12:00:00Z') });
  const found = verdict(copies, { gfs: { hourly: 4 } }, at('2031-10-26T05:00:00Z'));
  expect(told(found.keep)).toEqual(['old hourly', 'n0 hourly', 'n1 hourly', 'n2 hourly']);
});

test('the first of a period, where that is wished', () => {
  const found = verdict(halfDays(), { gfs: { daily: 2, pick: 'first' } }, at('2031-05-02T12:00:00Z'));
  expect(told(found.keep)).toEqual(['s21 daily', 's23 daily']);
});

describe('whatever is kept', () => {
  const copy = fc.record({
    hours: fc.nat(2000),
    kind: fc.constantFrom('scheduled' as const, 'scheduled' as const, 'manual' as const),
    state: fc.constantFrom('ready', 'ready', 'ready', 'failed'),
    locked: fc.boolean(),
    holds: fc.subarray(['clone', 'mounted', 'replication-base'] as const),
  });
  const some = fc.option(fc.nat(5), { nil: null });
  const policy = fc.record({
    count: some,
    maxAge: fc.option(
      fc.nat(500).map((h) => h * HOUR),
      { nil: null },
    ),
    minKeep: some,
    gfs: fc.option(fc.record({ hourly: some, daily: some, weekly: some, monthly: some, yearly: some }), { nil: null }),
  });
  const now = at('2031-05-02T12:00:00Z');
  const drawn = fc.array(copy, { maxLength: 60 }).map((copies) =>
    copies.map(({ hours, locked, ...one }, k): RetainedCopy => ({
      ...one,
      id: `c${k}`,
      at: now - hours * HOUR + 20 * HOUR,
      lockedUntil: locked ? now + DAY : null,
    })),
  );

  test('retaining twice deletes nothing more, and each copy has one verdict', () => {
    fc.assert(
      fc.property(drawn, policy, (copies, wish) => {
        const first = verdict(copies, wish, now);
        const gone = new Set(first.delete);
        expect(first.keep.length + first.held.length + gone.size).toBe(copies.length);
        expect(
          verdict(
            copies.filter((one) => !gone.has(one.id)),
            wish,
            now,
          ).delete,
        ).toEqual([]);
      }),
    );
  });

  test('locks and holds never change which others are kept', () => {
    fc.assert(
      fc.property(drawn, policy, (copies, wish) => {
        const bare = copies.map(({ lockedUntil: _lock, holds: _holds, ...one }) => one);
        expect(verdict(copies, wish, now).keep).toEqual(verdict(bare, wish, now).keep);
      }),
    );
  });
});
