import type { Job, Pool, RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { startedJob } from '../job/work';
import { moveRate } from '../pool/remove-group';
import type { Milliseconds } from '../units/duration';
import { windowAt } from './window';

/** Work that moves extents of a pool between its groups; one at a time. */
export const movesOf = (view: EstateView, pool: Pool): Job | undefined =>
  view
    .table('job')
    .by('pool', pool.id)
    .find(({ kind }) => kind === 'pool-place-by-heat' || kind === 'pool-rebalance' || kind === 'pool-drain');

/** Bytes a second at which a pool is placed by heat. */
export const heatRate = (view: EstateView, pool: Pool, busy?: (group: RaidGroup) => number): number =>
  Math.min(moveRate(view, pool, null, busy), pool.heatRate ?? Infinity);

/** The work of moving so many extents, from when the pool's window is open. */
export const heatJob = (view: EstateView, pool: Pool, moves: number, id: string, now: Milliseconds): Job =>
  startedJob(
    {
      id,
      kind: 'pool-place-by-heat',
      array: pool.array,
      pool: pool.id,
      priority: 'low',
      total: moves * pool.extentSize,
      rate: heatRate(view, pool),
    },
    windowAt(pool, now).from,
  );
