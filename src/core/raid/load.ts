import type { RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { shapeOfGroup, type Shape } from './geometry';
import { mediaFigures, slowestOf, type MediaFigures } from './media';
import { frontEndRate } from './performance';

/** Bytes of one host write as the lab's write generator makes them. */
const WRITE_SIZE = 64 * 1024;

/** The figures a group runs at: those of its slowest member. */
export const mediaOfGroup = (view: EstateView, group: RaidGroup): MediaFigures =>
  mediaFigures[slowestOf(group.drives.flatMap((id) => view.table('drive').get(id)?.media ?? []))];

const ceilings = new Map<string, number>();

/** Bytes a second the group takes from hosts at most. */
function ceiling(shape: Shape, chunk: number, media: MediaFigures): number {
  const key = `${JSON.stringify(shape)} ${chunk} ${media.label}`;
  let known = ceilings.get(key);
  if (known === undefined) {
    known = frontEndRate(shape, chunk, media, { reads: 0, size: WRITE_SIZE, utilisation: 1 }).bytesPerSecond;
    ceilings.set(key, known);
  }
  return known;
}

/** Bytes a second that hosts write to the group: its share of what is written to its pool. */
export function hostWrites(view: EstateView, group: RaidGroup): number {
  if (!group.pool) return 0;
  let written = 0;
  for (const volume of view.table('volume').by('pool', group.pool))
    for (const device of view.table('hostDevice').by('volume', volume.id))
      if (device.mountPoint !== null) written += device.writeRate;
  if (written === 0) return 0;
  const groups = view.table('raidGroup').by('pool', group.pool);
  return (written * group.usable) / groups.reduce((sum, one) => sum + one.usable, 0);
}

/** Utilisation of a group's members by host writes, 0 to 1: what is written to it over what it can take. */
export function groupLoad(view: EstateView, group: RaidGroup): number {
  const written = hostWrites(view, group);
  return written === 0
    ? 0
    : Math.min(1, written / ceiling(shapeOfGroup(group), group.chunk, mediaOfGroup(view, group)));
}
