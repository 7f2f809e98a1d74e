import type { Drive } from '../estate/entities';
import { mediaFigures } from './media';
import { sparesAdvised } from './rebuild';

export interface ChosenDrives {
  /** In stripe order: taken from the enclosures in turn. */
  drives: Drive[];
  /** Left over of the same kind, to stand by as spares. */
  spares: number;
  /** Most members in one enclosure. */
  together: number;
}

const kindOf = (drive: Drive): string => `${drive.media} ${drive.capacity} ${drive.sector}`;

/**
 * Chooses `count` drives of one kind (medium, size, sector): of the kinds with enough drives the one with most left free, dealt out over the
 * enclosures in turn, fullest enclosure first, so that losing one takes as few members as can be. As many spares as are advised stay free.
 * Null where no kind has `count` free drives.
 */
export function chooseDrives(free: readonly Drive[], count: number, like?: Drive): ChosenDrives | null {
  const byKind = new Map<string, Drive[]>();
  for (const drive of free) {
    if (like && kindOf(drive) !== kindOf(like)) continue;
    const list = byKind.get(kindOf(drive)) ?? [];
    list.push(drive);
    byKind.set(kindOf(drive), list);
  }
  const kinds = [...byKind.values()]
    .filter((list) => list.length >= count)
    .sort((a, b) => mediaFigures[a[0]!.media].rank - mediaFigures[b[0]!.media].rank || b.length - a.length);
  // A kind that leaves its advised spares over is preferred to a faster one that would not.
  const advised = (one: readonly Drive[]) => sparesAdvised(one.length, mediaFigures[one[0]!.media].annualFailureRate);
  const list: Drive[] | undefined = kinds.find((one) => one.length - count >= advised(one)) ?? kinds[0];
  if (!list) return null;

  const shelves = new Map<string, Drive[]>();
  for (const drive of [...list].sort((a, b) => a.slot - b.slot)) {
    const shelf = shelves.get(drive.enclosure) ?? [];
    shelf.push(drive);
    shelves.set(drive.enclosure, shelf);
  }
  const order = [...shelves.values()].sort((a, b) => b.length - a.length);
  const drives: Drive[] = [];
  for (let turn = 0; drives.length < count; turn++)
    for (const shelf of order) {
      const drive = shelf[turn];
      if (drive && drives.length < count) drives.push(drive);
    }
  const inEnclosure = new Map<string, number>();
  for (const drive of drives) inEnclosure.set(drive.enclosure, (inEnclosure.get(drive.enclosure) ?? 0) + 1);
  return { drives, spares: list.length - count, together: Math.max(...inEnclosure.values()) };
}
