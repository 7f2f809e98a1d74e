import { stage, type Stage } from '../../../demo/protected';
import { copying, elsewhere, replicate } from '../../../demo/replicated';
import { named } from '../../../demo/workbench';
import { writeFile } from '../attach/files';
import { copiesOf } from '../copies/area';
import { shownBytes } from '../copies/parts';
import { changed, compacted } from '../estate/effects';
import { newIds } from '../estate/new-ids';
import type { Replication } from '../estate/entities';
import type { FaultKind } from '../lab/fault-kinds';
import { setFault, clearFault } from '../lab/faults';
import { brokenRules } from '../rules/book';
import { brokenSums, poolWaterfall } from '../space/waterfall';
import { availableExtents } from '../pool/usage';
import { GIB, MIB } from '../units/bytes';
import { DAY, HOUR, MINUTE } from '../units/duration';
import { bytesAtRisk, lagOf } from './carry';

const newId = newIds('replication test');
const row = ({ estate }: Stage): Replication => named(estate, 'replication', 'Ticketing');
const volumeOf = ({ estate }: Stage, array: string, name: string) => {
  const { id } = named(estate, 'array', array);
  return [...estate.table('volume').values()].find((one) => one.array === id && one.name === name)!;
};
const device = ({ estate }: Stage) => [...estate.table('hostDevice').values()].find((one) => one.mountPoint !== null)!;
const file = (at: Stage, path: string) => {
  const made = writeFile(at.estate, device(at), { path, size: 100 * MIB }, at.now, newId);
  if (!made.ok) throw new Error(made.refusal.message);
  at.estate.apply(compacted(made.effects));
};
const fault = (at: Stage, kind: FaultKind, id: string, clear = false) => {
  const done = (clear ? clearFault : setFault)(at.estate, kind, id, at.now, newId);
  if (!done.ok) throw new Error(done.refusals[0]!.message);
  at.estate.apply(compacted(done.effects));
};
const controllers = ({ estate }: Stage, array: string, state: 'up' | 'down') =>
  estate.apply(
    estate
      .table('controller')
      .by('array', named(estate, 'array', array).id)
      .map((one) => changed('controller', one, { state })),
  );
const line = (at: Stage) => named(at.estate, 'siteLink', 'dark fibre').id;
const unmount = { do: 'host-device.unmount', host: 'gate-1', device: 'tickets-1' };
const cycles = (at: Stage) => at.estate.table('cycle').by('replication', row(at).id);

function whole(at: Stage): void {
  const { estate } = at;
  expect(brokenRules(estate)).toEqual([]);
  for (const pool of estate.table('pool').values()) expect(brokenSums(estate, poolWaterfall(estate, pool))).toEqual([]);
  for (const { accessP, accessS } of estate.table('replication').values())
    expect([accessP, accessS]).not.toEqual(['yes', 'yes']);
}

test('a first copy goes over the line, and what changes after it, with its files', () => {
  const at = copying();
  expect(row(at)).toMatchObject({ state: 'copying', image: false, pit: null });
  const said = at.pass(10 * MINUTE);
  expect(said).toEqual([expect.stringContaining('is whole at Molenhaven')]);
  expect(row(at)).toMatchObject({ state: 'protected', image: true });
  const [mine, theirs] = [volumeOf(at, 'lintel-1', 'tickets-1'), volumeOf(at, 'lintel-2', 'tickets-1-copy')];
  expect(shownBytes(theirs)).toBe(shownBytes(mine));
  const [first] = cycles(at);
  expect(first).toMatchObject({ result: 'done', changed: shownBytes(mine) });
  expect(first!.wire).toBeCloseTo(first!.changed * 0.7, -1);
  whole(at);
  file(at, 'fares.db');
  expect(volumeOf(at, 'lintel-2', 'tickets-1-copy').files).toEqual([]);
  at.pass(10 * MINUTE);
  expect(volumeOf(at, 'lintel-2', 'tickets-1-copy').files).toEqual(volumeOf(at, 'lintel-1', 'tickets-1').files);
  expect(lagOf(row(at), at.now)).toBeLessThanOrEqual(6 * MINUTE);
  whole(at);
});

test('without writes nothing but time is behind, and each point in time is whole', () => {
  const at = copying();
  at.pass(HOUR);
  at.estate.apply([changed('volume', volumeOf(at, 'lintel-1', 'tickets-1'), { activity: null })]);
  at.pass(HOUR);
  const all = [...cycles(at)].sort((a, b) => a.pit - b.pit);
  expect(all.at(-1)).toMatchObject({ changed: 0, wire: 0, result: 'done' });
  for (const [k, one] of all.entries()) if (k > 0) expect(one.pit - all[k - 1]!.pit).toBe(5 * MINUTE);
  expect(bytesAtRisk(at.estate, row(at), at.now)).toBe(0);
  whole(at);
});

