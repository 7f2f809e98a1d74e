import type { Job } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { shapeOfGroup } from '../raid/geometry';
import { mediaOfGroup } from '../raid/load';
import type { LoadModel, LoadResource } from './shape';
/** Bytes that one byte of such work reads and writes on its group. */
const moves: Partial<Record<Job['kind'], number>> = { 'raid-scrub': 1 };

/** What rebuilds, copies and scrubs take of the groups they run on. */
export function backgroundOf(
  view: EstateView,
  places: ReadonlyMap<string, number>,
  resources: readonly LoadResource[],
): LoadModel['background'] {
  const found: LoadModel['background'] = [];
  for (const job of view.table('job').values()) {
    if (job.paused || job.raidGroup === null || job.rate <= 0) continue;
    const resource = places.get(job.raidGroup);
    if (resource === undefined) continue;
    const group = view.table('raidGroup').get(job.raidGroup)!;
    const media = mediaOfGroup(view, group);
    const shape = shapeOfGroup(group);
    const rebuilds = job.kind === 'raid-rebuild' || job.kind === 'raid-copy-back';
    // A rebuilt byte is worked out from all data strips of its stripe.
    const read = rebuilds ? (shape.copies > 1 ? 1 : shape.data) : 1;
    const written = moves[job.kind] === undefined ? 1 : 0;
    const perS = job.rate * (read / (media.readMBps * 1e6) + written / (media.writeMBps * 1e6));
    found.push({ resource, perS: Math.min(perS, resources[resource]!.capacity * 0.9), name: job.kind });
  }
  return found;
}
