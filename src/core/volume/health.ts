import type { Controller, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { groupHealth } from '../raid/health';
import type { Availability } from '../pool/usage';

/** RAID groups that hold extents of the volume; all groups of its pool while it holds none. */
export function groupsUnder(view: EstateView, volume: Volume): string[] {
  const runs = view.table('extent').by('volume', volume.id);
  if (runs.length > 0) return [...new Set(runs.map((run) => run.raidGroup))].sort();
  return view
    .table('raidGroup')
    .by('pool', volume.pool)
    .map((group) => group.id)
    .sort();
}

/** Whether the volume's data is there: as safe as the worst group under it. */
export function volumeState(view: EstateView, volume: Volume): Availability {
  let worst: Availability = 'ok';
  for (const id of groupsUnder(view, volume)) {
    const state = groupHealth(view, view.table('raidGroup').get(id)!).state;
    if (state === 'lost') return 'lost';
    if (state === 'degraded') worst = 'degraded';
  }
  return worst;
}

/** The controller that serves the volume now: its owner, or while that is down the first of the others that is up; null where none is. */
export function servingController(view: EstateView, volume: Volume): Controller | null {
  const owner = view.table('controller').get(volume.owner);
  if (owner?.state === 'up') return owner;
  const up = view
    .table('controller')
    .by('array', volume.array)
    .filter((controller) => controller.state === 'up');
  return up.sort((a, b) => (a.id < b.id ? -1 : 1))[0] ?? null;
}
