import type { Drive, RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { levelFigures } from './geometry';

export interface GroupHealth {
  state: 'ok' | 'initialising' | 'degraded' | 'lost';
  failed: Drive[];
  /** Failures that can still be survived whichever drives they hit. */
  tolerates: number;
}

/** A group's state from its members: a drive that rebuilds counts as failed until it is whole. */
export function groupHealth(view: EstateView, group: RaidGroup): GroupHealth {
  const drives = view.table('drive');
  const bad = group.drives.map((id) => drives.get(id)?.state !== 'ok');
  const failed = group.drives.flatMap((id) => {
    const drive = drives.get(id);
    return drive && drive.state !== 'ok' ? [drive] : [];
  });
  const { parity, copies } = levelFigures[group.level];
  const set = copies === 'all' ? group.drives.length : copies;
  // The weakest set of copies decides; with parity (one copy) the whole group is one set.
  let tolerates = Infinity;
  if (copies === 1) tolerates = parity - failed.length;
  else
    for (let k = 0; k < bad.length; k += set)
      tolerates = Math.min(tolerates, set - 1 - bad.slice(k, k + set).filter(Boolean).length);
  if (tolerates < 0) return { state: 'lost', failed, tolerates: 0 };
  if (failed.length > 0) return { state: 'degraded', failed, tolerates };
  const initialising = view
    .table('job')
    .by('raidGroup', group.id)
    .some((job) => job.kind === 'raid-initialise');
  return { state: initialising ? 'initialising' : 'ok', failed, tolerates };
}
