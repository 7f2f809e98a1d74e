import type { WorkKind } from '../../job/work-kind';
import { rebalanceMoves, rebalanceOnce } from '../move';
import { BATCHES, moveBatch } from '../moving';
import { moveRate } from '../remove-group';
import { poolOf } from '../../estate/relations';

export const rebalancing: WorkKind = {
  name: 'pool-rebalance',
  words: {
    busy: 'extents are being spread evenly',
    tells: 'is being rebalanced',
    stop: 'rebalancing',
    share: 'rebalanced',
  },
  batches: BATCHES,
  pace: (view, job, busy) => moveRate(view, poolOf(view, job)!, null, busy),
  fallsDue(view, job, now, newId) {
    const pool = poolOf(view, job)!;
    return moveBatch(view, pool, job, now, newId, {
      batch: (at, most) => rebalanceOnce(at, pool, most, newId),
      left: (at) => rebalanceMoves(at, pool),
      // Either all is even, or nothing more can be moved.
      end: () => ({ effects: [], said: ' is balanced' }),
    });
  },
};
