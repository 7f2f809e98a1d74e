import type { OutsideLun, Move, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { OutsideState } from '../move/outside';
import { moveOf } from '../moving/roads';

export const frontOf = (view: EstateView, row: OutsideLun): Volume | undefined =>
  row.front === null ? undefined : view.table('volume').get(row.front);

/** Whether a volume lies on the LUN itself. */
const liesOn = (view: EstateView, row: OutsideLun, volume: Volume): boolean => {
  const drive = row.drive === null ? undefined : view.table('drive').get(row.drive);
  const group = drive?.raidGroup ? view.table('raidGroup').get(drive.raidGroup) : undefined;
  return group !== undefined && group.pool === volume.pool;
};

/** Where a LUN stands by the states of move.md D: one that serves hosts is being copied or moved in by the move of its front. */
export function outsideState(view: EstateView, row: OutsideLun): { state: OutsideState; move: Move | null } {
  const front = frontOf(view, row);
  if (row.state !== 'fronted' || !front) return { state: row.state, move: null };
  const move = moveOf(view, front.id);
  if (!liesOn(view, row, front)) return { state: 'moved', move };
  return { state: move === null ? 'fronted' : 'copying', move };
}
