import { changed } from '../estate/effects';
import type { Pool } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { READ_CORE_S, WRITE_CORE_S } from './choices';
import { groupCost } from '../demand/group-cost';
import { loadModel } from './model';
import { weekOf } from './room';
import type { LoadModel } from './shape';
import { whileStill } from '../estate/while-still';

/** The I/O by which headroom is counted: small, scattered, seven reads of ten (a choice). */
export const COUNTED_IO = { ioBytes: 8192, reads: 0.7 } as const;

/** What a pool gives in the worst single-failure state at the busiest hour, I/O a second. */
export interface PoolHeadroom {
  limit: number;
  used: number;
  /** What is full first, and in which state. */
  at: string;
  state: string;
}

/** Resources of a model by id, with the most that is taken of each at an hour of the week. */
interface Busiest {
  of(id: string): { capacity: number; limit: number; name: string; used: number } | undefined;
}

function busiest(model: LoadModel): Busiest {
  const weeks = weekOf(model);
  const places = new Map(model.resources.map(({ id }, r) => [id, r]));
  return {
    of(id) {
      const r = places.get(id);
      if (r === undefined) return undefined;
      const { capacity, limit, name } = model.resources[r]!;
      return { capacity, limit, name, used: Math.max(...weeks[r]!) * capacity };
    },
  };
}

/** Volumes that take of controllers or groups, by array. */
function volumesAt(model: LoadModel): Map<string, Set<string>> {
  const found = new Map<string, Set<string>>();
  for (const { id, uses } of model.volumes)
    for (const { resource } of uses) {
      const { array, kind } = model.resources[resource]!;
      if (array === null || kind === 'port') continue;
      const known = found.get(array);
      if (known) known.add(id);
      else found.set(array, new Set([id]));
    }
  return found;
}

/**
 * What pools of some arrays could still serve of counted I/O in their worst single-failure state at the busiest hour of the week: the least of
 * what their groups and the controllers have left up to where they are well used (load.md E, J). Below 0 where they are past it.
 *
 * A member that is out costs at its own group alone, so that one model with a member out of every group tells of each; a controller that is
 * out costs at its own array, so that only what takes of that is looked at again.
 */
export function headroomsAt(view: EstateView, arrays: readonly string[]): Map<string, PoolHeadroom> {
  const found = new Map<string, PoolHeadroom>();
  const groups = arrays.flatMap((array) => view.table('raidGroup').by('array', array));
  const worn = new Set(groups.filter(({ parity, copies }) => parity > 0 || copies > 1).map(({ id }) => id));
  const present = loadModel(view);
  const now = busiest(present);
  const withMemberOut = worn.size === 0 ? now : busiest(loadModel(view, undefined, worn));
  const at = volumesAt(present);
  for (const array of arrays) {
    const pools = view.table('pool').by('array', array);
    if (pools.length === 0) continue;
    const controllers = view.table('controller').by('array', array);
    const look = (pool: Pool, load: Busiest, id: string, cost: number, state: string) => {
      const one = load.of(id);
      if (!one || cost <= 0) return;
      const [limit, used] = [(one.limit * one.capacity) / cost, one.used / cost];
      const known = found.get(pool.id);
      if (!known || limit - used < known.limit - known.used) found.set(pool.id, { limit, used, at: one.name, state });
    };
    const lookAtGroup = (pool: Pool, load: Busiest, id: string, degraded: ReadonlySet<string>, state: string) => {
      const own = view.table('raidGroup').by('pool', pool.id);
      const usable = own.reduce((sum, one) => sum + one.usable, 0);
      const group = view.table('raidGroup').get(id)!;
      const { read, write } = groupCost(view, group, COUNTED_IO.ioBytes, false, degraded);
      const each = COUNTED_IO.reads * read + (1 - COUNTED_IO.reads) * write;
      look(pool, load, id, usable > 0 ? (each * group.usable) / usable : 0, state);
    };
    const lookAtAll = (load: Busiest, state: string) => {
      const answering = controllers.filter(({ id }) => load.of(id) !== undefined);
      const each = COUNTED_IO.reads * READ_CORE_S + (1 - COUNTED_IO.reads) * WRITE_CORE_S;
      for (const pool of pools) {
        for (const { id } of view.table('raidGroup').by('pool', pool.id)) lookAtGroup(pool, load, id, none, state);
        for (const { id } of answering) look(pool, load, id, each / answering.length, state);
      }
    };
    lookAtAll(now, 'as it stands');
    const up = controllers.filter(({ state }) => state === 'up');
    if (up.length > 1)
      for (const controller of up) {
        const without = new Overlay(view);
        without.apply([changed('controller', controller, { state: 'down' })]);
        const here = at.get(array);
        const model = loadModel(without, undefined, none, ({ id }) => here?.has(id) ?? false);
        lookAtAll(busiest(model), `controller ${controller.name} lost`);
      }
    for (const pool of pools)
      for (const group of view.table('raidGroup').by('pool', pool.id))
        if (worn.has(group.id)) lookAtGroup(pool, withMemberOut, group.id, worn, `a drive of ${group.name} lost`);
  }
  return found;
}

const none: ReadonlySet<string> = new Set();

/** The same of all arrays, kept as long as nothing moves. */
export const headroomsOf: (view: EstateView) => ReadonlyMap<string, PoolHeadroom> = whileStill((view) =>
  headroomsAt(
    view,
    [...view.table('array').values()].map(({ id }) => id),
  ),
);

/** The same of one array. */
export const poolHeadrooms = (view: EstateView, array: string): Map<string, PoolHeadroom> => headroomsAt(view, [array]);
