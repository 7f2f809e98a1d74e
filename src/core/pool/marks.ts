import { isOwn } from '../estate/own';
import { changed, type Effect } from '../estate/effects';
import type { Pool } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { formatBytes, percentUsed } from '../units/bytes';
import { MARK_HYSTERESIS } from './choices';
import { poolUsage } from './usage';

export const fillMarks = ['none', 'notice', 'warning', 'urgent'] as const;
export type FillMark = (typeof fillMarks)[number];

/** Per cent at which a mark stands: the warning lies in the middle of the two that are set. */
function percentOf({ notice, urgent }: Pick<Pool, 'notice' | 'urgent'>, mark: FillMark): number {
  if (mark === 'urgent') return urgent;
  return mark === 'warning' ? (notice + urgent) / 2 : notice;
}

/**
 * The highest fill mark that a pool is past: it rises when used·100 ≥ x·capacity, and one that was told falls only when
 * used·100 < (x − {@link MARK_HYSTERESIS})·capacity, so that a pool at a mark does not cry again and again.
 */
export function markOf(
  pool: Pick<Pool, 'notice' | 'urgent'>,
  used: number,
  capacity: number,
  told: FillMark = 'none',
): FillMark {
  if (capacity === 0) return 'none';
  const kept = fillMarks.indexOf(told);
  for (let k = fillMarks.length - 1; k > 0; k--) {
    const percent = percentOf(pool, fillMarks[k]!) - (k <= kept ? MARK_HYSTERESIS : 0);
    if (used * 100 >= percent * capacity) return fillMarks[k]!;
  }
  return 'none';
}

const words: Record<FillMark, string> = {
  none: 'no mark',
  notice: 'its notice mark',
  warning: 'the middle of its marks',
  urgent: 'its urgent mark',
};

/** Pools that passed a mark since it was last told, or fell below one: one event a crossing, of the highest only. */
export function markEvents(view: EstateView): { effects: Effect[]; said: string[] } {
  const effects: Effect[] = [];
  const said: string[] = [];
  for (const pool of view.table('pool').values()) {
    // Without a pool nothing grows: what is given out is given out.
    if (pool.direct || !isOwn(view, pool)) continue;
    const usage = poolUsage(view, pool);
    const mark = markOf(pool, usage.used, usage.capacity, pool.mark);
    if (mark === pool.mark) continue;
    effects.push(changed('pool', pool, { mark }));
    const full = `${percentUsed(usage.used, usage.capacity)} % full, ${formatBytes(usage.availableBytes)} left`;
    if (fillMarks.indexOf(mark) > fillMarks.indexOf(pool.mark))
      said.push(
        `Pool ${pool.name} passed ${words[mark]} of ${percentOf(pool, mark)} %: ${full}. ${pool.alertTo === '' ? 'Nobody is told: the pool has no address for alerts.' : `${pool.alertTo} is told.`}`,
      );
    else
      said.push(
        `Pool ${pool.name} fell below ${words[pool.mark]}${mark === 'none' ? '' : `, and is past ${words[mark]}`}: ${full}.`,
      );
  }
  return { effects, said };
}
