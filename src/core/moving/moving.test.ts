import { askable } from '../change/registry';
import { stage, type Stage } from '../../../demo/protected';
import { slots } from '../../../demo/names';
import { differences, refusalsOf } from '../../../demo/workbench';
import { planChange } from '../change/plan';
import { planUndo } from '../change/undo';
import { without } from '../estate/runs';
import { mappedRuns } from '../content/weave';
import { writeUpTo } from '../volume/grow';
import { heldNumbers } from '../volume/held';
import { changed, deleted } from '../estate/effects';
import { Overlay } from '../estate/estate';
import { newIds } from '../estate/new-ids';
import { availableExtents } from '../pool/usage';
import { tried } from '../rules/book';
import { lookUp } from '../operation/inquiry';
import { capacityModel } from '../space/capacity';
import { pathFinder } from '../attach/paths';
import { trace } from '../trace/trace';
import { DAY, HOUR, MINUTE, SECOND } from '../units/duration';
import { GIB } from '../units/bytes';
import { extentsBesideMoves, needAt } from '../volume/promised';
import { barredByMoves } from './bar';
import { wavesOf } from './waves';
import { foretoldCopy } from './foretold';
import { lacking } from './changes';

const hold = [
  { do: 'raid-group.create', array: 'lintel-1', name: 'rg-2', level: 'raid6', drives: slots(0, 10, 19) },
  { do: 'pool.create', array: 'lintel-1', name: 'hold', raidGroups: ['rg-2'] },
];
const other = [
  { do: 'raid-group.create', array: 'purlin-1', name: 'rg-1', level: 'raid6', drives: slots(0, 0, 9) },
  { do: 'pool.create', array: 'purlin-1', name: 'berth', raidGroups: ['rg-1'] },
  { do: 'volume.activity', array: 'lintel-1', volumes: ['tickets-1'], kind: 'archive' },
];
const move = { do: 'volume.move', array: 'lintel-1', volumes: ['tickets-1'], pool: 'hold' };

const named = (of: Stage, name = 'tickets-1') => lookUp(of.estate, 'move', name)!;
const volume = (of: Stage, name = 'tickets-1', array = 'lintel-1') =>
  lookUp(of.estate, 'volume', name, lookUp(of.estate, 'array', array)!.id);
const device = (of: Stage) => [...of.estate.table('hostDevice').values()].find((row) => row.mountPoint !== null)!;

/** What hosts know of a volume: nothing of it may be lost by a move. */
const known = (of: Stage) => {
  const { id, naa, name, written, holes, size, files } = volume(of)!;
  const { used, fileSystem, mountPoint, readOnly, naa: seen } = device(of);
  return { id, naa, name, written, holes, size, files, used, fileSystem, mountPoint, readOnly, seen };
};

/** Pages that hosts wrote and that lie nowhere. */
const lost = (of: Stage) => {
  const row = volume(of)!;
  const { extentSize } = of.estate.table('pool').get(row.pool)!;
  const held = heldNumbers(of.estate, row.id).map(([from, to]): [number, number] => [
    from * extentSize,
    to * extentSize,
  ]);
  return without(mappedRuns(row), held);
};

const whole = (of: Stage) => {
  for (let hours = 0; hours < 48 && named(of).state !== 'waiting'; hours++) of.pass(HOUR);
  expect(named(of).state).toBe('waiting');
};

describe('asking for a move is taken back', () => {
  const asked = (of: Stage) => planChange(of.estate, [move], { seed: 'asked', now: of.now, month: '2031-04' }).steps;

  test('while nothing has been copied the estate is as it was; what else would take the move along may not', () => {
    const of = stage(...hold);
    const steps = asked(of);
    const overlay = new Overlay(of.estate);
    for (const step of steps) overlay.apply(step.effects);
    const undone = planUndo(overlay, steps);
    expect(undone.refusals).toEqual([]);
    expect(differences(of.estate, undone.overlay)).toEqual([]);
    // Another step that would take the move along does not own it.
    const row = [...overlay.table('move').values()][0]!;
    expect(barredByMoves(overlay, [deleted('move', row)])).toMatchObject([{ code: 'volume-moving' }]);
  });

  test('under way it is aborted instead', () => {
    const of = stage(...hold);
    const steps = asked(of);
    for (const step of steps) of.estate.apply(step.effects);
    of.pass(MINUTE);
    expect(planUndo(of.estate, steps).refusals).toMatchObject([
      { code: 'undo-conflict', message: expect.stringContaining('abort it') as string },
    ]);
  });
});

