import type { Priority, RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import { imbalanceOf } from './distributed';
import { shapeOfGroup } from './geometry';
import { groupLoad, mediaOfGroup } from './load';
import { backgroundShare, copyBackRate, rebuildRate } from './rebuild';

// Bytes a second at which background work on a group goes on, by its priority and what hosts do: `load` is the utilisation of its members by
// them, 0 to 1; without it what their writes make of it.

const shareOf = (view: EstateView, group: RaidGroup, priority: Priority, load = 0): number =>
  backgroundShare(priority, Math.max(load, groupLoad(view, group)));

/** What one member reads and writes for work in the background. */
export function shareRate(
  view: EstateView,
  group: RaidGroup,
  priority: Priority,
  load?: number,
): { read: number; write: number } {
  const media = mediaOfGroup(view, group);
  const share = shareOf(view, group, priority, load);
  return { read: share * media.readMBps * 1e6, write: share * media.writeMBps * 1e6 };
}

export function rateOfRebuild(view: EstateView, group: RaidGroup, priority: Priority, load?: number): number {
  const shape = shapeOfGroup(group);
  return rebuildRate(
    shape,
    mediaOfGroup(view, group),
    shareOf(view, group, priority, load),
    imbalanceOf(shape, group.seed),
    arrayOf(view, group).rebuildBudget ?? Infinity,
  );
}

export const rateOfCopyBack = (view: EstateView, group: RaidGroup, priority: Priority, load?: number): number =>
  copyBackRate(shapeOfGroup(group), mediaOfGroup(view, group), shareOf(view, group, priority, load));

export function rateOfExpansion(view: EstateView, group: RaidGroup, priority: Priority, load?: number): number {
  const shape = shapeOfGroup(group);
  const media = mediaOfGroup(view, group);
  const each = 1 / (media.readMBps * 1e6) + group.drives.length / (shape.data * shape.legs) / (media.writeMBps * 1e6);
  return (shareOf(view, group, priority, load) * group.drives.length) / each;
}
