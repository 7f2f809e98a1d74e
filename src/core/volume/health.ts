import type { Controller, ExtentRun, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { ownerOf } from '../estate/relations';
import { groupHealth } from '../raid/health';
import type { Availability } from '../pool/usage';

/** Runs of extents in which the volume's data lies: its own, and with data in reduced form those of its pool's store. */
export function runsUnder(view: EstateView, volume: Volume): readonly ExtentRun[] {
  const runs = view.table('extent');
  const own =
    volume.origin === null
      ? runs.by('volume', volume.id)
      : [...runs.by('copies', volume.origin), ...runs.by('volume', volume.origin)];
  return volume.reducedTo === 0 ? own : [...own, ...runs.by('store', volume.pool)];
}

/** RAID groups that hold data of the volume; all groups of its pool while it holds none. */
export function groupsUnder(view: EstateView, volume: Volume): string[] {
  const runs = runsUnder(view, volume);
  if (runs.length > 0) return [...new Set(runs.map((run) => run.raidGroup))].sort();
  return view
    .table('raidGroup')
    .by('pool', volume.pool)
    .map((group) => group.id)
    .sort();
}

/** {@link volumeState} for one estate: each group is judged once, however many volumes rest on it. */
export function volumeHealth(view: EstateView): (volume: Volume) => Availability {
  const groups = new Map<string, Availability>();
  const ofGroup = (id: string): Availability => {
    let state = groups.get(id);
    if (!state) {
      const health = groupHealth(view, view.table('raidGroup').get(id)!).state;
      groups.set(id, (state = health === 'lost' || health === 'degraded' ? health : 'ok'));
    }
    return state;
  };
  const worse = (a: Availability, b: Availability): Availability =>
    a === 'lost' || b === 'lost' ? 'lost' : a === 'degraded' || b === 'degraded' ? 'degraded' : 'ok';
  const pools = new Map<string, Availability>();
  const ofPool = (id: string): Availability => {
    let state = pools.get(id);
    if (!state) {
      state = 'ok';
      for (const group of view.table('raidGroup').by('pool', id)) state = worse(state, ofGroup(group.id));
      pools.set(id, state);
    }
    return state;
  };
  return (volume) => {
    const whole = ofPool(volume.pool);
    // Where every group of the pool stands, so does whatever lies in it.
    if (whole === 'ok') return whole;
    const runs = runsUnder(view, volume);
    return runs.length === 0
      ? whole
      : runs.reduce<Availability>((state, run) => worse(state, ofGroup(run.raidGroup)), 'ok');
  };
}

/** Whether the volume's data is there: as safe as the worst group under it. */
export const volumeState = (view: EstateView, volume: Volume): Availability => volumeHealth(view)(volume);

/** The controller that serves the volume now: its owner, or while that is down the first of the others that is up; null where none is. */
export function servingController(view: EstateView, volume: Volume): Controller | null {
  const owner = ownerOf(view, volume);
  if (owner?.state === 'up') return owner;
  const up = view
    .table('controller')
    .by('array', volume.array)
    .filter((controller) => controller.state === 'up');
  return up.sort((a, b) => (a.id < b.id ? -1 : 1))[0] ?? null;
}

/** Whether an array takes orders and goes on with its work: one of its controllers is up. */
export const arrayAnswers = (view: EstateView, array: string): boolean =>
  view
    .table('controller')
    .by('array', array)
    .some((controller) => controller.state === 'up');
