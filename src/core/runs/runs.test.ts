import { randomFrom } from '../estate/random';
import { runChange, type RunStep } from './run-change';
import { startWithin } from './window';

describe('how a change ends', () => {
  test('the examples', () => {
    expect(
      runChange({
        steps: [
          { id: 'create' },
          { id: 'zone', satisfied: true },
          { id: 'map' },
          { id: 'rescan', do: 'fail' },
          { id: 'format' },
        ],
      }),
    ).toEqual({
      state: 'ROLLED_BACK',
      log: ['do create', 'skip zone', 'do map', 'failed rescan', 'undo rescan', 'undo map', 'undo create'],
      needsUndo: [],
    });
    expect(
      runChange({
        steps: [
          { id: 'create', mine: true },
          { id: 'map', undo: 'fail' },
          { id: 'cut', confirm: 'no' },
        ],
      }),
    ).toEqual({
      state: 'STUCK',
      log: ['kept create', 'do map', 'refused cut', 'undo-failed map'],
      needsUndo: ['map', 'create'],
    });
    expect(
      runChange({
        steps: [{ id: 'copy' }, { id: 'cut', confirm: 'yes', undo: 'none' }, { id: 'erase-old', pre: false }],
      }),
    ).toEqual({ state: 'HALTED', log: ['do copy', 'do cut', 'pre-failed erase-old'], needsUndo: [] });
    expect(runChange({ steps: [{ id: 'copy' }, { id: 'cut', confirm: 'wait' }] })).toEqual({
      state: 'PAUSED',
      log: ['do copy', 'ask cut'],
      needsUndo: [],
    });
    expect(runChange({ steps: [] })).toEqual({ state: 'DONE', log: [], needsUndo: [] });
  });

  test('a step that fails counts as done: what it did in part is undone, or halts it', () => {
    expect(runChange({ steps: [{ id: 'a', do: 'fail', undo: 'none' }] }).state).toBe('HALTED');
    expect(runChange({ steps: [{ id: 'a', do: 'fail', undo: 'fail' }] })).toMatchObject({
      state: 'STUCK',
      needsUndo: ['a'],
    });
    // What was kept or there before decides before anybody is asked.
    expect(runChange({ steps: [{ id: 'a', mine: true, confirm: 'wait', do: 'fail' }] }).state).toBe('DONE');
    expect(runChange({ steps: [{ id: 'a', satisfied: true, pre: false }] }).state).toBe('DONE');
  });

  test('whatever was done and is not undone is told, and what others did is never touched', () => {
    const pick = <T>(random: () => number, ...of: T[]): T => of[Math.floor(random() * of.length)]!;
    for (let seed = 1; seed <= 500; seed++) {
      const random = randomFrom(`run ${seed}`);
      const steps: RunStep[] = Array.from({ length: 6 }, (_, k) => ({
        id: `s${k}`,
        mine: random() < 0.1,
        satisfied: random() < 0.1,
        pre: random() > 0.1,
        do: pick(random, 'ok', 'ok', 'ok', 'fail'),
        undo: pick(random, 'ok', 'ok', 'ok', 'fail', 'none'),
        confirm: pick(random, 'yes', 'yes', 'yes', 'no', 'wait'),
      }));
      const { state, log, needsUndo } = runChange({ steps });
      const told = (what: string) =>
        log.filter((line) => line.startsWith(`${what} `)).map((line) => line.split(' ')[1]!);
      const done = [...told('kept'), ...told('do'), ...told('failed')];
      const gone = told('undo');
      for (const id of gone) expect(done).toContain(id);
      for (const id of told('skip')) expect([...gone, ...needsUndo]).not.toContain(id);
      if (state === 'ROLLED_BACK') expect([...gone].sort()).toEqual([...done].sort());
      if (state === 'STUCK') expect([...gone, ...needsUndo].sort()).toEqual([...done].sort());
      else expect(needsUndo).toEqual([]);
      if (state === 'HALTED' || state === 'DONE' || state === 'PAUSED') expect(gone).toEqual([]);
    }
  });
});

test('a step starts where its estimate fits the rest, else with a later window, else not at all', () => {
  const minute = 60;
  const at = (nowS: number, takesS: number) =>
    startWithin({
      step: 'Cut over',
      nowS,
      takesS,
      windows: [
        [0, 60 * minute],
        [1440 * minute, 1500 * minute],
      ],
    });
  expect(at(15 * minute, 45 * minute)).toMatchObject({ value: { startS: 15 * minute, waits: false } });
  expect(at(15 * minute, 50 * minute)).toMatchObject({ value: { startS: 1440 * minute, waits: true } });
  expect(at(15 * minute, 61 * minute)).toMatchObject({
    reason: 'change-window-short',
    message: 'Cut over takes 1 h 1 min, the window has 1 h left.',
  });
  expect(at(1600 * minute, 1)).toMatchObject({ reason: 'change-window-short' });
});
