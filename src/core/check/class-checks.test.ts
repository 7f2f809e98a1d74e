import { stage, type Stage } from '../../../demo/protected';
import { watchedDay } from '../performance/facts';
import { appearAndGo, type Cases } from './appears-and-goes.fixture';
import { classChecks } from './class-checks';

const array = 'lintel-1';
const sound = (): Stage =>
  stage(
    { do: 'volume.activity', array, volumes: ['tickets-1'], reads: 300, writes: 10, burst: 1, week: 'even' },
    { do: 'fact.declare', array, pool: 'quay', key: 'place', value: 'Nordkai' },
    { do: 'class.create', name: 'quick', rules: ['place is Nordkai', 'protection at least 1'], goalMs: 50 },
    { do: 'class.apply', array, class: 'quick', volumes: ['tickets-1'] },
  );

const cases: Cases = {
  'rule-no-longer-met': {
    make: (at) => at.run({ do: 'fact.declare', array, pool: 'quay', key: 'place', value: 'Molenhaven' }),
    mend: (at) => at.run({ do: 'class.lift', array, volumes: ['tickets-1'] }),
  },
  'fact-contradiction': {
    make: (at) => at.run({ do: 'fact.declare', array, pool: 'quay', key: 'encryption', value: 'yes' }),
    mend: (at) => at.run({ do: 'fact.withdraw', array, pool: 'quay', key: 'encryption' }),
  },
  'allotment-nearly-used': {
    make: (at) =>
      at.run(
        { do: 'allotment.create', name: 'Ticketing desk', size: '110 GiB' },
        { do: 'allotment.carve', allotment: 'Ticketing desk', array, pool: 'quay', name: 'desk', size: '100 GiB' },
      ),
    mend: (at) => at.run({ do: 'allotment.configure', allotment: 'Ticketing desk', size: '200 GiB' }),
  },
  'latency-over-goal': {
    make: (at) => at.run({ do: 'class.configure', class: 'quick', goalMs: 0.001 }),
    mend: (at) => at.run({ do: 'class.configure', class: 'quick', goalMs: 50 }),
  },
};

appearAndGo(classChecks, cases, sound, ({ estate, now }) => watchedDay(estate, now));
