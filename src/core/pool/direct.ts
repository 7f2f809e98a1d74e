import { changed, created, deleted, type Effect } from '../estate/effects';
import { rowOf, type ArrayRow, type Kind, type Pool, type RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { poolOf } from '../estate/relations';
import { byName } from '../operation/draft';
import type { Inquiry } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { subjectOf } from '../operation/refusal';
import { directName } from '../raid/room';
import { MIB } from '../units/bytes';
import { MAX_EXTENT, MOST_EXTENTS } from './choices';

/** Volumes straight from a RAID group are given out in extents of this size, or of the next that keeps their map small enough. */
const LEAST_EXTENT = 64 * MIB;

/** The room of a RAID group that is given out straight: what is there, or what comes to be with the first volume. */
export function directPool(
  view: EstateView,
  group: RaidGroup,
  newId: (kind: Kind) => string,
): { pool: Pool; effects: Effect[] } {
  const present = poolOf(view, group);
  if (present?.direct) return { pool: present, effects: [] };
  let extentSize = LEAST_EXTENT;
  while (extentSize < MAX_EXTENT && group.usable / extentSize > MOST_EXTENTS) extentSize *= 2;
  const pool = rowOf('pool', {
    id: newId('pool'),
    name: directName(group.name),
    array: group.array,
    extentSize,
    reserve: 0,
    direct: true,
  });
  return { pool, effects: [created('pool', pool), changed('raidGroup', group, { pool: pool.id })] };
}

/** Records of moves from or to a pool, which go with it; those that are not over keep a volume in it. */
export const movesAt = (view: EstateView, pool: string): Effect[] => {
  const rows = [...view.table('move').by('fromPool', pool), ...view.table('move').by('toPool', pool)];
  return [...new Map(rows.map((row) => [row.id, row])).values()].map((row) => deleted('move', row));
};

/** What becomes of it when a volume goes: with the last one the group is free again. */
export function dissolved(view: EstateView, pool: Pool, going: string): Effect[] {
  if (
    !pool.direct ||
    view
      .table('volume')
      .by('pool', pool.id)
      .some((volume) => volume.id !== going)
  )
    return [];
  return [
    ...view
      .table('raidGroup')
      .by('pool', pool.id)
      .map((group) => changed('raidGroup', group, { pool: null })),
    ...movesAt(view, pool.id),
    deleted('pool', pool),
  ];
}

/** Pools of an array, by name: without what is no pool. */
export const realPools = (view: EstateView, array: string): Pool[] =>
  view
    .table('pool')
    .by('array', array)
    .filter((pool) => !pool.direct)
    .sort(byName);

/** The pool that is named; what is no pool is refused. */
export function askPool(asks: Inquiry, ref: string, field: string, array: ArrayRow): Pool | undefined {
  const pool = asks.find('pool', ref, field, array);
  if (!pool?.direct) return pool;
  asks.refuse({
    code: 'no-pool',
    field,
    subject: subjectOf('pool', pool),
    message: `${pool.name}: volumes are carved straight from the group, and there is no pool to be changed.`,
    mend: 'Choose a pool, or make one from other RAID groups.',
    offer: nextStep('Make a pool', 'pool.create', { array: array.name }),
  });
  return undefined;
}
