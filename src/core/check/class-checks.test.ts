import { stage, type Stage } from '../../../demo/protected';
import { watchedDay } from '../performance/facts';
import { newIds } from '../estate/new-ids';
import type { FaultKind } from '../lab/fault-kinds';
import { clearFault, setFault } from '../lab/faults';
import { lookUp } from '../operation/inquiry';
import { DAY, HOUR, SECOND } from '../units/duration';
import { appearAndGo, found, type Cases } from './appears-and-goes.fixture';
import { classChecks } from './class-checks';

const array = 'lintel-1';
const broken = (at: Stage, kind: FaultKind, clear = false) => {
  const { id } = lookUp(at.estate, 'array', array)!;
  const result = (clear ? clearFault : setFault)(at.estate, kind, id, at.now, newIds('fault'));
  if (!result.ok) throw new Error(result.refusals[0]!.message);
  at.estate.apply(result.effects);
};
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
  'fact-stale': {
    make: (at) => {
      broken(at, 'array-down');
      at.pass(HOUR);
      expect(found(at, 'fact-stale')).toEqual([]);
      at.pass(SECOND);
      expect(found(at, 'fact-stale').map(({ subject }) => subject.name)).toEqual(['lintel-1 quay']);
    },
    mend: (at) => broken(at, 'array-down', true),
  },
  'lock-none-for-class': {
    make: (at) => {
      at.run({ do: 'class.configure', class: 'quick', copies: 'locked' });
      expect(found(at, 'lock-none-for-class')).toEqual([]);
      at.pass(DAY + SECOND);
      expect(found(at, 'lock-none-for-class')[0]?.mend).toMatchObject({ do: 'plan.attach' });
      at.run(
        { do: 'plan.create', name: 'Nightly', every: 'daily at 02:00', keepDays: 3 },
        { do: 'plan.attach', plan: 'Nightly', array, volumes: ['tickets-1'] },
      );
    },
    mend: (at) => {
      const { mend } = found(at, 'lock-none-for-class')[0]!;
      expect(mend).toMatchObject({ do: 'plan.schedule', params: { plan: 'Nightly', lockDays: 1 } });
      at.run({ do: mend!.do, ...mend!.params }, { do: 'plan.run', array, volume: 'tickets-1' });
    },
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
