import { bytesIn } from '../estate/runs';
import { mappedRuns } from '../content/weave';
import type { ArrayRow, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { realPools } from '../pool/direct';
import { poolHeadrooms } from '../performance/pool-headroom';
import { classOf } from '../service/facts';
import { placesFor, type PlaceAnswer } from '../service/place';

/**
 * Where volumes fit best on an array, by room, service with one part failed and their classes; pools in which all of them lie already are left
 * out. Null where nothing is to be placed.
 */
export function bestPlaces(view: EstateView, target: ArrayRow, volumes: readonly Volume[]): PlaceAnswer | null {
  const pools = realPools(view, target.id).filter((pool) => volumes.some((volume) => volume.pool !== pool.id));
  if (volumes.length === 0 || pools.length === 0) return null;
  const bytes = volumes.reduce(
    (sum, volume) => sum + (volume.provisioning === 'thick' ? volume.size : bytesIn(mappedRuns(volume))),
    0,
  );
  // What stays within one array is served by it already.
  const iops = volumes.reduce(
    (sum, { activity, array }) => sum + (activity && array !== target.id ? activity.reads + activity.writes : 0),
    0,
  );
  const classes = new Map(
    volumes.flatMap((volume) => {
      const facts = classOf(view, volume.id);
      return facts ? [[facts.id, facts.rules] as const] : [];
    }),
  );
  return placesFor(
    view,
    { bytes, iops, rules: [...classes.values()].flat(), replica: false },
    poolHeadrooms(view, target.id),
    undefined,
    pools,
  );
}
