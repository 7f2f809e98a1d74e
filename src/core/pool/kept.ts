import type { EstateView } from '../estate/estate';

/** Extents of a pool that replications keep back for what they hold and take in, beside its own reserve. */
export function keptForCopies(view: EstateView, pool: string, capacity: number): number {
  const table = view.table('replication');
  if (table.countBy('reservedIn', pool) === 0) return 0;
  return table
    .by('reservedIn', pool)
    .reduce((sum, { reservePools, reserves }) => sum + extentsKept(capacity, reserves[reservePools.indexOf(pool)]!), 0);
}

/** A share of a pool in whole extents. */
export const extentsKept = (capacity: number, percent: number): number => Math.ceil((capacity * percent) / 100);
