import fc from 'fast-check';
import { writingOf } from '../copies/writing';
import { planChange } from '../change/plan';
import { poolUsage } from '../pool/usage';
import { changed, compacted } from '../estate/effects';
import { newIds } from '../estate/new-ids';
import { lookUp } from '../operation/inquiry';
import { brokenRules } from '../rules/book';
import { writeFile } from '../attach/files';
import { GIB, MIB } from '../units/bytes';
import { DAY, HOUR, MINUTE } from '../units/duration';
import { basis, named } from '../../../demo/workbench';
import { elsewhere, replicate } from '../../../demo/replicated';
import { stage, type Stage } from '../../../demo/protected';
import { bytesAtRisk, lagOf } from './carry';
import { mirroredOn } from './pass';
import { Overlay } from '../estate/estate';
import { addedBy, logState, mirrorNeed, resyncTime } from './mirror';
import { replicationView } from './replication-view';
import { sidesOf } from './sides';

const { rpo: _rpo, interval: _interval, ...where } = replicate;
const mirror = { ...where, mode: 'sync', log: '80 GiB' };
const ids = newIds('mirror');
const mirroring = (more: object = {}): Stage => {
  const at = stage(...elsewhere, { ...mirror, ...more });
  at.pass(HOUR);
  return at;
};
const row = ({ estate }: Stage) => lookUp(estate, 'replication', 'Ticketing')!;
const link = ({ estate }: Stage) => named(estate, 'siteLink', 'dark fibre');
const cut = (at: Stage, state: 'up' | 'down') => at.estate.apply([changed('siteLink', link(at), { state })]);
const refusals = (at: Stage, ...operations: { do: string }[]) =>
  planChange(at.estate, operations, { ...basis, now: at.now, seed: 'asked' }).refusals;
/** What each side shows. */
const shown = (at: Stage) => {
  const { source, target } = sidesOf(at.estate, row(at));
  const of = ({ written, holes, files }: (typeof source)[number]) => ({ written, holes, files });
  return { source: source.map(of), target: target.map(of) };
};
const same = (at: Stage) => {
  const { source, target } = shown(at);
  expect(target).toEqual(source);
};
const device = ({ estate }: Stage) => [...estate.table('hostDevice').values()].find((one) => one.mountPoint !== null)!;
const writing = (at: Stage, bytesPerS: number) =>
  at.estate.apply([changed('hostDevice', device(at), { writeRate: bytesPerS })]);
const writtenOf = (at: Stage) => sidesOf(at.estate, row(at)).source[0]!.written;

test('a mirror holds every write: nothing is behind, nothing at risk, and both sides show the same', () => {
  const at = mirroring();
  expect(row(at)).toMatchObject({ mode: 'sync', state: 'protected', wireRatio: 1 });
  writing(at, 8 * MIB);
  for (let k = 0; k < 5; k++) {
    at.pass(7 * MINUTE);
    same(at);
    expect(lagOf(row(at), at.now)).toBe(0);
    expect(bytesAtRisk(at.estate, row(at), at.now)).toBe(0);
  }
  expect(brokenRules(at.estate)).toEqual([]);
});

test('files stand at the other side as soon as they are written', () => {
  const at = mirroring();
  const { volume } = device(at);
  const written = writeFile(at.estate, device(at), { path: 'manifest.csv', size: 3 * MIB }, at.now, ids);
  if (!written.ok) throw new Error('Nothing was written.');
  at.estate.apply(compacted(written.effects));
  at.run({ do: 'replication.failover', replication: 'Ticketing', confirm: 'Ticketing', sourceStopped: true });
  const { primaries, secondaries } = row(at);
  const twin = at.estate.table('volume').get(secondaries[primaries.indexOf(volume)]!)!;
  expect(twin.files.map(({ path }) => path)).toContain('manifest.csv');
});
test('what it adds to a write follows from distance, line and size; too much is refused with what would do', () => {
  const at = stage(...elsewhere);
  const volumes = [named(at.estate, 'volume', 'tickets-1')];
  // 0.62 ms there and back, 10 Gb/s, 8 KiB with the command: 280 µs there, 250 µs here.
  const { ms, write } = addedBy(link(at), volumes);
  const serial = (write.ioBytes * 8 * 1.05) / 1e10;
  expect(ms).toBeCloseTo((0.62e-3 + serial + 280e-6 - 250e-6) * 1000, 6);
  expect(refusals(at, { ...mirror, budget: '0.3' } as { do: string })).toMatchObject([
    {
      code: 'sync-latency-budget',
      field: 'link',
      message: expect.stringMatching(/adds 0\.6\d ms .* \d+ km of such a line would do\./) as string,
    },
  ]);
  at.run({ do: 'site-link.configure', link: 'dark fibre', speed: '20 Mb/s' });
  expect(refusals(at, { ...mirror, budget: 'none', log: 'none' } as { do: string }).map(({ code }) => code)).toContain(
    'sync-line-too-narrow',
  );
});

