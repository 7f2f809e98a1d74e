import { groupsBusy } from '../demand/groups-busy';
import { changed, type Effect } from '../estate/effects';
import type { Job, RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { atRate, atRateInBatches } from '../job/work';
import { groupWork } from '../raid/works';
import type { Milliseconds } from '../units/duration';
import { hourOfWeek } from '../units/week';
import { workOf } from '../work/scheduler';

type Busy = (group: RaidGroup) => number;

/** By kind of work, the rate at which it goes on beside hosts. */
const ofGroups = new Map<string, (view: EstateView, job: Job, busy: Busy) => number>(
  groupWork.map(({ name, rate }) => [
    name,
    (view, job, busy) => {
      const group = view.table('raidGroup').get(job.raidGroup!)!;
      return rate(view, group, job.priority, busy(group));
    },
  ]),
);
const paceOf = (job: Job) => ofGroups.get(job.kind) ?? workOf(job).pace;

/** Work that is going on and that hosts slow: on RAID groups, and on pools. */
export const pacedJobs = (view: EstateView): Job[] =>
  [...view.table('job').values()].filter((job) => !job.paused && paceOf(job) !== undefined);

/** A change of rate below this share is left alone. */
const LITTLE = 0.01;

/**
 * Work on RAID groups and pools goes on at the rate that what hosts ask in this hour leaves it: a rebuild at noon is slower than one at night. What
 * is done stays done.
 */
export function paced(view: EstateView, now: Milliseconds): Effect[] {
  const jobs = pacedJobs(view).filter(({ startedAt }) => startedAt <= now);
  if (jobs.length === 0) return [];
  const asked = groupsBusy(view);
  const hour = hourOfWeek(now);
  const busy = (group: RaidGroup) => Math.min(1, asked(group, hour));
  return jobs.flatMap((job) => {
    const rate = paceOf(job)!(view, job, busy);
    if (Math.abs(rate - job.rate) <= LITTLE * job.rate) return [];
    const { batches } = workOf(job);
    return [changed('job', job, (batches === undefined ? atRate : atRateInBatches)(job, rate, now))];
  });
}