describe('where to', () => {
  const form = (of: Stage, draft: Record<string, unknown>) =>
    askable('volume.move')!.foretell(of.estate, draft, { now: of.now, month: '2031-04', newId: () => 'x' }).fields;
  const drafted = { array: 'lintel-1', volumes: ['tickets-1'] };

  it('pools are ranked by room and service, the one they lie in last; with nothing chosen the best is named', () => {
    const of = stage(...hold, {
      do: 'raid-group.create',
      array: 'lintel-1',
      name: 'rg-3',
      level: 'raid10',
      drives: slots(0, 20, 23),
    });
    of.run({ do: 'pool.create', array: 'lintel-1', name: 'slip', raidGroups: ['rg-3'] });
    const { pool } = form(of, drafted);
    expect(pool!.choices!.map(({ value }) => value)).toEqual(['hold', 'slip', 'quay']);
    expect(pool!.choices![0]!.label).toMatch(/^hold, .* free, fits \d+ of 100$/);
    expect(pool!.choices![2]).toMatchObject({ value: 'quay', unfit: 'is where they lie' });
    expect(pool!.says).toMatch(/^lintel-1 hold first; its weakest point is .*\. Second best lintel-1 slip: /);
  });

  it('a class leaves out what does not fit it', () => {
    const of = stage(...hold);
    of.run({
      do: 'class.create',
      name: 'Double',
      rules: ['protection at least 2'],
    });
    of.run({ do: 'class.apply', array: 'lintel-1', class: 'Double', volumes: ['tickets-1'] });
    of.run({ do: 'raid-group.create', array: 'lintel-1', name: 'rg-3', level: 'raid1', drives: slots(2, 0, 1) });
    of.run({ do: 'pool.create', array: 'lintel-1', name: 'slip', raidGroups: ['rg-3'] });
    const { pool } = form(of, drafted);
    expect(pool!.choices!.map(({ value, label }) => `${value} ${/fits/.test(label)}`)).toEqual([
      'hold true',
      'slip false',
      'quay false',
    ]);
    expect(pool!.says).toMatch(/^lintel-1 hold alone fits/);
  });
});

