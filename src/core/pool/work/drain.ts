import { changed } from '../../estate/effects';
import type { WorkKind } from '../../job/work-kind';
import { emptyGroup } from '../move';
import { BATCHES, moveBatch } from '../moving';
import { moveRate } from '../remove-group';
import { poolOf, raidGroupOf } from '../../estate/relations';

/** A group of a pool is emptied so that it can leave. */
export const draining: WorkKind = {
  name: 'pool-drain',
  words: { busy: 'a group is being emptied', tells: 'is being emptied', stop: 'emptying', share: 'emptied' },
  batches: BATCHES,
  pace: (view, job, busy) => moveRate(view, poolOf(view, job)!, raidGroupOf(view, job)!, busy),
  fallsDue(view, job, now, newId) {
    const pool = poolOf(view, job)!;
    const group = raidGroupOf(view, job)!;
    return moveBatch(view, pool, job, now, newId, {
      batch: (at, most) => emptyGroup(at, pool, group.id, most, newId),
      left: (at) => at.occupancy.used(group.id),
      end: (whole) =>
        whole
          ? {
              effects: [changed('raidGroup', group, { pool: null, draining: false })],
              said: `: ${group.name} is empty and carries nothing any more`,
            }
          : {
              // There is no room: the group stays as it is.
              effects: [changed('raidGroup', group, { draining: false })],
              said: `: ${group.name} could not be emptied, the other groups are full`,
            },
    });
  },
  stopped: (view, job) => {
    const group = raidGroupOf(view, job);
    return group ? [changed('raidGroup', group, { draining: false })] : [];
  },
};