test('images that are kept lie at the other site, and no more of them', () => {
  const at = copying({ do: 'replication.configure', replication: 'Ticketing', images: 3 });
  at.pass(HOUR);
  const images = copiesOf(at.estate, volumeOf(at, 'lintel-2', 'tickets-1-copy').id);
  expect(images.length).toBeLessThanOrEqual(3);
  expect(images.length).toBeGreaterThan(1);
  whole(at);
});

test('of each day the first image stays for so many days, beside the newest', () => {
  const at = copying({
    do: 'replication.configure',
    replication: 'Ticketing',
    interval: '2 h',
    rpo: '6 h',
    images: 1,
    imagesDaily: 2,
  });
  at.pass(5 * DAY);
  const today = Math.floor(at.now / DAY);
  const ats = copiesOf(at.estate, volumeOf(at, 'lintel-2', 'tickets-1-copy').id).map((copy) => copy.at);
  expect(ats).toHaveLength(3);
  expect(ats.slice(0, 2).map((moment) => Math.floor(moment / DAY))).toEqual([today - 1, today]);
  for (const moment of ats.slice(0, 2)) expect(moment % DAY).toBeLessThan(2 * HOUR);
  expect(at.now - ats[2]!).toBeLessThan(5 * HOUR);
  whole(at);
  at.run({ do: 'replication.configure', replication: 'Ticketing', imagesDaily: 0 });
  at.pass(3 * HOUR);
  expect(copiesOf(at.estate, volumeOf(at, 'lintel-2', 'tickets-1-copy').id)).toHaveLength(1);
});

test('a lost line breaks it off; it catches up by itself', () => {
  const at = copying();
  at.pass(HOUR);
  fault(at, 'site-link-down', line(at));
  expect(at.pass(MINUTE)).toEqual([expect.stringContaining('dark fibre is down')]);
  expect(row(at)).toMatchObject({ state: 'broken', linkState: 'down', carrying: null });
  at.pass(2 * HOUR);
  expect(lagOf(row(at), at.now)).toBeGreaterThan(2 * HOUR);
  expect(at.codes({ do: 'replication.switch', replication: 'Ticketing', stopped: true })).toEqual([
    'replication-not-protected',
  ]);
  fault(at, 'site-link-down', line(at), true);
  expect(at.pass(20 * MINUTE).join()).toContain('catches up');
  expect(row(at).state).toBe('protected');
  expect(lagOf(row(at), at.now)).toBeLessThan(10 * MINUTE);
  whole(at);
});

test('paused nothing is sent; it goes on where it was', () => {
  const at = copying();
  at.pass(HOUR);
  at.run({ do: 'replication.pause', replication: 'Ticketing' });
  expect(at.codes({ do: 'replication.pause', replication: 'Ticketing' })).toEqual(['replication-not-active']);
  const many = cycles(at).length;
  at.pass(HOUR);
  expect(cycles(at)).toHaveLength(many);
  at.run({ do: 'replication.resume', replication: 'Ticketing' });
  at.pass(20 * MINUTE);
  expect(row(at).state).toBe('protected');
  whole(at);
});

test('switched as planned nothing is lost, and there and back again', () => {
  const at = copying();
  at.pass(HOUR);
  file(at, 'last.db');
  const turn = { do: 'replication.switch', replication: 'Ticketing', stopped: true };
  expect(at.codes({ ...turn, stopped: false })).toEqual(['replication-confirm-hosts-stopped']);
  expect(at.codes(turn)).toEqual(['replication-confirm-hosts-stopped']);
  at.run(unmount, turn);
  expect(row(at)).toMatchObject({ state: 'protected', source: 'S', accessP: 'no', accessS: 'yes' });
  expect(volumeOf(at, 'lintel-2', 'tickets-1-copy').files.map(({ path }) => path)).toEqual(['last.db']);
  expect(at.codes({ do: 'host-device.mount', host: 'gate-1', device: 'tickets-1', mountPoint: '/srv/t' })).toContain(
    'replication-target',
  );
  at.pass(HOUR);
  at.run(turn);
  expect(row(at)).toMatchObject({ source: 'P', accessP: 'yes', accessS: 'no' });
  at.run({ do: 'host-device.mount', host: 'gate-1', device: 'tickets-1', mountPoint: '/srv/t' });
  expect(volumeOf(at, 'lintel-1', 'tickets-1').files.map(({ path }) => path)).toEqual(['last.db']);
  whole(at);
});

