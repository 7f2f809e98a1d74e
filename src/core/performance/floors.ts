import type { EstateView } from '../estate/estate';
import { floorsFeasible } from '../qos/solve';
import { whole } from '../units/in-parts';
import { everyFailureState } from './failure-states';

/** Room that promised floors leave of what a resource gives (a choice). */
export const FLOOR_HEADROOM = 0.1;

export interface FloorsLack {
  resource: string;
  state: string;
  /** Share of what may be promised there that all floors need, above 1. */
  share: number;
}

/** The resource at which the floors of an array's limits are furthest from being held in the worst single-failure state; null where all fit. */
export function floorsLack(view: EstateView, array: string): FloorsLack | null {
  const promising = view
    .table('loadLimit')
    .by('array', array)
    .some(({ floor }) => floor !== null);
  if (!promising) return null;
  let worst: FloorsLack | null = null;
  for (const { name, model } of whole(everyFailureState(view, array))) {
    const floors = new Map<number, number>();
    for (const { members } of model.limits)
      for (const { volume, floor } of members)
        if (floor !== null) floors.set(volume, Math.max(floors.get(volume) ?? 0, floor));
    model.resources.forEach(({ name: resource, capacity }, r) => {
      const items = [...floors].flatMap(([v, floor]) => {
        const volume = model.volumes[v]!;
        const total = volume.reads + volume.writes || 1;
        const units = volume.uses.reduce(
          (sum, use) =>
            use.resource === r ? sum + (volume.reads * use.read + volume.writes * use.write) / total : sum,
          0,
        );
        return units > 0
          ? [{ id: volume.id, floorIops: floor * units, ioBytes: 1, unitBytes: 1, readFraction: 1, writeFactor: 1 }]
          : [];
      });
      const answer = floorsFeasible({ capacityUnitsPerS: capacity, headroom: FLOOR_HEADROOM, items });
      if (!answer.ok || answer.fits) return;
      const share = answer.unitsPerS / answer.limitUnitsPerS;
      if (worst === null || share > worst.share) worst = { resource, state: name, share };
    });
  }
  return worst;
}
