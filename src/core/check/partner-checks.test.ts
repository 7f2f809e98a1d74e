import { partners } from '../../../demo/elsewhere';
import type { Stage } from '../../../demo/protected';
import { copying } from '../../../demo/replicated';
import { named } from '../../../demo/workbench';
import { partnerAt } from '../copies/quota';
import { changed } from '../estate/effects';
import type { Rows } from '../estate/entities';
import { DAY, HOUR, MINUTE, SECOND } from '../units/duration';
import { appearAndGo, found, type Cases } from './appears-and-goes.fixture';
import { partnerChecks } from './partner-checks';

function sound(): Stage {
  const at = copying();
  at.pass(HOUR);
  return at;
}
const array = ({ estate }: Stage, name: string) => named(estate, 'array', name);
const clock = (at: Stage, clockOff: number) => at.estate.apply([changed('array', array(at, 'lintel-2'), { clockOff })]);
const partner = (at: Stage, fields: Partial<Rows['partner']>) =>
  at.estate.apply([
    changed('partner', partnerAt(at.estate, array(at, 'lintel-2').id, array(at, 'lintel-1').id)!, fields),
  ]);
const forget = { do: 'partner.revoke', array: 'lintel-1', peer: 'lintel-2', confirm: 'lintel-2' };

const cases: Cases = {
  'peer-failing': { make: (at) => clock(at, 2 * MINUTE), mend: (at) => clock(at, 0) },
  'peer-clock-skew': {
    make: (at) => clock(at, 45 * SECOND),
    mend: (at) => at.run({ do: 'array.set-clock', array: 'lintel-2' }),
  },
  'peer-waiting': { make: (at) => at.run(forget), mend: (at) => at.run(partners[0]!) },
  'peer-key-expiry': {
    make: (at) => partner(at, { secretUntil: at.now + 20 * DAY }),
    mend: (at) =>
      at.run({
        do: 'partner.renew',
        array: 'lintel-2',
        peer: 'lintel-1',
        shownSecret: 'sealed:00112233445566778899aabbccddeeff',
      }),
  },
  'peer-quota-expiring': {
    make: (at) => partner(at, { quotaUntil: at.now + 20 * DAY }),
    mend: (at) => at.run({ do: 'partner.configure', array: 'lintel-2', peer: 'lintel-1', quotaUntil: 'never' }),
  },
};

appearAndGo(partnerChecks, cases, sound);

test('what both sides find is told once', () => {
  const at = sound();
  clock(at, 2 * MINUTE);
  expect(found(at, 'peer-failing')).toHaveLength(1);
  expect(found(at, 'peer-clock-skew')).toHaveLength(1);
});