describe('a failover', () => {
  const over = { do: 'replication.failover', replication: 'Ticketing', confirm: 'ticketing', fence: 'array-off' };

  test('asks for all that a person must know, and loses what was not sent', () => {
    const at = copying();
    expect(at.codes(over)).toEqual(['replication-no-consistent-image']);
    at.pass(HOUR);
    file(at, 'unsent.db');
    expect(at.codes(over)).toEqual(['replication-source-alive-use-switch']);
    const array = named(at.estate, 'array', 'lintel-1').id;
    fault(at, 'array-down', array);
    at.pass(MINUTE);
    expect(row(at)).toMatchObject({ state: 'broken', siteP: 'down' });
    expect(at.codes({ ...over, confirm: '' })).toEqual(['replication-confirm-data-loss']);
    expect(at.codes({ ...over, fence: undefined })).toEqual(['replication-confirm-source-fenced']);
    at.run(over);
    expect(row(at)).toMatchObject({ state: 'failed-over', accessP: 'unknown', accessS: 'yes', fence: 'array-off' });
    expect(volumeOf(at, 'lintel-2', 'tickets-1-copy').files).toEqual([]);
    whole(at);
    // The old source comes back closed to hosts, and waits.
    fault(at, 'array-down', array, true);
    at.pass(MINUTE);
    expect(row(at)).toMatchObject({ state: 'failed-over', accessP: 'no', accessS: 'yes' });
    at.pass(DAY);
    expect(row(at).state).toBe('failed-over');
    const back = { do: 'replication.reverse', replication: 'Ticketing', confirm: 'Ticketing' };
    expect(at.codes({ ...back, confirm: 'no' })).toEqual(['replication-confirm-discard-old-source']);
    at.run(unmount, back);
    expect(row(at)).toMatchObject({ state: 'copying', source: 'S', image: false });
    // What it alone received is kept as a copy.
    const [kept] = copiesOf(at.estate, volumeOf(at, 'lintel-1', 'tickets-1').id).slice(-1);
    expect(kept!.files.map(({ path }) => path)).toEqual(['unsent.db']);
    at.pass(HOUR);
    expect(row(at).state).toBe('protected');
    expect(volumeOf(at, 'lintel-1', 'tickets-1').files).toEqual([]);
    whole(at);
  });

  test('undone, the old source serves as if nothing had been', () => {
    const at = copying();
    at.pass(HOUR);
    file(at, 'mine.db');
    at.run({ ...over, sourceStopped: true });
    expect(row(at)).toMatchObject({ state: 'failed-over', accessP: 'no' });
    at.pass(HOUR);
    const undoneAt = at.now - 1;
    at.run({ do: 'replication.undo', replication: 'Ticketing', confirm: 'Ticketing' });
    expect(row(at)).toMatchObject({ state: 'copying', source: 'P', accessP: 'yes', accessS: 'no', image: true });
    at.pass(HOUR);
    expect(volumeOf(at, 'lintel-2', 'tickets-1-copy').files.map(({ path }) => path)).toEqual(['mine.db']);
    // What both sides changed since they were one, not all of it.
    const [turned] = [...cycles(at)].filter(({ pit }) => pit > undoneAt).sort((a, b) => a.pit - b.pit);
    expect(turned!.changed).toBeGreaterThan(0);
    expect(turned!.changed).toBeLessThan(shownBytes(volumeOf(at, 'lintel-1', 'tickets-1')) / 2);
    whole(at);
  });
});

test('what would harm is refused', () => {
  const at = copying();
  at.pass(HOUR);
  const resize = (array: string, size: string) => ({
    do: 'volume.resize',
    array,
    volumes: [array === 'lintel-1' ? 'tickets-1' : 'tickets-1-copy'],
    size,
  });
  expect(at.codes(resize('lintel-1', '100 GiB'))).toContain('replication-side');
  controllers(at, 'lintel-2', 'down');
  expect(at.codes(resize('lintel-1', '900 GiB'))).toEqual(['replication-peer-unreachable']);
  controllers(at, 'lintel-2', 'up');
  at.run(resize('lintel-1', '900 GiB'));
  const sizes = () => [volumeOf(at, 'lintel-1', 'tickets-1').size, volumeOf(at, 'lintel-2', 'tickets-1-copy').size];
  expect(sizes()).toEqual([900 * GIB, 900 * GIB]);
  at.run(resize('lintel-2', '950 GiB'));
  expect(sizes()).toEqual([950 * GIB, 950 * GIB]);
  expect(at.codes({ do: 'volume.delete', array: 'lintel-2', volumes: ['tickets-1-copy'] })).toContain(
    'replication-side',
  );
  expect(at.codes({ ...replicate, name: 'again' })).toContain('replication-overlap');
  expect(at.codes({ do: 'site-link.delete', link: 'dark fibre' })).toEqual(['link-used']);
  expect(at.codes({ do: 'replication.remove', replication: 'Ticketing' })).toEqual(['replication-confirm-remove']);
  at.run({ do: 'snapshot.create', array: 'lintel-2', volume: 'tickets-1-copy', name: 'there' });
  expect(at.codes({ do: 'snapshot.restore', array: 'lintel-2', volume: 'tickets-1-copy', copy: 'there' })).toContain(
    'restore-is-target',
  );
  at.run({ do: 'replication.remove', replication: 'Ticketing', confirm: 'Ticketing' });
  expect(volumeOf(at, 'lintel-2', 'tickets-1-copy').written).toBeGreaterThan(0);
  expect(at.codes({ ...replicate, to: 'purlin-1', pool: 'quay' })).toContain('pool-unknown');
  whole(at);
});

