import { created, deleted } from '../../estate/effects';
import { arrayOf, poolOf } from '../../estate/relations';
import type { WorkKind } from '../../job/work-kind';
import { BATCHES, moveBatch } from '../../pool/moving';
import { formatBytes } from '../../units/bytes';
import { heatMoves, moveByHeat } from '../heat';
import { heatJob, heatRate } from '../job';
import { windowAt } from '../window';

export const placingByHeat: WorkKind = {
  name: 'pool-place-by-heat',
  words: {
    busy: 'extents move to the media they are hot enough for',
    tells: 'is being placed by heat',
    stop: 'placing by heat',
    share: 'placed',
  },
  batches: BATCHES,
  pace: (view, job, busy) => heatRate(view, poolOf(view, job)!, busy),
  fallsDue(view, job, now, newId) {
    const pool = poolOf(view, job)!;
    const { to } = windowAt(pool, job.startedAt);
    if (to !== null && now >= to) {
      const rest = heatMoves(view, pool);
      const name = `${arrayOf(view, job).name} ${pool.name}`;
      if (rest === 0) return { effects: [deleted('job', job)], said: `${name} is placed by heat` };
      return {
        effects: [deleted('job', job), created('job', heatJob(view, pool, rest, newId('job'), now))],
        said: `${name}: the window for moves is over; ${formatBytes(rest * pool.extentSize, 'used')} move in the next`,
      };
    }
    return moveBatch(view, pool, job, now, newId, {
      batch: (at, most) => moveByHeat(at, pool, most, newId),
      left: (at) => heatMoves(at, pool),
      end: () => ({ effects: [], said: ' is placed by heat' }),
    });
  },
};
