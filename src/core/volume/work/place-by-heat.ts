import type { WorkKind } from '../../job/work-kind';
import { poolOf } from '../../estate/relations';
import { BATCHES, moveBatch } from '../../pool/moving';
import { heatMoves, moveByHeat } from '../heat';

export const placingByHeat: WorkKind = {
  name: 'pool-place-by-heat',
  words: {
    busy: 'extents move to the media they are hot enough for',
    tells: 'is being placed by heat',
    stop: 'placing by heat',
    share: 'placed',
  },
  batches: BATCHES,
  fallsDue(view, job, now, newId) {
    const pool = poolOf(view, job)!;
    return moveBatch(view, pool, job, now, newId, {
      batch: (at, most) => moveByHeat(at, pool, most, newId),
      left: (at) => heatMoves(at, pool),
      end: () => ({ effects: [], said: ' is placed by heat' }),
    });
  },
};
