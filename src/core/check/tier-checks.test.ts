import { stage, type Stage } from '../../../demo/protected';
import { named, twoTiers } from '../../../demo/workbench';
import { changed } from '../estate/effects';
import { appearAndGo, type Cases } from './appears-and-goes.fixture';
import { tierChecks } from './tier-checks';

const array = 'lintel-1';
/** A pool of flash and disks; what is asked of its one volume is known. */
function tiered(): Stage {
  const at = stage();
  at.run(...twoTiers);
  return at;
}

const cases: Cases = {
  'tier-policy-infeasible': {
    make: (at) => {
      at.run({ do: 'tier-policy.create', array, name: 'upper', volumes: ['scanner'], shares: ['ssd-nvme at most 30'] });
      // Somebody lets no more lie anywhere, behind the back of the form.
      const policy = named(at.estate, 'tierPolicy', 'upper');
      const shares = [...policy.shares, { media: 'hdd-10k' as const, least: 0, most: 40 }];
      at.estate.apply([changed('tierPolicy', policy, { shares })]);
    },
    mend: (at) => at.run({ do: 'tier-policy.configure', array, policy: 'upper', shares: ['ssd-nvme at most 30'] }),
  },
  'tier-fast-cold': {
    make: (at) =>
      at.run({ do: 'volume.create', array, pool: 'hold', name: 'idle', size: '40 GiB', provisioning: 'thick' }),
    mend: (at) => at.run({ do: 'volume.delete', array, volumes: ['idle'], keepDays: 0 }),
  },
};

appearAndGo(tierChecks, cases, tiered);
