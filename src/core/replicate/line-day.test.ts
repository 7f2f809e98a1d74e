import { changed, created } from '../estate/effects';
import type { Replication } from '../estate/entities';
import { lookUp } from '../operation/inquiry';
import { GIB, KIB } from '../units/bytes';
import { DAY, HOUR, MINUTE, type Milliseconds } from '../units/duration';
import { whole } from '../units/in-parts';
import { named } from '../../../demo/workbench';
import { elsewhere, replicate } from '../../../demo/replicated';
import { stage, type Stage } from '../../../demo/protected';
import { usualActivity } from '../copies/activity';
import { writingOf } from '../copies/writing';
import { lineDay, type Weighed } from './line-day';
import { MONDAY } from './planner';
import { arraysUnder, sidesOf } from './sides';

const WEEK = 7 * DAY;
const line = (at: Stage) => named(at.estate, 'siteLink', 'dark fibre');
const row = (at: Stage, name: string): Replication => lookUp(at.estate, 'replication', name)!;

/** Ticketing and another workload, both written to, copied over one line from a Sunday on; its figures are those of `caps`. */
function two(caps: { dayCap?: string; nightCap?: string }): Stage {
  const at = stage(...elsewhere, { do: 'workload.create', name: 'Rota' });
  const [first, second] = [named(at.estate, 'volume', 'tickets-1'), named(at.estate, 'volume', 'tickets-2')];
  const device = at.estate.table('hostDevice').by('volume', first.id)[0]!;
  at.estate.apply([
    changed('volume', second, {
      workload: named(at.estate, 'workload', 'Rota').id,
      written: 20 * GIB,
      activity: { ...usualActivity.database, writes: 60, workingSet: 0.1 },
    }),
    created('hostDevice', { ...device, id: 'dev_second', name: 'disk-9', volume: second.id, mountPoint: '/srv/rota' }),
  ]);
  at.now = MONDAY + (Math.floor((at.now - MONDAY) / WEEK) + 2) * WEEK - DAY;
  at.run(replicate, { ...replicate, workload: 'Rota', rpo: '40 min', interval: '20 min' });
  at.pass(2 * HOUR);
  if (Object.keys(caps).length > 0) at.run({ do: 'site-link.configure', link: 'dark fibre', ...caps });
  return at;
}

/** One of the two as if it were only weighed. */
const asWeighed = (at: Stage, name: string): Weighed => ({
  ...row(at, name),
  writing: writingOf(at.estate, sidesOf(at.estate, row(at, name)).source),
  arrays: arraysUnder(at.estate, row(at, name)),
});
const foretold = (at: Stage, weighed = asWeighed(at, 'Ticketing'), own: Replication | null = row(at, 'Ticketing')) =>
  whole(lineDay(at.estate, { line: line(at), weighed, own, now: at.now }));

/** The largest lag of a day, from the cycles that the lab ran. */
function worstOf(at: Stage, name: string, from: Milliseconds): Milliseconds {
  const cycles = at.estate
    .table('cycle')
    .by('replication', row(at, name).id)
    .filter(({ finishedAt }) => finishedAt >= from - DAY)
    .sort((a, b) => a.finishedAt - b.finishedAt);
  return Math.max(
    ...cycles
      .slice(1)
      .map(({ finishedAt }, k) => (finishedAt >= from && finishedAt <= from + DAY ? finishedAt - cycles[k]!.pit : 0)),
  );
}

test('what is foretold of a Monday is what the lab does on it', () => {
  const at = two({ dayCap: '4 MiB/s', nightCap: '3 MiB/s' });
  const monday = at.now - (at.now % DAY) + DAY;
  const { day, rows } = foretold(at);
  expect(day).toBe('Monday');
  expect(rows.map(({ id, name }) => [id, name])).toEqual([
    [null, 'Ticketing'],
    [row(at, 'Rota').id, 'Rota'],
  ]);
  at.pass(monday + DAY - at.now);
  const [ticketing, rota] = rows;
  // In the busy hours the line is too narrow: it is not simply an interval and a bit.
  expect(ticketing!.worst).toBeGreaterThan(10 * ticketing!.interval);
  expect(rota!.worst).toBeGreaterThan(rota!.interval + 8 * MINUTE);
  for (const { name, worst } of rows) {
    const lab = worstOf(at, name, monday);
    expect(Math.abs(worst - lab) / lab).toBeLessThan(0.01);
  }
}, 120_000);

test('a line that does holds what is promised; one that never does is ever further behind', () => {
  const wide = foretold(two({}));
  expect(wide.rows.map(({ late, falls }) => [late, falls])).toEqual([
    [0, false],
    [0, false],
  ]);
  const narrow = two({ dayCap: '64 KiB/s', nightCap: '64 KiB/s' });
  const [ticketing] = foretold(narrow).rows;
  expect(ticketing!.late).toBeGreaterThan(12 * HOUR);
  expect(ticketing!.falls).toBe(true);
  expect(ticketing!.sent).toBeLessThanOrEqual(64 * KIB * 86_400 * 1.2);
});

test('another interval, weight or cap of the one that is weighed moves the others', () => {
  const at = two({ dayCap: '1200 KiB/s', nightCap: '800 KiB/s' });
  const rota = (weighed: Partial<Weighed>) => foretold(at, { ...asWeighed(at, 'Ticketing'), ...weighed }).rows[1]!;
  const usual = rota({});
  expect(rota({ weight: 10 }).worst).toBeGreaterThan(usual.worst);
  expect(rota({ cap: 200 * KIB }).worst).toBeLessThan(usual.worst);
  // Without the one that is there, as one beside it would be, both weigh on it.
  expect(foretold(at, { ...asWeighed(at, 'Ticketing'), name: 'Twin' }, null).rows.map(({ name }) => name)).toEqual([
    'Twin',
    'Rota',
    'Ticketing',
  ]);
});

test('what hosts and mirrors send over the line is not there for copies', () => {
  const at = two({ dayCap: '1200 KiB/s', nightCap: '800 KiB/s' });
  const before = foretold(at).rows[0]!;
  at.run({ do: 'replication.configure', replication: 'Rota', interval: '5 min', rpo: 'none' });
  expect(foretold(at).rows[1]!.late).toBeNull();
  at.estate.apply([changed('replication', row(at, 'Rota'), { mode: 'sync', state: 'protected' })]);
  const beside = foretold(at);
  expect(beside.rows).toHaveLength(1);
  expect(beside.rows[0]!.worst).not.toBe(before.worst);
  // As one that is weighed, a mirror leaves its own place.
  const own = row(at, 'Rota');
  const alone = foretold(at, { ...asWeighed(at, 'Rota') }, own);
  expect(alone.rows.map(({ name }) => name)).toEqual(['Rota', 'Ticketing']);
  expect(alone.rows[0]!.worst).toBeLessThan(3 * HOUR + 5 * MINUTE);
});
