import type { Stage } from '../../../demo/protected';
import { elsewhere, replicate } from '../../../demo/replicated';
import { stage } from '../../../demo/protected';
import { lines } from '../../../demo/elsewhere';
import { named } from '../../../demo/workbench';
import { changed } from '../estate/effects';
import type { Rows } from '../estate/entities';
import { HOUR, MINUTE } from '../units/duration';
import { appearAndGo, type Cases } from './appears-and-goes.fixture';
import { mirrorChecks } from './mirror-checks';

const { rpo: _rpo, interval: _interval, ...where } = replicate;

/** A mirror with a log and a second line. */
function sound(log = '400 GiB'): Stage {
  const spare = lines.filter((line) => line.name === 'leased line');
  const at = stage(...elsewhere, ...spare, { ...where, mode: 'sync', log });
  at.pass(HOUR);
  return at;
}
const line = (at: Stage, name: string, fields: Partial<Rows['siteLink']>) =>
  at.estate.apply([changed('siteLink', named(at.estate, 'siteLink', name), fields)]);
const fibre = (at: Stage, fields: Partial<Rows['siteLink']>) => line(at, 'dark fibre', fields);
const grow = { do: 'volume.resize', array: 'lintel-1', volumes: ['ticketing-log'] };

const cases: Cases = {
  'sync-latency-budget': { make: (at) => fibre(at, { rtt: 9 }), mend: (at) => fibre(at, { rtt: 0.62 }) },
  'sync-link-no-spare': {
    make: (at) => line(at, 'leased line', { state: 'down' }),
    mend: (at) => line(at, 'leased line', { state: 'up' }),
  },
  'sync-dirty-growing': {
    make: (at) => {
      fibre(at, { bitsPerS: 1e6, state: 'down' });
      at.pass(30 * MINUTE);
    },
    mend: (at) => fibre(at, { bitsPerS: 1e10 }),
  },
  'journal-fill-soon': {
    sound: () => sound('8 GiB'),
    make: (at) => {
      fibre(at, { state: 'down' });
      at.pass(10 * MINUTE);
    },
    mend: (at) => {
      fibre(at, { state: 'up' });
      at.pass(20 * MINUTE);
    },
  },
  'journal-too-small': {
    make: (at) => at.estate.apply([changed('volume', named(at.estate, 'volume', 'ticketing-log'), { size: 2 ** 30 })]),
    mend: (at) => at.run({ ...grow, size: '400 GiB' }),
  },
};

appearAndGo(mirrorChecks, cases, () => sound());