describe('within one array', () => {
  it('copies in rounds, waits for a person, cuts over, proves and cleans up, and hosts keep every byte', () => {
    const of = stage(...hold, move);
    const before = known(of);
    expect(named(of).state).toBe('ready');
    of.pass(SECOND);
    expect(named(of).state).toBe('copying');
    const twin = () => of.estate.table('volume').get(named(of).twin!)!;
    expect(twin().written).toBe(0);
    whole(of);
    expect(twin()).toMatchObject({
      written: before.written,
      pool: lookUp(of.estate, 'pool', 'hold', twin().array)!.id,
    });
    expect(of.estate.occupancy.allocated(twin().id)).toBeGreaterThan(0);
    const { pool } = volume(of)!;
    of.run({ do: 'move.confirm', moves: ['tickets-1'] });
    expect(named(of).state).toBe('cutting');
    of.pass(10 * SECOND);
    expect(named(of).state).toBe('proving');
    expect(volume(of)!.pool).toBe(lookUp(of.estate, 'pool', 'hold', volume(of)!.array)!.id);
    expect(twin().pool).toBe(pool);
    expect(known(of)).toEqual({ ...before, written: volume(of)!.written, used: device(of).used });
    expect(volume(of)!.written).toBeGreaterThanOrEqual(before.written);
    of.run({ do: 'move.accept', moves: ['tickets-1'] });
    of.pass(2 * MINUTE);
    expect(named(of)).toMatchObject({ state: 'done', twin: null });
    expect(of.estate.table('extent').countBy('volume', volume(of)!.id)).toBeGreaterThan(0);
    expect([...of.estate.table('volume').by('pool', pool)].map(({ name }) => name)).not.toContain('tickets-1-move');
    expect(tried(of.estate, []).broken).toEqual([]);
  });

  it('takes as long as it was foretold', () => {
    const of = stage(...hold, move);
    of.pass(SECOND);
    const { round } = named(of);
    const foretold = foretoldCopy(of.estate, named(of), volume(of)!, round!.rate, of.now);
    expect(foretold.outcome).toBe('converged');
    whole(of);
    const { rounds } = named(of);
    expect(rounds.length).toBe(foretold.rounds.length);
    rounds.forEach(({ bytes, took }, k) => {
      expect(bytes).toBeCloseTo(foretold.rounds[k]!.bytes, -6);
      expect(Math.abs(took - foretold.rounds[k]!.took)).toBeLessThan(2 * SECOND);
    });
  });

  it('gives the estate back when it is aborted, in every phase before the cut', () => {
    for (const phase of ['ready', 'copying', 'waiting'] as const) {
      const of = stage(...hold, move);
      const before = known(of);
      if (phase !== 'ready') of.pass(SECOND);
      if (phase === 'waiting') whole(of);
      expect(named(of).state).toBe(phase);
      of.run({ do: 'move.abort', moves: ['tickets-1'] });
      expect(named(of).state).toBe('aborted');
      expect(volume(of, 'tickets-1-move')).toBeUndefined();
      expect(known(of)).toEqual({ ...before, written: volume(of)!.written, used: device(of).used });
      const free = lookUp(of.estate, 'raidGroup', 'rg-2', volume(of)!.array)!;
      expect(of.estate.occupancy.used(free.id)).toBe(0);
      expect(of.codes({ do: 'move.confirm', moves: ['tickets-1'] })).toEqual(['move-state']);
    }
  });

  it('rolls back: what hosts wrote since goes the other way, and the same volume lies where it lay', () => {
    const of = stage(...hold, move);
    const { pool } = volume(of)!;
    whole(of);
    of.run({ do: 'move.confirm', moves: ['tickets-1'] });
    of.pass(10 * SECOND);
    const { written } = volume(of)!;
    of.estate.apply([
      {
        kind: 'hostDevice',
        id: device(of).id,
        before: device(of),
        after: { ...device(of), writeRate: 1024 * 1024 },
      } as never,
    ]);
    of.pass(HOUR);
    expect(volume(of)!.written).toBeGreaterThan(written);
    of.run({ do: 'move.roll-back', moves: ['tickets-1'] });
    expect(named(of)).toMatchObject({ state: 'waiting', turned: true });
    of.pass(50 * MINUTE);
    const had = volume(of)!.written;
    of.run({ do: 'move.confirm', moves: ['tickets-1'] });
    of.pass(10 * SECOND);
    // What was written since the last delta took its room at the cut.
    expect(lost(of)).toEqual([]);
    expect(named(of).state).toBe('proving');
    expect(volume(of)!.pool).toBe(pool);
    expect(volume(of)!.written).toBeGreaterThanOrEqual(had);
    expect(pathFinder(of.estate).reaches(device(of))).toBe(true);
    expect(tried(of.estate, []).broken).toEqual([]);
  });

  it('lets copies in time stay behind only where that is accepted, and not while one is locked', () => {
    const of = stage(...hold);
    of.run({ do: 'snapshot.create', array: 'lintel-1', volume: 'tickets-1', name: 'before' });
    expect(of.codes(move)).toEqual(['move-copies-stay']);
    of.run({ ...move, leaves: true });
    whole(of);
    of.run({ do: 'move.confirm', moves: ['tickets-1'] });
    of.pass(10 * SECOND);
    const twin = of.estate.table('volume').get(named(of).twin!)!;
    expect([...of.estate.table('snapshot').by('volume', twin.id)].map(({ name }) => name)).toEqual(['before']);
    expect(of.estate.table('snapshot').countBy('volume', volume(of)!.id)).toBe(0);
    const [copy] = of.estate.table('snapshot').by('volume', twin.id);
    of.estate.apply([{ kind: 'snapshot', id: copy!.id, before: copy!, after: { ...copy!, hold: 'auditor' } } as never]);
    expect(of.codes({ do: 'move.accept', moves: ['tickets-1'] })).toEqual(['snapshot-locked']);
    of.pass(8 * DAY);
    expect(named(of)).toMatchObject({ state: 'proving', reason: '1 copy of the old copy is held' });
  });

  it('is accepted by itself after its days, where hosts are well', () => {
    const of = stage(...hold, move);
    whole(of);
    of.run({ do: 'move.confirm', moves: ['tickets-1'] });
    of.pass(8 * DAY);
    expect(named(of).state).toBe('done');
  });

  it('keeps both sides alike: what would part them is refused while it goes', () => {
    const of = stage(...hold, move);
    of.pass(MINUTE);
    const both = (one: object) => of.codes({ array: 'lintel-1', ...one } as never);
    expect(both({ do: 'volume.resize', volumes: ['tickets-1'], size: '300 GiB' })).toEqual(['volume-moving']);
    expect(both({ do: 'volume.convert', volumes: ['tickets-1'], to: 'thick' })).toEqual(['volume-moving']);
    expect(both({ do: 'mapping.create', host: 'gate-1', volumes: ['tickets-1-move'] })).toEqual(['volume-moving']);
    expect(both({ do: 'snapshot.create', volume: 'tickets-1-move', name: 'x' })).toContain('volume-moving');
    expect(both({ do: 'volume.delete', volumes: ['tickets-1-move'], confirm: ['tickets-1-move'] })).toEqual([
      'volume-moving',
    ]);
    expect(of.codes(move)).toContain('move-under-way');
  });
});

