import { pathFinder } from '../attach/paths';
import type { Move } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { hostOf } from '../estate/relations';
import { timeText } from '../units/date';
import type { Milliseconds } from '../units/duration';
import { lockedCopies } from '../volume/delete';
import { lockedUntil } from '../copies/locked';
import { counted } from '../units/counted';

/** Why hosts are not well on the new paths, in words; null where they are. */
export function hostsWell(view: EstateView, row: Move): string | null {
  const finder = pathFinder(view);
  for (const device of view.table('hostDevice').by('volume', row.volume)) {
    if (device.mountPoint === null) continue;
    const { name } = hostOf(view, device);
    if (!finder.reaches(device)) return `${name} has no path to it`;
    if (device.readOnly) return `${name} has it mounted read-only: a write failed`;
  }
  return null;
}

/** Why what was left behind cannot go yet: copies of it are locked or held. Null where nothing is. */
export function leftLocked(view: EstateView, row: Move, now: Milliseconds): string | null {
  const twin = row.twin === null ? undefined : view.table('volume').get(row.twin);
  const kept = twin ? lockedCopies(view, twin, now) : [];
  if (kept.length === 0) return null;
  const until = lockedUntil(view, kept, now);
  const copies = counted(kept.length, 'copy', 'copies');
  return until === null
    ? `${copies} of the old copy ${kept.length === 1 ? 'is' : 'are'} held`
    : `${copies} of the old copy ${kept.length === 1 ? 'is' : 'are'} locked until ${timeText(until)} UTC`;
}
