import type { Drive, RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { enclosureOf } from '../estate/relations';
import { lossesOf } from './geometry';

export interface GroupHealth {
  state: 'ok' | 'initialising' | 'degraded' | 'lost';
  /** Members that cannot be read now, whatever the reason. */
  failed: Drive[];
  /** Failures that can still be survived whichever drives they hit. */
  tolerates: number;
}

/** A drive serves data while it stands in an enclosure that answers. A drive that rebuilds does not serve until it is whole. */
export const serves = (view: EstateView, drive: Drive | undefined): boolean =>
  drive !== undefined &&
  (drive.state === 'ok' || drive.state === 'predicted') &&
  enclosureOf(view, drive).state !== 'down';

/** A group's state from its members and its geometry: the worst of its legs or mirror sets decides. */
export function groupHealth(view: EstateView, group: RaidGroup): GroupHealth {
  const drives = view.table('drive');
  const failed: Drive[] = [];
  const width = group.level === 'distributed' ? group.drives.length : group.drives.length / group.legs;
  const most = lossesOf(group);
  let tolerates = most;
  let left = most;
  group.drives.forEach((id, k) => {
    if (k % width === 0) left = most;
    const drive = drives.get(id);
    if (serves(view, drive)) return;
    if (drive) failed.push(drive);
    // What has moved into spare space is whole again.
    if (!group.moved.includes(id)) left -= 1;
    tolerates = Math.min(tolerates, left);
  });
  if (tolerates < 0) return { state: 'lost', failed, tolerates: 0 };
  if (failed.some((drive) => !group.moved.includes(drive.id))) return { state: 'degraded', failed, tolerates };
  const initialising = view
    .table('job')
    .by('raidGroup', group.id)
    .some((job) => job.kind === 'raid-initialise');
  return { state: initialising ? 'initialising' : 'ok', failed, tolerates };
}