test('what is copied to is no volume that nobody needs', () => {
  const of = stage(...hold, move);
  whole(of);
  const model = capacityModel(of.estate);
  expect(model.had.map(({ name }) => name)).not.toContain('tickets-1-move');
});

describe('refusals', () => {
  it('names the thing, the reason and the mend', () => {
    const of = stage(...hold);
    expect(of.codes({ ...move, pauseS: 1 })).toEqual(['move-pause-below-barrier']);
    expect(of.codes({ ...move, pool: 'quay' })).toEqual(['move-same-pool']);
    expect(of.codes({ ...move, identity: 'new' })).toEqual(['move-identity-stays']);
    expect(of.codes({ ...move, cap: '0' })).toEqual(['move-cap-zero']);
    expect(of.codes({ do: 'move.confirm', moves: ['nobody'] })).toEqual(['move-unknown']);
    of.run({
      do: 'volume.create',
      array: 'lintel-1',
      pool: 'hold',
      name: 'full',
      size: '2 TiB',
      provisioning: 'thick',
      count: 1,
    });
    const pool = lookUp(of.estate, 'pool', 'hold', volume(of)!.array)!;
    expect(needAt(volume(of)!, pool)).toBeGreaterThanOrEqual(40 * GIB);
  });

  it('does not confirm what is not whole, nor beyond its window', () => {
    const of = stage(...hold);
    const hour = new Date(of.now).getUTCHours();
    of.run({ do: 'wave-plan.create', name: 'By night', from: (hour + 2) % 24, until: (hour + 3) % 24 });
    of.run({ ...move, wavePlan: 'By night' });
    of.pass(HOUR);
    expect(named(of).state).toBe('ready');
    expect(of.codes({ do: 'move.confirm', moves: ['tickets-1'] })).toEqual(['move-state']);
    of.pass(90 * MINUTE);
    expect(named(of).state).toBe('waiting');
    of.pass(2 * HOUR);
    // Outside its window nothing keeps in step, and nothing is cut over.
    expect(named(of)).toMatchObject({ state: 'waiting', every: 0 });
    expect(of.codes({ do: 'move.confirm', moves: ['tickets-1'] })).toEqual(['move-window-short']);
    of.pass(22 * HOUR);
    expect(of.codes({ do: 'move.confirm', moves: ['tickets-1'] })).toEqual([]);
  });

  it('takes no plan that waits in a circle', () => {
    const of = stage(...hold);
    of.run({ do: 'wave-plan.create', name: 'Later' }, { do: 'wave-plan.hold', plan: 'Later' });
    of.run(
      { ...move, wavePlan: 'Later' },
      { ...move, volumes: ['tickets-2'], wavePlan: 'Later', after: ['tickets-1'] },
    );
    const found = of.codes({ do: 'move.configure', move: 'tickets-1', after: ['tickets-2'] });
    expect(found).toEqual(['waves-cycle']);
  });
});

