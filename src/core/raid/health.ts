import type { Drive, RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { enclosureOf } from '../estate/relations';
import { backWays } from '../fabric/back-ways';
import { lossesOf } from './geometry';

export interface GroupHealth {
  state: 'ok' | 'initialising' | 'degraded' | 'lost';
  /** Members that cannot be read now, whatever the reason. */
  failed: Drive[];
  /** Failures that can still be survived whichever drives they hit. */
  tolerates: number;
}

/**
 * A drive serves data while it stands in an enclosure that answers. A drive that rebuilds does not serve until it is whole; a LUN of an outside
 * array does while that has its data and a way leads there.
 */
export const serves = (view: EstateView, drive: Drive | undefined): boolean =>
  drive !== undefined &&
  (drive.state === 'ok' || drive.state === 'predicted') &&
  enclosureOf(view, drive).state !== 'down' &&
  (drive.lun === null || lunSilence(view, drive.array, drive.lun) === null);

/** Why an array cannot read a volume of an outside one, after the name of that; null where it can. */
export function lunSilence(view: EstateView, array: string, lun: string): string | null {
  const volume = view.table('volume').get(lun);
  if (!volume) return 'no longer has it';
  const lost = view
    .table('raidGroup')
    .by('pool', volume.pool)
    .some((group) => groupHealth(view, group).state === 'lost');
  if (lost) return 'has lost the data of it';
  return backWays(view, array, volume.array).length === 0
    ? 'cannot be reached: no way over the fabric leads there'
    : null;
}

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
