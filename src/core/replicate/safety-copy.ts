import { cutOf } from '../copies/cut';
import type { Effect } from '../estate/effects';
import type { Kind, Replication, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { nameByPattern } from '../protect/names';
import type { Milliseconds } from '../units/duration';

type NewId = (kind: Kind) => string;

/** What stands at a side is copied before it is overwritten. */
export function safetyCopy(
  view: EstateView,
  volumes: readonly Volume[],
  row: Replication,
  now: Milliseconds,
  newId: NewId,
): Effect[] {
  const name = nameByPattern(`before-${row.name}-{date}-{time}`, now);
  const free = volumes.every((volume) =>
    view
      .table('snapshot')
      .by('volume', volume.id)
      .every((copy) => copy.name !== name),
  );
  return cutOf(
    view,
    volumes,
    {
      name: free ? name : `${name}-${newId('snapshot').slice(-4)}`,
      at: now,
      notes: `before ${row.name} was turned`,
      workload: null,
    },
    newId,
  ).effects;
}