describe('what stands against it', () => {
  const row = (of: Stage, kind: 'array' | 'pool', name: string, scope = '') => lookUp(of.estate, kind, name, scope)!;

  it('is refused where the pool has no room beside its reserve, and beside what others are to take', () => {
    const of = stage(...hold);
    const pool = lookUp(of.estate, 'pool', 'hold', row(of, 'array', 'lintel-1').id)!;
    const left = availableExtents(of.estate, pool) * pool.extentSize;
    const fill = (name: string, size: number) =>
      of.run({
        do: 'volume.create',
        array: 'lintel-1',
        pool: 'hold',
        name,
        size: `${Math.floor(size / GIB)} GiB`,
        provisioning: 'thick',
        count: 1,
      });
    fill('most', left - 60 * GIB);
    of.estate.apply(writeUpTo(of.estate, volume(of, 'tickets-2')!, 30 * GIB, newIds('second'), of.now).effects);
    expect(of.codes(move)).toEqual([]);
    const before = extentsBesideMoves(of.estate, pool);
    of.run({ ...move, volumes: ['tickets-2'], cap: '1 MiB/s' });
    expect(of.codes(move)).toEqual(['move-room']);
    // Whoever carves, makes larger or thick what is there finds that room taken too, until the move is over.
    const promised = before - extentsBesideMoves(of.estate, pool);
    expect(promised * pool.extentSize).toBeGreaterThanOrEqual(30 * GIB);
    const more = {
      do: 'volume.create',
      array: 'lintel-1',
      pool: 'hold',
      name: 'more',
      provisioning: 'thick',
      count: 1,
    };
    const size = `${Math.ceil((before * pool.extentSize) / GIB) - 20} GiB`;
    expect(refusalsOf(of.estate, { ...more, size })[0]!.message).toMatch(
      /^hold has .* left beside .* for moves that go there; /,
    );
    const larger = `${Math.floor((left - 20 * GIB) / GIB)} GiB`;
    expect(of.codes({ do: 'volume.resize', array: 'lintel-1', volumes: ['most'], size: larger })).toEqual([
      'pool-too-small',
    ]);
    of.run({ do: 'move.abort', moves: ['tickets-2'] });
    expect(extentsBesideMoves(of.estate, pool)).toBe(before);
    expect(of.codes({ ...more, size })).toEqual([]);
  });

  it('waits for slots, and for those it comes after', () => {
    const of = stage(...hold);
    of.estate.apply(writeUpTo(of.estate, volume(of, 'tickets-2')!, 30 * GIB, newIds('second'), of.now).effects);
    of.run({ do: 'wave-plan.create', name: 'One by one', slots: 1 });
    of.run({ ...move, wavePlan: 'One by one' }, { ...move, volumes: ['tickets-2'], wavePlan: 'One by one' });
    of.pass(SECOND);
    expect([named(of), named(of, 'tickets-2')].map(({ state }) => state)).toEqual(['copying', 'ready']);
    of.run({ do: 'wave-plan.configure', plan: 'One by one', slots: 2 });
    of.run({ do: 'move.configure', move: 'tickets-2', after: ['tickets-1'] });
    of.pass(SECOND);
    expect(named(of, 'tickets-2').state).toBe('ready');
    of.run({ do: 'move.configure', move: 'tickets-2', after: [] });
    of.pass(SECOND);
    expect(named(of, 'tickets-2').state).toBe('copying');
  });

  it('holds what hosts write while it is cut over, and not longer', () => {
    const of = stage(...hold, move);
    whole(of);
    of.estate.apply([changed('hostDevice', device(of), { writeRate: 2 ** 20 })]);
    of.run({ do: 'move.confirm', moves: ['tickets-1'] });
    const { used } = device(of);
    of.pass(500);
    expect(named(of).state).toBe('cutting');
    expect(device(of).used).toBe(used);
    of.pass(10 * SECOND);
    expect(device(of).used).toBeGreaterThan(used);
  });

  it('is accepted only where hosts are well on their paths', () => {
    const of = stage(...hold, move);
    whole(of);
    of.run({ do: 'move.confirm', moves: ['tickets-1'] });
    of.pass(10 * SECOND);
    of.estate.apply(
      [...of.estate.table('mapping').by('volume', volume(of)!.id)].map((one) => changed('mapping', one, { ports: [] })),
    );
    expect(of.codes({ do: 'move.accept', moves: ['tickets-1'] })).toEqual(['move-unhealthy']);
  });

  it('is confirmed only while every host has its paths there', () => {
    const of = stage(...other, {
      do: 'storage.move',
      array: 'lintel-1',
      volumes: ['tickets-1'],
      to: 'purlin-1',
      pool: 'berth',
    });
    whole(of);
    const ports = of.estate
      .table('port')
      .by('array', row(of, 'array', 'purlin-1').id)
      .filter(({ role }) => role === 'iscsi');
    of.estate.apply(ports.slice(1).map((port) => changed('port', port, { state: 'down' })));
    expect(of.codes({ do: 'move.confirm', moves: ['tickets-1'] })).toEqual(['move-paths']);
  });

  it('keeps the number that hosts see it by, or takes another with a new identity; what belongs to the array stays behind', () => {
    const away = { do: 'storage.move', array: 'lintel-1', volumes: ['tickets-1'], to: 'purlin-1', pool: 'berth' };
    const of = stage(...other);
    const [mapping] = of.estate.table('mapping').by('volume', volume(of)!.id);
    of.run({ do: 'volume.create', array: 'purlin-1', pool: 'berth', name: 'there', size: '1 GiB', count: 1 });
    of.run({ do: 'mapping.create', host: 'gate-1', array: 'purlin-1', volumes: ['there'], lun: mapping!.lun });
    expect(of.codes(away)).toEqual(['move-lun-taken']);
    expect(of.codes({ ...away, identity: 'new' })).toEqual([]);
    of.run({ do: 'limit.create', array: 'lintel-1', name: 'calm', volumes: ['tickets-1'], iops: 30 });
    expect(of.codes({ ...away, identity: 'new' })).toEqual(['move-limits-stay']);
    of.run(
      { do: 'host-device.unmount', host: 'gate-1', device: device(of).name },
      { ...away, identity: 'new', leaves: true },
    );
    whole(of);
    of.run({ do: 'move.confirm', moves: ['tickets-1'] });
    of.pass(10 * SECOND);
    const [after] = of.estate.table('mapping').by('volume', named(of).volume);
    expect(after!.lun).not.toBe(mapping!.lun);
    expect(of.estate.table('limitUse').countBy('volume', named(of).volume)).toBe(0);
    expect(tried(of.estate, []).broken).toEqual([]);
  });
});

