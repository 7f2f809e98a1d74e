import { stage, type Stage } from '../../../demo/protected';
import { refusalsOf } from '../../../demo/workbench';
import { writeUpTo } from '../volume/grow';
import { changed } from '../estate/effects';
import { newIds } from '../estate/new-ids';
import { availableExtents } from '../pool/usage';
import { tried } from '../rules/book';
import { lookUp } from '../operation/inquiry';
import { HOUR, MINUTE, SECOND } from '../units/duration';
import { GIB } from '../units/bytes';
import { extentsBesideMoves, needAt } from '../volume/promised';
import { hold, other, move, named, volume, device, whole } from './moving.fixture';

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
