import type { HostDevice, Job, Kind } from '../estate/entities';
import { changed, deleted, type Effect } from '../estate/effects';
import { Overlay, type EstateView } from '../estate/estate';
import { mappingOf, pathFinder, reachesVolume } from '../attach/paths';
import type { Milliseconds } from '../units/duration';
import { writeUpTo } from '../volume/grow';

/** What a job's end does to the estate. */
export function finishJob(view: EstateView, job: Job): { effects: Effect[]; said: string } {
  const group = view.table('raidGroup').get(job.raidGroup);
  const name = `${view.table('array').get(job.array)?.name ?? ''} ${group?.name ?? 'RAID group'}`;
  const effects: Effect[] = [deleted('job', job)];
  if (job.kind === 'raid-initialise') return { effects, said: `${name} is initialised` };
  const drive = job.drive ? view.table('drive').get(job.drive) : undefined;
  if (drive) effects.push(changed('drive', drive, { state: 'ok' }));
  return { effects, said: `${name} is whole again: the drive is rebuilt` };
}

/** The next moment at which a job ends, or null. */
export function nextJobEnd(view: EstateView): { at: Milliseconds; job: Job } | null {
  let next: Job | null = null;
  for (const job of view.table('job').values())
    if (!next || job.finishesAt < next.finishesAt || (job.finishesAt === next.finishesAt && job.id < next.id))
      next = job;
  return next && { at: next.finishesAt, job: next };
}

/** Share of a job that is done, 0 to 1. */
export const jobProgress = (job: Job, now: Milliseconds): number =>
  job.finishesAt <= job.startedAt
    ? 1
    : Math.min(1, Math.max(0, (now - job.startedAt) / (job.finishesAt - job.startedAt)));

/** Devices the write generator is at work on. */
export const writers = (view: EstateView): HostDevice[] =>
  [...view.table('hostDevice').values()].filter((device) => device.writeRate > 0 && device.mountPoint !== null);

/**
 * What hosts write within `span`: each mounted device with a rate fills its file system and, through it, takes extents of a thin volume.
 * Nothing is written where no path leads, nor beyond the file system; where the pool is full the writes that need room fail.
 */
export function writeTraffic(
  view: EstateView,
  span: Milliseconds,
  newId: (kind: Kind) => string,
): { effects: Effect[]; said: string[] } {
  const effects: Effect[] = [];
  const said: string[] = [];
  const busy = writers(view);
  if (busy.length === 0 || span <= 0) return { effects, said };
  const overlay = new Overlay(view);
  const finder = pathFinder(view);
  for (const device of busy) {
    const volume = overlay.table('volume').get(device.volume);
    if (!volume || !reachesVolume(finder, mappingOf(view, device.host, device.volume))) continue;
    const end = Math.min(device.size, device.used + Math.floor((device.writeRate * span) / 1000));
    const write = writeUpTo(overlay, volume, end, newId);
    const used = write.full ? Math.min(end, Math.max(device.used, write.written)) : end;
    if (used === device.used) {
      if (write.full || end === device.size) {
        effects.push(changed('hostDevice', device, { writeRate: 0 }));
        said.push(
          `${view.table('host').get(device.host)?.name} cannot write on to ${device.mountPoint}: ${write.full ? `the pool under ${volume.name} is full` : 'the file system is full'}`,
        );
      }
      continue;
    }
    const made = [...write.effects, changed('hostDevice', device, { used })];
    overlay.apply(made);
    effects.push(...made);
  }
  return { effects, said };
}
