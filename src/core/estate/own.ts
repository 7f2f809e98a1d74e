import type { ArrayRow, Pool } from './entities';
import type { EstateView } from './estate';

/** Whether what belongs to an array is looked after here: of an outside array only what it shows is known. */
export const isOwn = (view: EstateView, row: { array: string }): boolean =>
  view.table('array').get(row.array)?.outside !== true;

/** Arrays that are looked after here. */
export const ownArrays = (view: EstateView): ArrayRow[] =>
  [...view.table('array').values()].filter((array) => !array.outside);

/** Pools from which something can be carved here. */
export const ownPools = (view: EstateView): Pool[] =>
  [...view.table('pool').values()].filter((pool) => !pool.direct && isOwn(view, pool));
