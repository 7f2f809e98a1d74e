import { whole } from '../units/in-parts';
import { copying } from '../../../demo/replicated';
import type { Stage } from '../../../demo/protected';
import { named } from '../../../demo/workbench';
import { groupsBusy } from '../demand/groups-busy';
import { changed } from '../estate/effects';
import { found } from '../check/appears-and-goes.fixture';
import { writingOf } from '../copies/writing';
import { DAY, HOUR, type Milliseconds } from '../units/duration';
import { hourOfWeek } from '../units/week';
import { MIB } from '../units/bytes';
import { lineDay } from './line-day';
import { nextTurnOfRoads, roadsOf, shared } from './line-shares';
import { MONDAY, scarcestHour, sharesOf } from './planner';
import { arraysUnder, sidesOf } from './sides';
import { leastSpare, spareHours, spareRate } from './spare';

const row = (at: Stage) => named(at.estate, 'replication', 'Ticketing');
const line = (at: Stage) => named(at.estate, 'siteLink', 'dark fibre');
const source = (at: Stage): string => named(at.estate, 'array', 'lintel-1').id;
const wednesday = (hour: number): Milliseconds => MONDAY + 3200 * 7 * DAY + 2 * DAY + hour * HOUR;

/** Hosts keep the drives of the source busy by day, so that little is left for copies. */
const busyByDay = (writes = 30_000): Stage => {
  const at = copying();
  at.run({
    do: 'volume.activity',
    array: 'lintel-1',
    volumes: ['tickets-1'],
    reads: 0,
    writes,
    ioSize: '64 KiB',
    burst: 1,
    week: 'office',
  });
  return at;
};

/** A first copy that is on its way at a moment. */
function sendingAt(at: Stage, now: Milliseconds): number {
  const carrying = {
    ...row(at).carrying!,
    pit: now,
    startedAt: now,
    wire: 1e15,
    sent: 0,
    asOf: now,
    from: now,
    rate: 0,
  };
  at.estate.apply([changed('replication', row(at), { carrying, state: 'copying' })]);
  at.estate.apply(shared(at.estate, now));
  return row(at).carrying!.rate;
}

test('an array spares for copies what hosts leave of its groups, hour by hour, and never less than a rest', () => {
  const at = busyByDay();
  const hours = spareHours(at.estate, source(at));
  expect(hours).toHaveLength(168);
  const [night, noon] = [hours[hourOfWeek(wednesday(2))]!, hours[hourOfWeek(wednesday(12))]!];
  expect(noon).toBeLessThan(night / 2);
  expect(noon).toBeGreaterThanOrEqual(leastSpare(at.estate, source(at)));
  expect(spareRate(at.estate, source(at), hourOfWeek(wednesday(12)))).toBe(noon);
  expect(spareRate(at.estate, source(at))).toBeCloseTo(hours.reduce((sum, one) => sum + one, 0) / 168, 3);
  const [group] = at.estate.table('raidGroup').by('pool', named(at.estate, 'volume', 'tickets-1').pool);
  expect(groupsBusy(at.estate)(group!, hourOfWeek(wednesday(12)))).toBeGreaterThan(0.7);
  at.estate.apply(
    [...at.estate.table('controller').by('array', source(at))].map((one) =>
      changed('controller', one, { state: 'down' }),
    ),
  );
  expect(spareRate(at.estate, source(at), 12)).toBe(0);
  expect(leastSpare(at.estate, source(at))).toBe(0);
});

test('what is copied at noon from a busy array goes slower than at night, and turns with the hour', () => {
  const at = busyByDay();
  at.pass(15_000);
  expect(row(at).carrying).not.toBeNull();
  const [night, noon] = [sendingAt(at, wednesday(2)), sendingAt(at, wednesday(12))];
  expect(noon).toBeLessThan(0.7 * night);
  expect(noon).toBe(spareRate(at.estate, source(at), hourOfWeek(wednesday(12))));
  expect(nextTurnOfRoads(at.estate, wednesday(12))).toBe(wednesday(13));
  expect(nextTurnOfRoads(at.estate, wednesday(2) + 1)).toBe(wednesday(3));
});

test('a line that is slower than any array asks none', () => {
  const at = busyByDay();
  at.pass(15_000);
  sendingAt(at, wednesday(2));
  expect(Object.keys(roadsOf(at.estate, wednesday(12)).roads)).toContain(source(at));
  at.estate.apply([changed('siteLink', line(at), { bitsPerS: 1e6 })]);
  expect(Object.keys(roadsOf(at.estate, wednesday(12)).roads)).toEqual([line(at).id]);
  expect(nextTurnOfRoads(at.estate, wednesday(12))).toBeNull();
});

test('the planner knows the hours in which an array leaves less than the line, and the finding names it', () => {
  const at = busyByDay(60_000);
  at.estate.apply([changed('replication', row(at), { rpo: 16_000, interval: 8_000 })]);
  const shares = sharesOf(at.estate, line(at), 1, row(at));
  expect(shares[hourOfWeek(wednesday(12))]!.array).toBe(source(at));
  expect(shares[hourOfWeek(wednesday(12))]!.bytesPerS).toBe(
    spareRate(at.estate, source(at), hourOfWeek(wednesday(12))),
  );
  // One that is to share the array gets its part of it.
  const beside = sharesOf(at.estate, line(at), 3, null, [source(at)]);
  expect(beside[hourOfWeek(wednesday(12))]!.bytesPerS).toBeCloseTo(
    0.75 * spareRate(at.estate, source(at), hourOfWeek(wednesday(12))),
    3,
  );
  const scarce = scarcestHour(at.estate, row(at), writingOf(at.estate, sidesOf(at.estate, row(at)).source))!;
  expect(scarce.share.array).toBe(source(at));
  expect(scarce.need > scarce.share.bytesPerS).toBe(true);
  expect(found(at, 'replication-infeasible')[0]!.says).toMatch(
    /needs .*; lintel-1 leaves it .* on Monday 07:00 UTC\.$/,
  );
});

test('a day of the line is played with what its arrays leave', () => {
  const at = busyByDay(60_000);
  at.pass(HOUR);
  const weighed = (arrays: readonly string[]) => ({
    ...row(at),
    interval: HOUR / 4,
    rpo: HOUR / 2,
    writing: writingOf(at.estate, sidesOf(at.estate, row(at)).source),
    arrays,
  });
  const played = (arrays: readonly string[]) =>
    whole(lineDay(at.estate, { line: line(at), weighed: weighed(arrays), own: row(at), now: at.now })).rows[0]!;
  const [held, free] = [played(arraysUnder(at.estate, row(at))), played([])];
  expect(held.worst).toBeGreaterThan(free.worst);
  expect(held.sent).toBeLessThanOrEqual(free.sent + MIB);
});
