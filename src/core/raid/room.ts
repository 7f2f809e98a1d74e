import type { RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { poolOf } from '../estate/relations';

/** How the room of a RAID group is called from which volumes are carved straight: nobody can give a pool such a name. */
export const directName = (group: string): string => `${group}, no pool`;

/** What a group carries, after its name. */
export function carriedWords(view: EstateView, group: RaidGroup): string {
  const pool = poolOf(view, group);
  if (!pool) return 'carries nothing';
  return pool.direct ? 'carries volumes straight' : `carries pool ${pool.name}`;
}
