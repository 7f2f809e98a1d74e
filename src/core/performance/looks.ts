import { MINUTE, type Milliseconds } from '../units/duration';
import { partOf, type LoadPart } from './parts';
import type { LoadRow } from './row';

/** Checks over measured values look every five minutes; what they find is raised after so many looks in a row, and goes after so many (load.md L). */
export const LOOK: Milliseconds = 5 * MINUTE;
export const RAISED_AFTER = 2;
export const CLEARED_AFTER = 3;
/** Whole hours that are looked back. */
export const LOOKED_BACK = 2;
/** Looks in a row over which what is to hold for a quarter of an hour holds. */
export const QUARTER_HOUR = 3;

/** What five minutes showed of a volume; rates a second, times in seconds. */
export interface Look {
  iops: number;
  unserved: number;
  /** 0 where nothing was done. */
  p95S: number;
  /** What was done waited mostly for a limit. */
  limited: boolean;
}

const isLimited = ({ held, served }: Pick<LoadRow, 'held' | 'served'>): boolean => held >= 0.5 * served && held > 0;

/** Looks of an hour that is over, from its parts and its row. */
export const looksOf = (parts: readonly LoadPart[], hour: Pick<LoadRow, 'held' | 'served'>): Look[] =>
  parts.map(({ iops, unserved, p95 }) => ({ iops, unserved, p95S: p95, limited: isLimited(hour) }));

/** Looks of five minutes that were followed just now. */
export const looksAt = (rows: readonly LoadRow[]): Look[] => rows.flatMap((row) => looksOf([partOf(row)], row));

/**
 * Whether something that must hold for `span` looks in a row is found at the last of them: raised and cleared as looks follow each other, the oldest
 * first. `over` tells of each five minutes whether it held.
 */
export function standsAtLast(over: readonly boolean[], span: number): boolean {
  let [held, bad, good, raised] = [0, 0, 0, false];
  over.forEach((one, k) => {
    held = one ? held + 1 : 0;
    // Before as many have passed as it must hold for, there is nothing to be said.
    if (k + 1 < span) return;
    bad = held >= span ? bad + 1 : 0;
    good = held >= span ? 0 : good + 1;
    if (bad >= RAISED_AFTER) raised = true;
    if (good >= CLEARED_AFTER) raised = false;
  });
  return raised;
}