describe('mirrored and throttled', () => {
  const busy = {
    do: 'volume.activity',
    array: 'lintel-1',
    volumes: ['tickets-1'],
    kind: 'database',
    writes: 60000,
    workingSet: 90,
    hot: 0,
  };

  it('asks a person where it does not converge; mirrored it does', () => {
    const of = stage(...hold, busy, { ...move, cap: '20 MiB/s', pauseS: 2 });
    of.pass(4 * HOUR);
    expect(named(of)).toMatchObject({ state: 'copying', asks: 'not-converging' });
    of.run({ do: 'move.configure', move: 'tickets-1', mode: 'mirror' });
    of.pass(2 * HOUR);
    expect(named(of).state).toBe('waiting');
    expect(lacking(of.estate, named(of), of.now)).toBe(0);
  });

  it('converges where a limit holds back what hosts write', () => {
    const of = stage(...hold, busy, { ...move, cap: '20 MiB/s', pauseS: 2 });
    of.pass(4 * HOUR);
    expect(named(of).state).toBe('copying');
    of.run({ do: 'limit.create', array: 'lintel-1', name: 'calm', volumes: ['tickets-1'], iops: 20 });
    of.pass(4 * HOUR);
    expect(named(of).state).toBe('waiting');
  });
});

describe('to another array', () => {
  const away = { do: 'storage.move', array: 'lintel-1', volumes: ['tickets-1'], to: 'purlin-1', pool: 'berth' };

  it('the trace says where it goes and which new paths stand ready, until it is accepted', () => {
    const of = stage(...other);
    const says = () => trace(of.estate, lookUp(of.estate, 'host', 'gate-1')!, volume(of)!).moving;
    expect(says()).toBeNull();
    of.run(away);
    expect(says()).toBe('It is to go to purlin-1 berth.');
    whole(of);
    expect(says()).toMatch(
      /^It goes to purlin-1 berth: \d+ new paths stand ready at gate-1, not used before the cut\.$/,
    );
    of.run({ do: 'move.confirm', moves: ['tickets-1'] });
    of.pass(10 * SECOND);
    expect(trace(of.estate, lookUp(of.estate, 'host', 'gate-1')!, volume(of, 'tickets-1', 'purlin-1')!).moving).toBe(
      'It was taken over from lintel-1, and can be rolled back.',
    );
  });

  it('keeps the identity: one array answers at every moment, and the host goes on with its device', () => {
    const of = stage(...other);
    const before = known(of);
    of.run(away);
    whole(of);
    const answering = () =>
      [...of.estate.table('volume').values()]
        .filter(({ naa }) => naa === before.naa)
        .map(({ array }) => of.estate.table('array').get(array)!.name);
    expect(answering()).toEqual(['lintel-1']);
    of.run({ do: 'move.confirm', moves: ['tickets-1'] });
    of.pass(10 * SECOND);
    expect(answering()).toEqual(['purlin-1']);
    expect(named(of).state).toBe('proving');
    expect(volume(of)).toBeUndefined();
    const moved = volume(of, 'tickets-1', 'purlin-1')!;
    expect(moved).toMatchObject({ id: before.id, naa: before.naa });
    expect(pathFinder(of.estate).reaches(device(of))).toBe(true);
    expect(pathFinder(of.estate).total(device(of)).usable).toBeGreaterThanOrEqual(2);
    expect(tried(of.estate, []).broken).toEqual([]);
    of.run({ do: 'move.accept', moves: ['tickets-1'] });
    of.pass(5 * MINUTE);
    expect(named(of).state).toBe('done');
  });

  it('is refused where hosts lack paths there, with what makes them', () => {
    const of = stage(...other);
    of.run({ do: 'host.login', host: 'gate-1', array: 'lintel-1' });
    const host = lookUp(of.estate, 'host', 'gate-1')!;
    of.estate.apply([{ kind: 'host', id: host.id, before: host, after: { ...host, autoLogin: false } } as never]);
    const direct = { do: 'volume.move', array: 'lintel-1', volumes: ['tickets-1'], to: 'purlin-1', pool: 'berth' };
    expect(of.codes(direct)).toEqual(['move-paths']);
    expect(of.codes(away)).toEqual([]);
  });

  it('with a new identity hosts unmount first, look again and find another device', () => {
    const of = stage(...other);
    const before = known(of);
    of.run({ ...away, identity: 'new' });
    whole(of);
    expect(of.codes({ do: 'move.confirm', moves: ['tickets-1'] })).toEqual(['move-barred']);
    of.run({ do: 'host-device.unmount', host: 'gate-1', device: device(of).name });
    of.run({ do: 'move.confirm', moves: ['tickets-1'] });
    of.pass(10 * SECOND);
    const moved = volume(of, 'tickets-1', 'purlin-1')!;
    expect(moved.naa).not.toBe(before.naa);
    of.run({ do: 'host.rescan', host: 'gate-1' });
    expect([...of.estate.table('hostDevice').values()].some(({ naa }) => naa === moved.naa)).toBe(true);
  });

  it('goes on from where it was after an array was down, and releases on the source where it fails in the cut', () => {
    const of = stage(...other, away);
    of.pass(MINUTE);
    const array = lookUp(of.estate, 'array', 'purlin-1')!;
    const down = (state: 'up' | 'down') =>
      of.estate.apply(
        [...of.estate.table('controller').by('array', array.id)].map(
          (row) => ({ kind: 'controller', id: row.id, before: row, after: { ...row, state } }) as never,
        ),
      );
    const sent = named(of).round!.sent;
    down('down');
    of.pass(HOUR);
    expect(named(of)).toMatchObject({ flows: false, reason: 'purlin-1 does not answer' });
    down('up');
    of.pass(SECOND);
    expect(named(of).round!.sent).toBeGreaterThanOrEqual(sent);
    whole(of);
    of.run({ do: 'move.confirm', moves: ['tickets-1'] });
    down('down');
    of.pass(10 * SECOND);
    expect(named(of).state).toBe('waiting');
    expect(named(of).log.at(-1)!.says).toContain('released on the source');
    expect(pathFinder(of.estate).reaches(device(of))).toBe(true);
  });
});

