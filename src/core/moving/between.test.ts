import { stage } from '../../../demo/protected';
import { tried } from '../rules/book';
import { lookUp } from '../operation/inquiry';
import { pathFinder } from '../attach/paths';
import { trace } from '../trace/trace';
import { HOUR, MINUTE, SECOND } from '../units/duration';
import { wavesOf } from './waves';
import { lacking } from './changes';
import { hold, other, move, named, volume, device, known, whole } from './moving.fixture';

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
