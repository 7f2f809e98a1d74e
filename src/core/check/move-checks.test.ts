import { stage, type Stage } from '../../../demo/protected';
import { slots } from '../../../demo/workbench';
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
    make: (at) => {
      at.run(move);
      at.pass(4 * DAY);
    },
    mend: confirmed,
  },
  'move-not-cleaned': {
    make: (at) => {
      at.run({ ...move, proveDays: 0 });
      at.pass(2 * HOUR);
      confirmed(at);
      at.pass(8 * DAY);
    },
    mend: (at) => at.run({ do: 'move.accept', moves: ['tickets-1'] }),
  },
};

appearAndGo(moveChecks, cases, sound);
