import type { RaidGroup, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { isMirrored } from '../copies/replica';
import { groupShares } from './group-cost';

/** Where each write of a volume goes too before it is acknowledged: the groups that take it, and the link between sites it goes over. */
export interface WrittenBeside {
  groups: { group: RaidGroup; part: number }[];
  link: string | null;
}

/** Mirrors at another site, moves that mirror new writes, and outside LUNs from which the data was moved in and that are not let go yet. */
export function writtenBeside(view: EstateView, volume: Volume): WrittenBeside[] {
  const beside: WrittenBeside[] = [];
  const put = (id: string | null | undefined, link: string | null) => {
    const copy = id ? view.table('volume').get(id) : undefined;
    if (copy) beside.push({ groups: groupShares(view, copy), link });
  };
  for (const row of view.table('replication').by('primary', volume.id)) {
    if (!isMirrored(row)) continue;
    // Of a stretched pair both legs are counted where hosts reach them: here it is only the way between them.
    if (row.stretch !== null) beside.push({ groups: [], link: row.link });
    else put(row.secondaries[row.primaries.indexOf(volume.id)], row.link);
  }
  for (const move of view.table('move').by('going', volume.id)) {
    const copies = move.state === 'copying' || move.state === 'waiting';
    if (move.mode === 'mirror' && copies && !move.held) put(move.twin, move.link);
  }
  for (const lun of view.table('outsideLun').by('front', volume.id)) {
    const drive = lun.drive === null ? undefined : view.table('drive').get(lun.drive);
    const group = drive?.raidGroup ? view.table('raidGroup').get(drive.raidGroup) : undefined;
    if (group && group.pool !== volume.pool) beside.push({ groups: [{ group, part: 1 }], link: null });
  }
  return beside;
}
