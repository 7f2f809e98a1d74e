import type { Job } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { NewId, WorkDone, WorkKind } from '../job/work-kind';
import { SECOND, type Milliseconds } from '../units/duration';
import { allWork } from './all';

const byName = new Map<string, WorkKind>(allWork.map((work) => [work.name, work]));

/** What a job is an instance of. */
export const workOf = (job: Pick<Job, 'kind'>): WorkKind => byName.get(job.kind)!;

/** The next moment at which a job has something to do: its end, or the end of a batch. */
export function nextDueOf(job: Job): Milliseconds {
  const { batches } = workOf(job);
  if (batches === undefined || job.rate <= 0) return job.finishesAt;
  const batch = Math.max(1, Math.ceil(job.total / batches));
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

/** What a job does when it falls due. */
export const workJob = (view: EstateView, job: Job, now: Milliseconds, newId: NewId): WorkDone =>
  workOf(job).fallsDue(view, job, now, newId);
