import { rowOf, type Job } from '../estate/entities';
import { SECOND, type Milliseconds } from '../units/duration';

/** What a job is begun with; `rate` in bytes a second. */
export type JobStart = Pick<Job, 'id' | 'kind' | 'array' | 'total' | 'rate'> &
  Partial<Pick<Job, 'raidGroup' | 'pool' | 'volume' | 'drive' | 'partners' | 'priority'>>;

const endOf = (total: number, done: number, rate: number, asOf: Milliseconds): Milliseconds =>
  total <= done ? asOf : asOf + Math.ceil((total - done) / Math.max(rate, 1)) * SECOND;

export const startedJob = (start: JobStart, now: Milliseconds): Job =>
  rowOf('job', {
    raidGroup: null,
    drive: null,
    ...start,
    startedAt: now,
    asOf: now,
    finishesAt: endOf(start.total, 0, start.rate, now),
  });

/** Bytes done by now. */
export function doneAt(job: Job, now: Milliseconds): number {
  if (job.paused) return job.done;
  if (now >= job.finishesAt) return job.total;
  return Math.min(job.total, Math.floor(job.done + (Math.max(0, now - job.asOf) / SECOND) * job.rate));
}

/** Share of a job that is done, 0 to 1. */
export const jobProgress = (job: Job, now: Milliseconds): number =>
  (now >= job.finishesAt && !job.paused) || job.total === 0 ? 1 : doneAt(job, now) / job.total;

/** The fields of a job that goes on at another rate; what is done stays done. */
export function atRate(job: Job, rate: number, now: Milliseconds): Pick<Job, 'done' | 'asOf' | 'rate' | 'finishesAt'> {
  const done = doneAt(job, now);
  return { done, asOf: now, rate, finishesAt: endOf(job.total, done, rate, now) };
}

/** The same of work that is done in batches: `done` is what its batches did, and what is due since counts for the next. */
export function atRateInBatches(job: Job, rate: number, now: Milliseconds): Pick<Job, 'asOf' | 'rate' | 'finishesAt'> {
  const due = doneAt(job, now) - job.done;
  const asOf = now - Math.round((due / Math.max(rate, 1)) * SECOND);
  return { asOf, rate, finishesAt: endOf(job.total, job.done, rate, asOf) };
}

/** The fields of a job that stands still from now on: what is done is its checkpoint. */
export const paused = (job: Job, now: Milliseconds): Pick<Job, 'done' | 'asOf' | 'finishesAt' | 'paused'> => ({
  ...atRate(job, job.rate, now),
  paused: true,
});

/** The fields of one that goes on from its checkpoint. */
export const resumed = (job: Job, now: Milliseconds): Pick<Job, 'done' | 'asOf' | 'finishesAt' | 'paused'> => ({
  ...atRate(job, job.rate, now),
  paused: false,
});
