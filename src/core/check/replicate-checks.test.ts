import type { Stage } from '../../../demo/protected';
import { copying } from '../../../demo/replicated';
import { named } from '../../../demo/workbench';
import { changed } from '../estate/effects';
import type { Rows } from '../estate/entities';
import { DAY, HOUR, MINUTE } from '../units/duration';
import { appearAndGo, found, type Cases } from './appears-and-goes.fixture';
import { replicateChecks } from './replicate-checks';

/** A workload copied to another site, in which nothing is wrong. */
function sound(): Stage {
  const at = copying();
  at.pass(HOUR);
  return at;
}

const row = ({ estate }: Stage) => named(estate, 'replication', 'Ticketing');
const set = (at: Stage, fields: Partial<Rows['replication']>) =>
  at.estate.apply([changed('replication', row(at), fields)]);
const link = (at: Stage, fields: Partial<Rows['siteLink']>) =>
  at.estate.apply([changed('siteLink', named(at.estate, 'siteLink', 'dark fibre'), fields)]);
const device = ({ estate }: Stage) => [...estate.table('hostDevice').values()].find((one) => one.mountPoint !== null)!;
/** The last cycles, the newest first, by their fields. */
const cycles = ({ estate }: Stage, fields: (k: number) => Partial<Rows['cycle']>) =>
  estate.apply(
    [...estate.table('cycle').values()]
      .sort((a, b) => b.finishedAt - a.finishedAt)
      .map((cycle, k) => changed('cycle', cycle, fields(k))),
  );
const over = { do: 'replication.failover', replication: 'Ticketing', confirm: 'Ticketing', sourceStopped: true };

/** The source keeps so many per cent of its pool. */
const keeps = (at: Stage, percent: number) => {
  const { pool } = at.estate.table('volume').get(row(at).primaries[0]!)!;
  set(at, percent === 0 ? { reservePools: [], reserves: [] } : { reservePools: [pool], reserves: [percent] });
};

const cases: Cases = {
  'replication-source-reserve': {
    make: (at) => {
      link(at, { state: 'down' });
      at.pass(DAY);
      keeps(at, 0.01);
    },
    mend: (at) => keeps(at, 5),
  },
  'replication-full-compare': {
    make: (at) => {
      set(at, { compare: 'all', carrying: null, nextAt: at.now });
      at.pass(1000);
    },
    mend: (at) => at.pass(HOUR),
  },
  'replication-lag-over-rpo': {
    make: (at) => {
      link(at, { state: 'down' });
      at.pass(HOUR);
    },
    mend: (at) => {
      link(at, { state: 'up' });
      at.pass(20 * MINUTE);
    },
  },
  'replication-lag-trend': {
    make: (at) => cycles(at, (k) => ({ lagAfter: (20 - k) * MINUTE })),
    mend: (at) => at.pass(20 * MINUTE),
  },
  'replication-infeasible': {
    make: (at) => link(at, { bitsPerS: 1e6 }),
    mend: (at) => at.run({ do: 'site-link.configure', link: 'dark fibre', speed: '10 Gb/s' }),
  },
  'replication-back-to-back': {
    make: (at) => cycles(at, (k) => ({ pit: at.now - k * 7 * MINUTE })),
    mend: (at) => at.run({ do: 'replication.configure', replication: 'Ticketing', interval: '10 min', rpo: '30 min' }),
  },
  'replication-paused-long': {
    make: (at) => {
      at.run({ do: 'replication.pause', replication: 'Ticketing' });
      at.now += 2 * DAY;
    },
    mend: (at) => at.run({ do: 'replication.resume', replication: 'Ticketing' }),
  },
  'replication-broken': {
    make: (at) => {
      link(at, { state: 'down' });
      at.pass(20 * MINUTE);
    },
    mend: (at) => {
      link(at, { state: 'up' });
      at.pass(20 * MINUTE);
    },
  },
  'replication-member-missing': {
    make: (at) =>
      at.run({
        do: 'volume.create',
        array: 'lintel-1',
        pool: 'quay',
        name: 'tickets-3',
        size: '50 GiB',
        workload: 'Ticketing',
      }),
    mend: (at) => at.run({ do: 'replication.extend', replication: 'Ticketing' }),
  },
  'replication-target-full': {
    make: (at) => {
      const [pool] = at.estate.table('pool').by('array', named(at.estate, 'array', 'lintel-2').id);
      at.estate.apply([
        changed('pool', pool!, { reserve: 100 }),
        changed('hostDevice', device(at), { writeRate: 2 ** 26 }),
      ]);
      at.pass(10 * MINUTE);
    },
    mend: (at) => {
      const [pool] = at.estate.table('pool').by('array', named(at.estate, 'array', 'lintel-2').id);
      at.estate.apply([changed('pool', pool!, { reserve: 5 }), changed('hostDevice', device(at), { writeRate: 0 })]);
      at.pass(20 * MINUTE);
    },
  },
  'replication-old-source-waiting': {
    make: (at) => {
      at.run(over);
      at.now += 2 * DAY;
    },
    mend: (at) =>
      at.run(
        { do: 'host-device.unmount', host: 'gate-1', device: 'tickets-1' },
        { do: 'replication.reverse', replication: 'Ticketing', confirm: 'Ticketing' },
      ),
  },
};

appearAndGo(replicateChecks, cases, sound);

test('what is paused or was failed over is not told to be late as well', () => {
  const at = sound();
  at.run(over);
  at.now += 2 * DAY;
  expect(found(at, 'replication-lag-over-rpo')).toEqual([]);
  set(at, { state: 'paused', since: at.now });
  expect(found(at, 'replication-broken')).toEqual([]);
});