test('a target without room says so, and goes on when there is some', () => {
  const at = copying();
  const array = named(at.estate, 'array', 'lintel-2').id;
  const pool = [...at.estate.table('pool').values()].find((one) => one.array === array)!;
  const left = Math.floor((availableExtents(at.estate, pool) * pool.extentSize) / GIB) - 10;
  at.run({
    do: 'volume.create',
    array: 'lintel-2',
    pool: 'quay',
    name: 'ballast',
    size: `${left} GiB`,
    provisioning: 'thick',
  });
  expect(at.pass(MINUTE).join()).toContain('has no room');
  expect(cycles(at)[0]).toMatchObject({ result: 'failed', reason: expect.stringContaining('no room') as string });
  expect(volumeOf(at, 'lintel-2', 'tickets-1-copy').written).toBe(0);
  at.run({ do: 'volume.delete', array: 'lintel-2', volumes: ['ballast'], confirm: ['ballast'], keepDays: 0 });
  at.pass(30 * MINUTE);
  expect(row(at).state).toBe('protected');
  whole(at);
});

test('two that share a line share it by their weights', () => {
  const at = stage(
    ...elsewhere,
    { do: 'site-link.configure', link: 'dark fibre', speed: '100 Mb/s' },
    { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'second', size: '100 GiB' },
  );
  const second = volumeOf(at, 'lintel-1', 'second');
  at.run(
    { ...replicate },
    { ...replicate, workload: '', array: 'lintel-1', volume: 'second', name: 'Second', weight: 3 },
  );
  expect(second.written).toBe(0);
  at.pass(1000);
  const rate = (name: string) => named(at.estate, 'replication', name).carrying?.rate ?? 0;
  expect(rate('Second') / rate('Ticketing')).toBeCloseTo(3, 9);
  at.pass(MINUTE);
  expect(rate('Second')).toBe(0);
  expect(rate('Ticketing')).toBeCloseTo((1e8 / 8) * 0.94, -2);
});

test('with a plan both sides hold copies of the same instants', () => {
  const plan = {
    do: 'plan.create',
    name: 'Nightly',
    zone: 'UTC',
    every: '4 h',
    keepCount: 6,
  };
  const at = stage(
    ...elsewhere,
    plan,
    { do: 'plan.attach', plan: 'Nightly', workloads: ['Ticketing'] },
    {
      ...replicate,
      rpo: undefined,
      interval: undefined,
      plan: 'Nightly',
      images: 5,
    },
  );
  at.pass(20 * HOUR);
  const [source] = row(at).primaries;
  const [target] = row(at).secondaries;
  const instants = (volume: string) =>
    at.estate
      .table('snapshot')
      .by('volume', volume)
      .map(({ at: when }) => when);
  const own = instants(source!);
  const there = instants(target!).filter((when) => when > row(at).startedAt);
  expect(there.length).toBeGreaterThan(2);
  expect(own).toEqual(expect.arrayContaining(there));
  expect(at.codes({ do: 'plan.delete', plan: 'Nightly' })).toContain('plan-in-use');
  at.run({ do: 'replication.configure', replication: 'Ticketing', plan: 'none', interval: '10 min' });
  expect(row(at)).toMatchObject({ plan: null, interval: 10 * MINUTE });
  at.pass(HOUR);
  expect(lagOf(row(at), at.now)).toBeLessThan(20 * MINUTE);
});

test('what joined the workload later is copied with it from the next cut on', () => {
  const at = copying();
  at.pass(HOUR);
  expect(at.codes({ do: 'replication.extend', replication: 'Ticketing' })).toEqual(['replication-nothing-joined']);
  at.run({
    do: 'volume.create',
    array: 'lintel-1',
    pool: 'quay',
    name: 'tickets-3',
    size: '50 GiB',
    workload: 'Ticketing',
  });
  const joined = volumeOf(at, 'lintel-1', 'tickets-3');
  at.estate.apply([changed('volume', joined, { written: GIB })]);
  at.run({ do: 'replication.extend', replication: 'Ticketing' });
  expect(row(at).primaries).toHaveLength(3);
  at.pass(HOUR);
  expect(row(at).state).toBe('protected');
  expect(volumeOf(at, 'lintel-2', 'tickets-3-copy').written).toBe(GIB);
});
