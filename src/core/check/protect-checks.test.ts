import { named } from '../../../demo/workbench';
import { stage, type Stage } from '../../../demo/protected';
import { changed } from '../estate/effects';
import type { Rows } from '../estate/entities';
import { GIB, MIB } from '../units/bytes';
import { DAY, HOUR } from '../units/duration';
import { appearAndGo, found, type Cases } from './appears-and-goes.fixture';
import { protectChecks } from './protect-checks';
import { newIds } from '../estate/new-ids';
import { setFault } from '../lab/faults';

const plan = {
  do: 'plan.create',
  name: 'Harbour day',
  zone: 'Europe/Oslo',
  rpo: '1 h',
  every: '30 min',
  keepDays: 1,
  quiesce: true,
};
const attach = { do: 'plan.attach', plan: 'Harbour day', workloads: ['Ticketing'] };

/** A workload that a plan protects, in which nothing is wrong. */
function sound(): Stage {
  const at = stage(plan, attach);
  at.pass(2 * HOUR);
  return at;
}

const host = ({ estate }: Stage, fields: Partial<Rows['host']>) =>
  estate.apply([changed('host', named(estate, 'host', 'gate-1'), fields)]);
const thePlan = ({ estate }: Stage, fields: Partial<Rows['plan']>) =>
  estate.apply([changed('plan', named(estate, 'plan', 'Harbour day'), fields)]);
const copies = ({ estate }: Stage) => [...estate.table('snapshot').values()].sort((a, b) => a.at - b.at);
const device = ({ estate }: Stage) => [...estate.table('hostDevice').values()].find((row) => row.mountPoint !== null)!;
const controllers = (at: Stage, state: 'up' | 'down') =>
  at.estate.apply([...at.estate.table('controller').values()].map((row) => changed('controller', row, { state })));
const runs = ({ estate }: Stage, fields: Partial<Rows['planRun']>) =>
  estate.apply([...estate.table('planRun').values()].map((row) => changed('planRun', row, fields)));

const cases: Cases = {
  'volume-unprotected': {
    make: (at) => at.run({ ...attach, plan: 'none' }),
    mend: (at) => at.run(attach),
  },
  'copies-over-rpo': {
    make: (at) => {
      thePlan(at, { paused: true });
      at.pass(3 * HOUR);
    },
    mend: (at) => at.run({ do: 'plan.run', workload: 'Ticketing' }),
  },
  'schedule-missed': {
    make: (at) => {
      controllers(at, 'down');
      at.pass(2 * HOUR);
    },
    mend: (at) => {
      controllers(at, 'up');
      at.pass(HOUR);
    },
  },
  'schedule-gap-over-rpo': {
    make: (at) => thePlan(at, { rpo: HOUR / 4 }),
    mend: (at) =>
      at.run({ do: 'plan.schedule', plan: 'Harbour day', schedule: 'often', every: '15 min', keepCount: 9 }),
  },
  'plan-paused-long': {
    make: (at) => {
      at.run({ do: 'plan.configure', plan: 'Harbour day', paused: true });
      at.pass(2 * DAY);
    },
    mend: (at) => at.run({ do: 'plan.configure', plan: 'Harbour day', paused: false }),
  },
  'snapshot-overrun': {
    make: (at) => runs(at, { took: HOUR }),
    mend: (at) => runs(at, { took: 1000 }),
  },
  'snapshot-only-crash': {
    make: (at) => {
      host(at, { agent: 'none' });
      at.pass(2 * HOUR);
    },
    mend: (at) => {
      host(at, { agent: 'ready' });
      at.pass(HOUR);
    },
  },
  'volume-snapshots-large': {
    make: (at) => {
      const volume = named(at.estate, 'volume', 'tickets-1');
      at.estate.apply([changed('volume', volume, { stands: [0, 0, 0], size: 50 * GIB })]);
    },
    mend: (at) => {
      const volume = named(at.estate, 'volume', 'tickets-1');
      at.estate.apply([changed('volume', volume, { stands: [1, 1, 1], size: 200 * GIB })]);
    },
  },
  'snapshot-forgotten': {
    make: (at) => {
      thePlan(at, { paused: true });
      at.run({ do: 'snapshot.create', workload: 'Ticketing', name: 'old' });
      at.now += 91 * DAY;
    },
    mend: (at) => at.run({ do: 'snapshot.configure', workload: 'Ticketing', copies: ['old'], keepUntil: '30 d' }),
  },
  'snapshot-held-long': {
    make: (at) => {
      at.estate.apply([changed('snapshot', copies(at)[0]!, { hold: 'audit' })]);
      thePlan(at, { paused: true });
      at.now += 16 * DAY;
    },
    mend: (at) =>
      at.run({ do: 'snapshot.configure', workload: 'Ticketing', copies: [copies(at)[0]!.name], hold: 'none' }),
  },
  'copy-not-proven': {
    make: (at) => thePlan(at, { proveDays: 30 }),
    mend: (at) =>
      at.run(
        {
          do: 'host.create',
          name: 'proof-1',
          os: 'linux',
          site: 'Nordkai',
          initiators: ['iqn.2031-04.example.skarholt:proof-1'],
        },
        { do: 'snapshot.validate', workload: 'Ticketing', copy: copies(at).at(-1)!.name, host: 'proof-1' },
      ),
  },
  'pool-locked-floor': {
    make: (at) => {
      at.run({ do: 'snapshot.create', workload: 'Ticketing', name: 'kept', lockDays: 30 });
      at.estate.apply([changed('hostDevice', device(at), { writeRate: 400 * MIB })]);
    },
    mend: (at) => at.estate.apply([changed('hostDevice', device(at), { writeRate: 0 })]),
  },
  'lock-clock-jump': {
    make: (at) => {
      const result = setFault(
        at.estate,
        'clock-jump',
        named(at.estate, 'array', 'lintel-1').id,
        at.now,
        newIds('jump'),
      );
      if (result.ok) at.estate.apply(result.effects);
    },
    mend: (at) => at.run({ do: 'array.set-clock', array: 'lintel-1' }),
  },
  'agent-silent': {
    make: (at) => host(at, { agent: 'absent' }),
    mend: (at) => host(at, { agent: 'ready' }),
  },
};

appearAndGo(protectChecks, cases, sound);

test('a volume without a plan is told where its class asks for copies, and no longer once it has one', () => {
  const at = sound();
  at.run(
    { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'fares', size: '10 GiB' },
    { do: 'class.create', name: 'quick', copies: 'planned' },
    { do: 'class.apply', array: 'lintel-1', class: 'quick', volumes: ['fares', 'tickets-1'] },
  );
  expect(found(at, 'volume-unprotected').map(({ subject }) => subject.name)).toEqual(['lintel-1 fares']);
  const { mend } = found(at, 'volume-unprotected')[0]!;
  at.run({ do: mend!.do, ...mend!.params, plan: 'Harbour day' });
  expect(found(at, 'volume-unprotected')).toEqual([]);
});
