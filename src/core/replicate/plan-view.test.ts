import fc from 'fast-check';
import { writingOf } from '../copies/writing';
import { MIB } from '../units/bytes';
import { HOUR, MINUTE, SECOND } from '../units/duration';
import { named } from '../../../demo/workbench';
import { copying, elsewhere } from '../../../demo/replicated';
import { stage } from '../../../demo/protected';
import { changed } from '../estate/effects';
import { lines } from '../../../demo/elsewhere';
import { MONDAY, needOfLine, scarcestHour } from './planner';
import { replicationPlan } from './plan-view';
import { FIXED } from './choices';
import { isDay, lineRate } from './line';
import { sidesOf } from './sides';

const plan = (at = stage(...elsewhere)) => replicationPlan(at.estate, '', '')!;

test('every recovery point that is weighed needs what its busiest hour needs', () => {
  const at = stage(...elsewhere);
  const found = plan(at);
  const volumes = ['tickets-1', 'tickets-2'].map((name) => named(at.estate, 'volume', name));
  for (const point of found.points) {
    const need = needOfLine(writingOf(at.estate, volumes), {
      interval: point.interval,
      rpo: point.rpo,
      wireRatio: 0.7,
    });
    expect(point.need).toBeCloseTo(need.bytesPerS!, 3);
    expect(point.needs).toHaveLength(168);
    expect(Math.max(...point.needs!)).toBe(point.need);
  }
  expect(found.subjects).toMatchObject([{ name: 'Ticketing', site: 'Nordkai', copied: false }]);
});

test('where a line breaks: the hours in which its share does not do', () => {
  const at = stage(...elsewhere);
  const fibre = named(at.estate, 'siteLink', 'dark fibre');
  const half = plan(at).points.find(({ rpo }) => rpo === 15 * MINUTE)!;
  const middle = [...half.needs!].sort((a, b) => a - b)[84]!;
  // A line that just does in half of all hours.
  at.estate.apply([changed('siteLink', fibre, { bitsPerS: (middle * 8) / 0.94 })]);
  const found = plan(at);
  const point = found.points.find(({ rpo }) => rpo === 15 * MINUTE)!;
  expect(point.breaks).toBe(point.needs!.filter((one) => one > found.share).length);
  expect(point.breaks).toBeGreaterThan(0);
  expect(point.breaks).toBeLessThan(168);
  expect(found.holds === null || found.holds > 15 * MINUTE).toBe(true);
});

test('longer recovery points need no more, and keep more free', () =>
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 40 }), fc.integer({ min: 1, max: 400 }), (writes, mib) => {
      const at = stage(...elsewhere);
      const volume = named(at.estate, 'volume', 'tickets-1');
      at.estate.apply([
        changed('volume', volume, {
          written: mib * 2 ** 20,
          activity: { ...volume.activity!, writes },
        }),
      ]);
      const { points } = plan(at);
      for (let k = 1; k < points.length; k++) {
        expect(points[k]!.need!).toBeLessThanOrEqual(points[k - 1]!.need! * (1 + 1e-9));
        expect(points[k]!.targetReserve).toBeGreaterThanOrEqual(points[k - 1]!.targetReserve);
        expect(points[k]!.breaks).toBeLessThanOrEqual(points[k - 1]!.breaks);
      }
    }),
    { numRuns: 20 },
  ));

test('others on the line take their share, and are told by the hour', () => {
  const alone = plan();
  const at = copying(
    ...lines.filter(({ name }) => name === 'leased line'),
    { do: 'workload.create', name: 'Rota' },
    {
      do: 'volume.create',
      array: 'lintel-1',
      pool: 'quay',
      name: 'rota',
      size: '100 GiB',
      workload: 'Rota',
    },
  );
  at.pass(HOUR);
  const rota = named(at.estate, 'workload', 'Rota');
  const found = replicationPlan(at.estate, rota.id, '')!;
  expect(alone.others).toEqual(Array.from({ length: 168 }, () => 0));
  expect(found.share).toBeCloseTo(lineRate(named(at.estate, 'siteLink', 'dark fibre')).bytesPerS / 2, 6);
  expect(Math.max(...found.others)).toBeGreaterThan(0);
  expect(found.links.map(({ name }) => name)).toEqual(['dark fibre', 'leased line']);
  expect(replicationPlan(at.estate, rota.id, named(at.estate, 'siteLink', 'leased line').id)!.link).not.toBe(
    found.link,
  );
});

test('three ways of a first copy, each with what it sends', () => {
  const { first, bytes, share } = plan();
  const [network, seeded, shipped] = first;
  expect(first.map(({ method }) => method)).toEqual(['network', 'seeded', 'shipped']);
  expect(network!.start).toBeCloseTo(((bytes * 0.7) / share) * SECOND, 6);
  expect(network!.wire).toBeGreaterThanOrEqual(bytes * 0.7);
  expect(seeded!.wire).toBeLessThan(network!.wire);
  expect(shipped!.start).toBeGreaterThan(4 * HOUR);
});

test('new data needs a line as well as what is rewritten', () => {
  const at = stage(...elsewhere);
  const before = plan(at).points.find(({ rpo }) => rpo === HOUR)!;
  const device = [...at.estate.table('hostDevice').values()].find((row) => row.mountPoint !== null)!;
  at.estate.apply([changed('hostDevice', device, { writeRate: 10 * MIB })]);
  const after = plan(at).points.find(({ rpo }) => rpo === HOUR)!;
  // Half an hour of it is sent in the other half.
  expect(after.need! - before.need!).toBeCloseTo((10 * MIB * 0.7 * 1800) / (1800 - FIXED / SECOND), 0);
  expect(after.sourceReserve).toBeGreaterThan(before.sourceReserve);
  // Where nothing is mounted, nothing comes.
  at.estate.apply([changed('hostDevice', { ...device, writeRate: 10 * MIB }, { mountPoint: null })]);
  expect(plan(at).points.find(({ rpo }) => rpo === HOUR)!.need).toBeCloseTo(before.need!, 3);
});

test('a line that is enough by day and not by night is told of its night', () => {
  const at = copying();
  const device = [...at.estate.table('hostDevice').values()].find((row) => row.mountPoint !== null)!;
  at.estate.apply([changed('hostDevice', device, { writeRate: 10 * MIB })]);
  const row = () => named(at.estate, 'replication', 'Ticketing');
  const scarce = () => scarcestHour(at.estate, row(), writingOf(at.estate, sidesOf(at.estate, row()).source))!;
  expect(scarce().share.bytesPerS).toBeGreaterThan(scarce().need);
  at.run({ do: 'site-link.configure', link: 'dark fibre', nightCap: '1 MiB/s' });
  expect(scarce().share.bytesPerS).toBe(MIB);
  expect(scarce().need).toBeGreaterThan(MIB);
  expect(isDay(MONDAY + scarce().hour * HOUR)).toBe(false);
});