test('a lost line: hosts go on alone, what they change is at risk from that moment, and is brought up to date after', () => {
  const at = mirroring();
  writing(at, 8 * MIB);
  at.pass(10 * MINUTE);
  const lostAt = at.now;
  cut(at, 'down');
  at.pass(30 * MINUTE);
  expect(row(at)).toMatchObject({ state: 'broken', reason: 'dark fibre is down', pit: lostAt });
  expect(lagOf(row(at), at.now)).toBe(30 * MINUTE);
  const { source, target } = shown(at);
  expect(source[0]!.written).toBeGreaterThan(target[0]!.written);
  const log = logState(at.estate, row(at), at.now)!;
  expect(log.used).toBeGreaterThan(0);
  expect(log.fullIn).toBeGreaterThan(0);
  expect(resyncTime(at.estate, row(at), at.now)).toBeGreaterThan(0);
  cut(at, 'up');
  at.pass(HOUR);
  expect(row(at)).toMatchObject({ state: 'protected', reason: '' });
  same(at);
  // What stood at the other side before is kept as a copy.
  const kept = at.estate.table('snapshot').by('volume', row(at).secondaries[0]!);
  expect(kept.map(({ at: when }) => when)).toEqual([lostAt]);
});

test('a lost line: hosts that are to wait write nothing, until the line is back or somebody decides', () => {
  const at = mirroring({ onLoss: 'fence' });
  writing(at, 8 * MIB);
  at.pass(10 * MINUTE);
  cut(at, 'down');
  at.pass(MINUTE);
  const held = writtenOf(at);
  at.pass(30 * MINUTE);
  expect(writtenOf(at)).toBe(held);
  expect(lagOf(row(at), at.now)).toBe(0);
  expect(replicationView(at.estate, row(at).id, at.now)).toMatchObject({ fenced: true, risk: 0 });
  cut(at, 'up');
  at.pass(20 * MINUTE);
  expect(row(at).state).toBe('protected');
  same(at);
  cut(at, 'down');
  at.pass(10 * MINUTE);
  at.run({ do: 'replication.configure', replication: 'Ticketing', onLoss: 'continue' });
  expect(row(at).pit).toBe(at.now);
  const before = writtenOf(at);
  at.pass(10 * MINUTE);
  expect(writtenOf(at)).toBeGreaterThan(before);
});

test('the lost source comes back closed; the way back sends what either side changed', () => {
  const at = mirroring();
  writing(at, 4 * MIB);
  at.pass(10 * MINUTE);
  const controllers = at.estate.table('controller').by('array', named(at.estate, 'array', 'lintel-1').id);
  const power = (state: 'up' | 'down') => {
    for (const { id } of [...controllers])
      at.estate.apply([changed('controller', at.estate.table('controller').get(id)!, { state })]);
  };
  power('down');
  at.pass(MINUTE);
  at.run({ do: 'replication.failover', replication: 'Ticketing', confirm: 'Ticketing', fence: 'array-off' });
  expect(row(at)).toMatchObject({ state: 'failed-over', accessP: 'unknown', accessS: 'yes' });
  power('up');
  at.pass(MINUTE);
  expect(row(at).accessP).toBe('no');
  at.run(
    { do: 'host-device.unmount', host: 'gate-1', device: device(at).name },
    { do: 'replication.reverse', replication: 'Ticketing', confirm: 'Ticketing' },
  );
  at.pass(2 * HOUR);
  expect(row(at)).toMatchObject({ state: 'protected', source: 'S' });
  same(at);
  expect(brokenRules(at.estate)).toEqual([]);
});

