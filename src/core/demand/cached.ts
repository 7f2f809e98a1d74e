import { leadOf } from '../copies/legs';
import { shownBytes } from '../copies/parts';
import type { Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { ActivityProfile } from '../kinds/activity';
import { readHit } from '../load/cache';
import { servingController } from '../volume/health';
import { CACHE, CACHE_HITS, MERGED_WRITES, READ_AHEAD_HITS } from './choices';

/** Whether hosts may ask something of a volume; of a stretched pair only of the leg that leads. */
export const isAtWork = (view: EstateView, volume: Volume): boolean =>
  volume.activity !== null && volume.deletedAt === null && leadOf(view, volume.id) === volume.id;

export const volumesAtWork = (view: EstateView): Volume[] =>
  [...view.table('volume').values()].filter((volume) => isAtWork(view, volume));

/** Bytes that are worked with through each controller of an array: all that it serves share its cache. */
function workingSetsOf(view: EstateView, array: string): Map<string, number> {
  const sets = new Map<string, number>();
  for (const volume of view.table('volume').by('array', array)) {
    if (!isAtWork(view, volume) || volume.activity!.pattern === 'sequential') continue;
    const at = servingController(view, volume)?.id;
    if (at) sets.set(at, (sets.get(at) ?? 0) + volume.activity!.workingSet * shownBytes(volume));
  }
  return sets;
}

/** Of the reads of a volume, the share that the cache of its controller answers (load.md A). */
export function hitsOf(view: EstateView): (volume: Volume) => number {
  const known = new Map<string, Map<string, number>>();
  const setsOf = (array: string) => {
    let sets = known.get(array);
    if (!sets) known.set(array, (sets = workingSetsOf(view, array)));
    return sets;
  };
  return (volume) =>
    volume.activity!.pattern === 'sequential'
      ? READ_AHEAD_HITS
      : readHit({
          hMax: CACHE_HITS,
          cacheBytes: CACHE,
          workingSetBytes: setsOf(volume.array).get(servingController(view, volume)?.id ?? '') ?? 0,
        });
}

/** Of the writes of a volume, the share that meets in the cache before it is destaged. */
export const mergedOf = ({ pattern, hotShare }: Pick<ActivityProfile, 'pattern' | 'hotShare'>): number =>
  pattern === 'sequential' ? 0 : MERGED_WRITES * hotShare;
