import type { Job, RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { shapeOfGroup } from '../raid/geometry';
import { mediaOfGroup } from '../raid/load';
import type { LoadModel, LoadResource } from './shape';
/** Work in the background leaves hosts at least the rest of a resource. */
const MOST_BEHIND = 0.9;

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
    found.push({ resource, perS: Math.min(perS, resources[resource]!.capacity * MOST_BEHIND), name: job.kind });
  }
  return [...found, ...movesOn(view, places, resources)];
}

/** What moves read of the groups of one pool and write to those of the other, by what each group can hold. */
function movesOn(
  view: EstateView,
  places: ReadonlyMap<string, number>,
  resources: readonly LoadResource[],
): LoadModel['background'] {
  const found: LoadModel['background'] = [];
  const put = (pool: string, rate: number, cost: (group: RaidGroup) => number) => {
    const groups = view.table('raidGroup').by('pool', pool);
    const usable = groups.reduce((sum, one) => sum + one.usable, 0);
    for (const group of groups) {
      const resource = places.get(group.id);
      if (resource === undefined || usable === 0) continue;
      const perS = ((rate * group.usable) / usable) * cost(group);
      found.push({ resource, perS: Math.min(perS, resources[resource]!.capacity * MOST_BEHIND), name: 'move' });
    }
  };
  for (const { round, flows, fromPool, toPool } of view.table('move').by('open', '')) {
    if (!round || !flows || round.rate <= 0) continue;
    put(fromPool, round.rate, (group) => 1 / (mediaOfGroup(view, group).readMBps * 1e6));
    // A byte that is written comes with its parity, or in as many copies as the group keeps.
    put(toPool, round.rate, (group) => {
      const { data, copies, parity } = shapeOfGroup(group);
      const more = copies > 1 ? copies : (data + parity) / data;
      return more / (mediaOfGroup(view, group).writeMBps * 1e6);
    });
  }
  return found;
}
