import type { ExtentRun, Kind, Pool, Volume } from '../estate/entities';
import { changed, created, type Effect } from '../estate/effects';
import type { EstateView } from '../estate/estate';
import { placeExtents } from '../pool/allocate';
import { availableExtents } from '../pool/usage';
import type { Bytes } from '../units/bytes';

/** Effects that give `extents` more extents to a volume. A run that goes on where the last one ends is made longer. */
export function giveExtents(
  view: EstateView,
  volume: Volume,
  pool: Pool,
  extents: number,
  newId: (kind: Kind) => string,
): Effect[] {
  let at = view.occupancy.allocated(volume.id);
  const last = new Map<string, ExtentRun>();
  if (at > 0)
    for (const run of view.table('extent').by('volume', volume.id)) {
      const known = last.get(run.raidGroup);
      if (!known || run.at > known.at) last.set(run.raidGroup, run);
    }
  return placeExtents(view, pool, extents).map((place) => {
    const before = last.get(place.raidGroup);
    const goesOn = before && before.start + before.count === place.start && before.at + before.count === at;
    const effect = goesOn
      ? changed('extent', before, { count: before.count + place.count })
      : created('extent', { id: newId('extent'), volume: volume.id, ...place, at });
    at += place.count;
    return effect;
  });
}

export interface Written {
  effects: Effect[];
  /** How far the device is written after it. */
  written: Bytes;
  /** The pool had no extent left for the rest. */
  full: boolean;
}

/**
 * Hosts write up to `target` bytes from the start of the device: a thin volume takes extents where it has none yet. Stops where the pool is
 * full; overwriting what is allocated always goes on.
 */
export function writeUpTo(view: EstateView, volume: Volume, target: Bytes, newId: (kind: Kind) => string): Written {
  const end = Math.min(Math.max(target, volume.written), volume.size);
  const pool = view.table('pool').get(volume.pool)!;
  const held = view.occupancy.allocated(volume.id);
  const wanted = Math.max(0, Math.ceil(end / pool.extentSize) - held);
  const given = volume.provisioning === 'thick' || wanted === 0 ? 0 : Math.min(wanted, availableExtents(view, pool));
  const written = Math.max(volume.written, Math.min(end, (held + given) * pool.extentSize));
  const effects = given > 0 ? giveExtents(view, volume, pool, given, newId) : [];
  if (written > volume.written) effects.push(changed('volume', volume, { written }));
  return { effects, written, full: given < wanted };
}
