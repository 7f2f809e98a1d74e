import { askable } from '../change/registry';
import { stage, type Stage } from '../../../demo/protected';
import { slots } from '../../../demo/names';
import { differences } from '../../../demo/workbench';
import { planChange } from '../change/plan';
import { planUndo } from '../change/undo';
import { deleted } from '../estate/effects';
import { Overlay } from '../estate/estate';
import { tried } from '../rules/book';
import { lookUp } from '../operation/inquiry';
import { capacityModel } from '../space/capacity';
import { pathFinder } from '../attach/paths';
import { DAY, HOUR, MINUTE, SECOND } from '../units/duration';
import { barredByMoves } from './bar';
import { foretoldCopy } from './foretold';
import { hold, move, named, volume, device, known, lost, whole } from './moving.fixture';

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
