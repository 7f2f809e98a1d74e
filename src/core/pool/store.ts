import { reducedStore, type ReducedStore } from '../content/reduce';
import { changed, created, deleted, type Effect } from '../estate/effects';
import type { ExtentRun, Kind, Pool } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { Bytes } from '../units/bytes';
import { placeExtents } from './allocate';

type NewId = (kind: Kind) => string;

/** The reduced store of a pool as its volumes now stand, oldest volume first. */
export const storeOf = (view: EstateView, pool: Pool): ReducedStore => reducedStore(pool, storeVolumes(view, pool.id));

export const storeVolumes = (view: EstateView, pool: string) =>
  view
    .table('volume')
    .by('pool', pool)
    .filter((volume) => volume.reducedTo > 0)
    .sort((a, b) => a.createdAt - b.createdAt || (a.id < b.id ? -1 : 1));

/** Bytes the store could still take in the extents it holds. */
export const storeSlack = (view: EstateView, pool: Pool): Bytes =>
  view.occupancy.allocated(pool.id) * pool.extentSize - storeOf(view, pool).bytes;

/** Takes or gives back extents, so that the store holds as many as it needs. `short` tells how many could not be had. */
export function fitStore(view: EstateView, pool: Pool, newId: NewId): { effects: Effect[]; short: number } {
  const held = view.occupancy.allocated(pool.id);
  const wanted = Math.ceil(storeOf(view, pool).bytes / pool.extentSize);
  if (wanted === held) return { effects: [], short: 0 };
  if (wanted < held) return { effects: lastFreed(view, pool, held - wanted), short: 0 };
  let at = held;
  const effects = placeExtents(view, pool, wanted - held).map((place) => {
    const effect = created('extent', { id: newId('extent'), volume: null, store: pool.id, copies: null, ...place, at });
    at += place.count;
    return effect;
  });
  return { effects, short: wanted - at };
}

/** Gives back the store's last extents. */
function lastFreed(view: EstateView, pool: Pool, count: number): Effect[] {
  const effects: Effect[] = [];
  let left = count;
  for (const run of [...view.table('extent').by('store', pool.id)].sort((a, b) => b.at - a.at)) {
    if (left === 0) break;
    effects.push(shortened(run, Math.min(left, run.count)));
    left -= Math.min(left, run.count);
  }
  return effects;
}

const shortened = (run: ExtentRun, by: number): Effect =>
  by === run.count ? deleted('extent', run) : changed('extent', run, { count: run.count - by });