test('its log takes as much at both sides, stays while it stands, and goes with it', () => {
  const at = mirroring();
  const logs = row(at).logs.map((id) => at.estate.table('volume').get(id)!);
  expect(logs.map(({ size, provisioning, name }) => ({ size, provisioning, name }))).toEqual([
    { size: 80 * GIB, provisioning: 'thick', name: 'ticketing-log' },
    { size: 80 * GIB, provisioning: 'thick', name: 'ticketing-log' },
  ]);
  const array = 'lintel-1';
  expect(at.codes({ do: 'volume.delete', array, volumes: ['ticketing-log'] })).toContain('replication-side');
  at.run({ do: 'volume.resize', array, volumes: ['ticketing-log'], size: '100 GiB' });
  expect(row(at).logs.map((id) => at.estate.table('volume').get(id)!.size)).toEqual([100 * GIB, 100 * GIB]);
  const used = () => poolUsage(at.estate, named(at.estate, 'pool', 'quay')).used;
  const before = used();
  at.run({ do: 'replication.remove', replication: 'Ticketing', confirm: 'Ticketing' });
  expect(used()).toBeLessThan(before);
  expect(brokenRules(at.estate)).toEqual([]);
});

test('it becomes one that is copied again and again, and a mirror once more', () => {
  const at = mirroring();
  at.run({ do: 'replication.configure', replication: 'Ticketing', mode: 'async', interval: '10 min' });
  writing(at, MIB);
  at.pass(5 * MINUTE);
  expect(lagOf(row(at), at.now)).toBe(5 * MINUTE);
  expect(at.codes({ do: 'replication.configure', replication: 'Ticketing', onLoss: 'fence' })).toEqual([
    'replication-not-mirrored',
  ]);
  at.run({ do: 'replication.configure', replication: 'Ticketing', mode: 'sync' });
  expect(row(at).state).toBe('copying');
  at.pass(10 * MINUTE);
  expect(row(at).state).toBe('protected');
  same(at);
});

test('what joins a mirror is mirrored once all of it stands there, and nothing that was there is behind', () => {
  const at = mirroring();
  writing(at, 4 * MIB);
  at.pass(10 * MINUTE);
  at.run(
    { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'fares', size: '20 GiB', workload: 'Ticketing' },
    { do: 'replication.extend', replication: 'Ticketing' },
  );
  expect(row(at)).toMatchObject({ state: 'copying', pit: at.now });
  same(at);
  at.pass(10 * MINUTE);
  expect(row(at).state).toBe('protected');
  expect(row(at).primaries).toHaveLength(3);
  same(at);
});

test('a mirror in which nothing moves writes nothing down', () => {
  const at = mirroring();
  writing(at, 0);
  at.pass(MINUTE);
  expect(mirroredOn(new Overlay(at.estate), at.now + MINUTE, ids).effects).toEqual([]);
});

test('what a mirror writes along takes its line first', () => {
  const at = mirroring();
  const need = mirrorNeed(writingOf(at.estate, sidesOf(at.estate, row(at)).source), 1);
  expect(need.bytesPerS).toBeGreaterThan(0);
  at.run({ do: 'site-link.configure', link: 'dark fibre', speed: '2 Gb/s' });
  expect(replicationView(at.estate, row(at).id, at.now)!.need).toBeCloseTo(need.bytesPerS, 6);
});

test('a planned turn loses no write, whatever happened before', () => {
  const events = fc.array(
    fc.oneof(
      fc.record({ e: fc.constant('write' as const), mib: fc.integer({ min: 0, max: 32 }) }),
      fc.record({ e: fc.constant('line' as const), state: fc.constantFrom('up' as const, 'down' as const) }),
      fc.record({ e: fc.constant('pass' as const), minutes: fc.integer({ min: 1, max: 90 }) }),
      fc.record({ e: fc.constant('pace' as const), mode: fc.constantFrom('sync', 'async') }),
    ),
    { maxLength: 12 },
  );
  fc.assert(
    fc.property(events, (all) => {
      const at = mirroring();
      for (const one of all) {
        if (one.e === 'write') writing(at, one.mib * MIB);
        if (one.e === 'line') cut(at, one.state);
        if (one.e === 'pass') at.pass(one.minutes * MINUTE);
        if (one.e === 'pace' && row(at).mode !== one.mode)
          at.run({ do: 'replication.configure', replication: 'Ticketing', mode: one.mode });
        if (row(at).mode === 'sync' && row(at).state === 'protected') {
          at.pass(MINUTE);
          if (row(at).state === 'protected') same(at);
        }
      }
      cut(at, 'up');
      writing(at, 0);
      at.pass(DAY);
      const before = shown(at).source;
      at.run({ do: 'host-device.unmount', host: 'gate-1', device: device(at).name });
      at.run({ do: 'replication.switch', replication: 'Ticketing', stopped: true });
      expect(shown(at).source).toEqual(before);
      expect(row(at)).toMatchObject({ accessP: 'no', accessS: 'yes' });
    }),
    { numRuns: 12 },
  );
});
