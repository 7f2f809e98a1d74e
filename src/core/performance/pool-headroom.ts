import type { EstateView } from '../estate/estate';
import { READ_CORE_S, WRITE_CORE_S } from './choices';
import { failureStates } from './failure-states';
import { groupCost } from './group-cost';
import { weekOf } from './room';

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

/**
 * What every pool of an array could still serve of counted I/O in its worst single-failure state at the busiest hour of the week: the least of
 * what its groups and the controllers have left up to where they are well used (load.md E, J). Below 0 where they are past it.
 */
export function poolHeadrooms(view: EstateView, array: string): Map<string, PoolHeadroom> {
  const pools = view.table('pool').by('array', array);
  const found = new Map<string, PoolHeadroom>();
  for (const { name: state, model, degraded } of failureStates(view, array)) {
    const weeks = weekOf(model);
    const places = new Map(model.resources.map(({ id }, r) => [id, r]));
    const controllers = model.resources.filter((one) => one.kind === 'controller' && one.array === array);
    const look = (pool: string, id: string, cost: number) => {
      const r = places.get(id);
      if (r === undefined || cost <= 0) return;
      const { capacity, limit: good, name } = model.resources[r]!;
      const limit = (good * capacity) / cost;
      const used = (Math.max(...weeks[r]!) * capacity) / cost;
      const known = found.get(pool);
      if (!known || limit - used < known.limit - known.used) found.set(pool, { limit, used, at: name, state });
    };
    for (const pool of pools) {
      const groups = view.table('raidGroup').by('pool', pool.id);
      const usable = groups.reduce((sum, one) => sum + one.usable, 0);
      for (const group of groups) {
        const { read, write } = groupCost(view, group, COUNTED_IO.ioBytes, false, degraded);
        const each = COUNTED_IO.reads * read + (1 - COUNTED_IO.reads) * write;
        look(pool.id, group.id, usable > 0 ? (each * group.usable) / usable : 0);
      }
      const each = COUNTED_IO.reads * READ_CORE_S + (1 - COUNTED_IO.reads) * WRITE_CORE_S;
      for (const controller of controllers) look(pool.id, controller.id, each / controllers.length);
    }
  }
  return found;
}