describe('waves', () => {
  it('go by slots and groups, and end no earlier than their bound', () => {
    const of = stage(...hold);
    of.run({ do: 'wave-plan.create', name: 'Empty quay', slots: 1 });
    of.run({
      do: 'storage.move',
      array: 'lintel-1',
      ofPool: 'quay',
      pool: 'hold',
      wavePlan: 'Empty quay',
      together: 'Wave 1',
    });
    const plan = lookUp(of.estate, 'wavePlan', 'Empty quay')!;
    const waves = wavesOf(of.estate, plan, of.now);
    expect(waves.ok && waves.value.moves.length).toBe(2);
    if (waves.ok) expect(waves.value.makespanS).toBeGreaterThanOrEqual(waves.value.lowerBoundS * (1 - 1e-9));
    of.pass(SECOND);
    expect(of.codes({ do: 'move.confirm', moves: ['tickets-2'] })[0]).toMatch(/move-(group-not-ready|state)/);
    of.pass(6 * HOUR);
    of.run({ do: 'move.confirm', moves: ['tickets-2'] });
    expect([named(of), named(of, 'tickets-2')].map(({ state }) => state)).toEqual(['cutting', 'cutting']);
  });

  it('stand still while they are held, and nothing is lost', () => {
    const of = stage(...hold);
    of.run({ do: 'wave-plan.create', name: 'Slow' }, { ...move, wavePlan: 'Slow', cap: '100 MiB/s' });
    of.pass(2 * MINUTE);
    of.run({ do: 'wave-plan.hold', plan: 'Slow' });
    of.pass(SECOND);
    const { sent } = named(of).round!;
    of.pass(HOUR);
    expect(named(of).round!.sent).toBe(sent);
    expect(sent).toBeGreaterThan(0);
    of.run({ do: 'wave-plan.go-on', plan: 'Slow' });
    whole(of);
  });
});
