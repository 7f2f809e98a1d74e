import { stage, type Stage } from '../../../demo/protected';
import { slots } from '../../../demo/names';
import { DAY, HOUR, SECOND } from '../units/duration';
import { appearAndGo, type Cases } from './appears-and-goes.fixture';
import { moveChecks } from './move-checks';

const array = 'lintel-1';
const move = { do: 'volume.move', array, volumes: ['tickets-1'], pool: 'hold' };
const sound = (): Stage =>
  stage(
    { do: 'raid-group.create', array, name: 'rg-2', level: 'raid6', drives: slots(0, 10, 19) },
    { do: 'pool.create', array, name: 'hold', raidGroups: ['rg-2'] },
  );
/** One whose move waits since yesterday, or was cut over then. */
const since = (state: 'waiting' | 'proving'): Stage => {
  const at = sound();
  at.run({ ...move, proveDays: 0 });
  at.pass(2 * HOUR);
  if (state === 'proving') confirmed(at);
  at.pass(DAY);
  return at;
};
const confirmed = (at: Stage) => {
  at.run({ do: 'move.confirm', moves: ['tickets-1'] });
  at.pass(10 * SECOND);
};

const cases: Cases = {
  'move-not-converging': {
    make: (at) => {
      at.run(
        {
          do: 'volume.activity',
          array,
          volumes: ['tickets-1'],
          kind: 'database',
          writes: 60_000,
          workingSet: 90,
          hot: 0,
        },
        { ...move, cap: '20 MiB/s', pauseS: 2 },
      );
      at.pass(4 * HOUR);
    },
    mend: (at) => at.run({ do: 'move.configure', move: 'tickets-1', mode: 'mirror' }),
  },
  'move-waiting-long': {
    sound: () => since('waiting'),
    make: (at) => void at.pass(3 * DAY),
    mend: confirmed,
  },
  'move-not-cleaned': {
    sound: () => since('proving'),
    make: (at) => void at.pass(7 * DAY),
    mend: (at) => at.run({ do: 'move.accept', moves: ['tickets-1'] }),
  },
};

appearAndGo(moveChecks, cases, sound);
