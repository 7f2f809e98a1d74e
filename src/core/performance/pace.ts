import { changed, type Effect } from '../estate/effects';
import type { Job } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { atRate } from '../job/work';
import type { GroupWork } from '../raid/group-work';
import { groupWork } from '../raid/works';
import type { Milliseconds } from '../units/duration';
import { loadModel } from './model';
import { busyAt } from './profile';
import type { LoadModel } from './shape';

const works = new Map<string, GroupWork>(groupWork.map((work) => [work.name, work]));

/** Work on RAID groups that is going on. */
export const pacedJobs = (view: EstateView): Job[] =>
  [...view.table('job').values()].filter(
    ({ raidGroup, paused, kind }) => raidGroup !== null && !paused && works.has(kind),
  );

/** Utilisation of each resource by what hosts ask at an hour of the week, without work in the background; 0 to 1 and above. */
export function askedAt({ resources, volumes }: LoadModel, at: Milliseconds): Map<string, number> {
  const used = resources.map(() => 0);
  for (const volume of volumes) {
    const busy = busyAt(volume.week, at);
    for (const { resource, read, write } of volume.uses)
      used[resource]! += busy * (volume.reads * read + volume.writes * write);
  }
  return new Map(resources.map(({ id, capacity }, r) => [id, used[r]! / capacity]));
}

/** A change of rate below this share is left alone. */
const LITTLE = 0.01;

/**
 * Work on RAID groups goes on at the rate that what hosts ask in this hour leaves it: a rebuild at noon is slower than one at night. What is done
 * stays done.
 */
export function paced(view: EstateView, now: Milliseconds): Effect[] {
  const jobs = pacedJobs(view);
  if (jobs.length === 0) return [];
  const asked = askedAt(loadModel(view), now);
  return jobs.flatMap((job) => {
    const group = view.table('raidGroup').get(job.raidGroup!)!;
    const load = Math.min(1, asked.get(group.id) ?? 0);
    const rate = works.get(job.kind)!.rate(view, group, job.priority, load);
    if (Math.abs(rate - job.rate) <= LITTLE * job.rate) return [];
    return [changed('job', job, atRate(job, rate, now))];
  });
}
