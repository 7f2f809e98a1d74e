import { ownArrays } from '../estate/own';
import type { OutsideLun } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, siteOf } from '../estate/relations';
import { byName } from '../operation/draft';
import { lunSilence } from '../raid/health';
import type { Milliseconds } from '../units/duration';
import type { OutsideAnswer, OutsideRow } from './answers';
import { backOf, foundOn, lastWrite, outsideOf } from './ask';
import { seenOutside, shownBy } from './rescan';
import { frontOf, outsideState } from './state';

export const stateSays: Record<OutsideRow['state'], string> = {
  found: 'found',
  inspected: 'inspected',
  fenced: 'shown to here alone',
  fronted: 'serves hosts from here',
  copying: 'on its way into a pool',
  moved: 'moved in, way back kept',
  done: 'let go',
  member: 'blank room',
};

/** Hosts that are shown a LUN by the outside array, or the volume in front of it. */
function hostsOf(view: EstateView, row: OutsideLun): string[] {
  const ids = [row.volume, ...(row.front === null ? [] : [row.front])].flatMap((volume) =>
    view
      .table('mapping')
      .by('volume', volume)
      .map(({ host }) => host),
  );
  return [...new Set(ids)].map((id) => view.table('host').get(id)!.name).sort();
}

export function rowOf(view: EstateView, row: OutsideLun, now: Milliseconds): OutsideRow {
  const { state } = outsideState(view, row);
  const volume = backOf(view, row);
  const front = frontOf(view, row);
  const drive = row.drive === null ? undefined : view.table('drive').get(row.drive);
  const group = drive?.raidGroup ? view.table('raidGroup').get(drive.raidGroup) : undefined;
  const pool = group?.pool ? view.table('pool').get(group.pool) : undefined;
  const known = row.inspectedAt !== null;
  const idle = row.state === 'found' || row.state === 'inspected';
  const writtenAt = known && idle ? lastWrite(view, volume, now) : row.writtenAt;
  return {
    id: row.id,
    name: row.name,
    array: view.table('array').get(row.array)!.name,
    outside: outsideOf(view, row).name,
    state,
    says: stateSays[state],
    size: known ? row.size : null,
    serial: row.serial,
    sector: row.sector,
    holds: row.holds,
    writtenAt: known ? writtenAt : null,
    writing: known && idle && writtenAt === now && volume.writtenAt !== null,
    reservedBy: known ? foundOn(view, row, now).reservedBy : null,
    hosts: hostsOf(view, row),
    front: front ? { id: front.id, name: front.name, pool: view.table('pool').get(front.pool)!.name } : null,
    pool: row.state === 'member' ? (pool?.name ?? null) : null,
    silent: row.state === 'done' ? null : lunSilence(view, row.array, row.volume),
  };
}

/** Outside arrays, and all LUNs of them that were found, by name. */
export function outsideView(view: EstateView, now: Milliseconds): OutsideAnswer {
  const own = ownArrays(view).sort(byName);
  const seen = own.map((array) => ({ array: array.name, of: seenOutside(view, array) }));
  return {
    now,
    arrays: [...view.table('array').values()]
      .filter((row) => row.outside)
      .sort(byName)
      .map((outside) => ({
        name: outside.name,
        model: outside.model,
        site: siteOf(view, outside).name,
        shown: shownBy(view, outside.id).length,
        seenFrom: seen.flatMap(({ array, of }) => {
          const ways = of.find((one) => one.outside.id === outside.id)?.ways ?? 0;
          return ways > 0 ? [{ array, ways }] : [];
        }),
      })),
    luns: [...view.table('outsideLun').values()]
      .sort((a, b) => byName(arrayOf(view, a), arrayOf(view, b)) || byName(a, b))
      .map((row) => rowOf(view, row, now)),
  };
}
