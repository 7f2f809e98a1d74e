import { leadOf } from '../copies/legs';
import { shownBytes } from '../copies/parts';
import type { Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { ActivityProfile } from '../kinds/activity';
import { readHit } from '../load/cache';
import { servingController } from '../volume/health';
import { CACHE, CACHE_HITS, MERGED_WRITES, READ_AHEAD_HITS } from './choices';

/** Volumes of which hosts may ask something; of a stretched pair only the leg that leads. */
export const volumesAtWork = (view: EstateView): Volume[] =>
  [...view.table('volume').values()].filter(
    (volume) => volume.activity !== null && volume.deletedAt === null && leadOf(view, volume.id) === volume.id,
  );

/** Of the reads of a volume, the share that the cache of its controller answers; all that the controller serves share it (load.md A). */
export function hitsOf(view: EstateView, volumes: readonly Volume[]): (volume: Volume) => number {
  const workingSets = new Map<string, number>();
  for (const volume of volumes) {
    const at = servingController(view, volume)?.id;
    if (!at || volume.activity!.pattern === 'sequential') continue;
    workingSets.set(at, (workingSets.get(at) ?? 0) + volume.activity!.workingSet * shownBytes(volume));
  }
  return (volume) =>
    volume.activity!.pattern === 'sequential'
      ? READ_AHEAD_HITS
      : readHit({
          hMax: CACHE_HITS,
          cacheBytes: CACHE,
          workingSetBytes: workingSets.get(servingController(view, volume)?.id ?? '') ?? 0,
        });
}

/** Of the writes of a volume, the share that meets in the cache before it is destaged. */
export const mergedOf = ({ pattern, hotShare }: Pick<ActivityProfile, 'pattern' | 'hotShare'>): number =>
  pattern === 'sequential' ? 0 : MERGED_WRITES * hotShare;
