import { changed } from '@/core/estate/effects';
import type { Job } from '@/core/estate/entities';
import { HOUR, SECOND } from '@/core/units/duration';
import type { Trabes } from './instance';

/** The first work of an instance, brought to the last hour of it: what it does at its end is seen without its days. */
export function nearlyDone({ plant }: Trabes): Job {
  const [job] = [...plant.estate.table('job').values()];
  const { now } = plant.lab;
  const left = { done: Math.floor(job!.total - (job!.rate * HOUR) / SECOND), asOf: now, finishesAt: now + HOUR };
  plant.commit({ effects: [changed('job', job!, left)], lab: plant.lab });
  return plant.estate.table('job').get(job!.id)!;
}
