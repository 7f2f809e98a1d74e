import type { Drill } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { isGood, isOver } from './drill-report';

/** A drill with what became of it. */
export interface DrillView extends Drill {
  good: boolean;
  /** Names of those that were to be back sooner. */
  over: string[];
}

/** All drills, the newest first. */
export const drillViews = (view: EstateView): DrillView[] =>
  [...view.table('drill').values()]
    .sort((a, b) => b.startedAt - a.startedAt || (a.name < b.name ? -1 : 1))
    .map((drill) => ({ ...drill, good: isGood(drill), over: isOver(drill) }));

/** The newest drill in which a replication took part. */
export const lastDrill = (view: EstateView, replication: string): Drill | null =>
  [...view.table('drill').values()]
    .filter(({ parts }) => parts.some((part) => part.replication === replication))
    .reduce<Drill | null>((last, drill) => (last === null || drill.startedAt > last.startedAt ? drill : last), null);
