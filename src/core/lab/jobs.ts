import { changed, deleted, type Effect } from '../estate/effects';
import type { Job, Kind } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { doneAt } from '../job/work';
import { driveRef } from '../operation/inquiry';
import { emptyGroup, rebalanceMoves, rebalanceOnce } from '../pool/move';
import { finishReduction } from '../pool/reduce';
import { finishGroupJob } from '../raid/tend';
import { SECOND, type Milliseconds } from '../units/duration';
import { finishConversion } from '../volume/convert';

type NewId = (kind: Kind) => string;

/** Jobs that move extents as they go, in so many batches. */
const BATCHES = 20;
const moves = (job: Job): boolean => job.kind === 'pool-drain' || job.kind === 'pool-rebalance';

/** The next moment at which a job has something to do: its end, or the end of a batch. */
export function nextDueOf(job: Job): Milliseconds {
  if (!moves(job) || job.rate <= 0) return job.finishesAt;
  const batch = Math.max(1, Math.ceil(job.total / BATCHES));
  return Math.min(job.finishesAt, job.asOf + Math.ceil(batch / job.rate) * SECOND);
}

/** The next moment at which any job falls due, or null. Those in `aside` are passed over. */
export function nextJobEnd(
  view: EstateView,
  aside: { has(job: string): boolean } = { has: () => false },
): { at: Milliseconds; job: Job } | null {
  let next: { at: Milliseconds; job: Job } | null = null;
  for (const job of view.table('job').values()) {
    if (job.paused || aside.has(job.id)) continue;
    const at = nextDueOf(job);
    if (!next || at < next.at || (at === next.at && job.id < next.job.id)) next = { at, job };
  }
  return next;
}

/** What a job does when it falls due. `said` is null for a batch on the way. */
export function workJob(
  view: EstateView,
  job: Job,
  now: Milliseconds,
  newId: NewId,
): { effects: Effect[]; said: string | null } {
  if (moves(job)) return moveBatch(view, job, now, newId);
  if (job.kind === 'drive-erase') {
    const drive = view.table('drive').get(job.drive!);
    const name = drive ? `${view.table('array').get(drive.array)?.name} drive ${driveRef(view, drive)}` : 'The drive';
    return {
      effects: [deleted('job', job), ...(drive ? [changed('drive', drive, { holdsData: false })] : [])],
      said: `${name} is erased`,
    };
  }
  if (job.kind === 'pool-dedupe' || job.kind === 'volume-convert') {
    const end =
      job.kind === 'pool-dedupe' ? finishReduction(view, job, now, newId) : finishConversion(view, job, newId);
    return { effects: [deleted('job', job), ...end.effects], said: end.said };
  }
  return finishGroupJob(view, job, now, newId);
}

function moveBatch(
  view: EstateView,
  job: Job,
  now: Milliseconds,
  newId: NewId,
): { effects: Effect[]; said: string | null } {
  const pool = view.table('pool').get(job.pool!)!;
  const name = `${view.table('array').get(job.array)?.name ?? ''} ${pool.name}`;
  const group = job.raidGroup ? view.table('raidGroup').get(job.raidGroup) : undefined;
  const effects: Effect[] = [];
  const overlay = new Overlay(view);
  const target = Math.round(doneAt(job, now) / pool.extentSize);
  let left = Math.max(1, target - Math.round(job.done / pool.extentSize));
  let done = job.done;
  while (left > 0) {
    const batch = group ? emptyGroup(overlay, pool, group.id, left, newId) : rebalanceOnce(overlay, pool, left, newId);
    if (batch.moved === 0) break;
    overlay.apply(batch.effects);
    effects.push(...batch.effects);
    done += batch.moved * pool.extentSize;
    left -= batch.moved;
  }
  const rest = group ? overlay.occupancy.used(group.id) : rebalanceMoves(overlay, pool);
  if (group && rest === 0)
    return {
      effects: [...effects, deleted('job', job), changed('raidGroup', group, { pool: null, draining: false })],
      said: `${name}: ${group.name} is empty and carries nothing any more`,
    };
  if (rest === 0 || left > 0 || effects.length === 0) {
    // Nothing more can be moved: either all is even, or there is no room. The group stays as it is.
    return {
      effects: [...effects, deleted('job', job), ...(group ? [changed('raidGroup', group, { draining: false })] : [])],
      said: group ? `${name}: ${group.name} could not be emptied, the other groups are full` : `${name} is balanced`,
    };
  }
  const total = Math.max(job.total, done + rest * pool.extentSize);
  const finishesAt = now + Math.ceil(Math.max(total - done, 1) / Math.max(job.rate, 1)) * SECOND;
  return { effects: [...effects, changed('job', job, { done, total, asOf: now, finishesAt })], said: null };
}
