import type { Stage } from '../../../demo/protected';
import { copying, yard } from '../../../demo/replicated';
import { DAY, HOUR } from '../units/duration';
import { appearAndGo, type Cases } from './appears-and-goes.fixture';
import { drillChecks } from './drill-checks';

function sound(): Stage {
  const at = copying(yard);
  at.pass(HOUR);
  return at;
}
const drill = { do: 'drill.start', replications: ['Ticketing'], host: 'yard-1' };
const goal = (text: string) => ({ do: 'replication.configure', replication: 'Ticketing', goal: text });

const cases: Cases = {
  'replication-no-drill': {
    make: (at) => {
      at.now += 91 * DAY;
    },
    mend: (at) => at.run(drill),
  },
  'rto-over-goal': { make: (at) => at.run(goal('5 min'), drill), mend: (at) => at.run(goal('2 h')) },
};

appearAndGo(drillChecks, cases, sound);
