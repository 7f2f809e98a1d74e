import type { Drive } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import { backWays } from '../fabric/back-ways';
import { lunSilence } from '../raid/health';
import { levelText, shapeOfGroup } from '../raid/geometry';
import { counted, someOf } from '../units/counted';
import type { FactLine } from './facts-lines';

/** The one hop more of a drive that is a LUN of an outside array: which one, how many ways lead there, on what it lies; null for drives of metal. */
export function outsideLine(view: EstateView, drive: Drive): FactLine | null {
  const lun = drive.lun === null ? undefined : view.table('volume').get(drive.lun);
  if (!lun) return null;
  const outside = arrayOf(view, lun);
  const row = view.table('outsideLun').by('drive', drive.id)[0];
  const silent = lunSilence(view, drive.array, lun.id);
  const ways = backWays(view, drive.array, outside.id).length;
  const groups = view.table('raidGroup').by('pool', lun.pool);
  const seen = ways === 1 ? 'leans' : 'stands';
  return {
    post: silent === null ? seen : 'broken',
    text: `${row?.name ?? lun.name} of ${outside.name}`,
    more: silent
      ? `${outside.name} ${silent}`
      : `${counted(ways, 'way')} over the fabric; there on ${someOf(groups.map((group) => levelText(shapeOfGroup(group))))}`,
  };
}

/** The same of all that something rests on. */
export const outsideLines = (view: EstateView, drives: readonly string[]): FactLine[] =>
  drives.flatMap((id) => {
    const drive = view.table('drive').get(id);
    return (drive && outsideLine(view, drive)) ?? [];
  });
