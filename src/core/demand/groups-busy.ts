import { hoursOfWeek } from '../copies/activity';
import { devicesOn, legsOf } from '../copies/legs';
import type { RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { whileStill } from '../estate/while-still';
import type { WeekShape } from '../kinds/activity';
import { groupHealth } from '../raid/health';
import { hitsOf, mergedOf, volumesAtWork } from './cached';
import { groupCost, groupShares } from './group-cost';
import { writtenBeside } from './written-beside';

/** Drive seconds a second on the mean of the week, by group. */
type Asked = Map<string, number>;

const NONE: ReadonlySet<string> = new Set();

/** What hosts ask of each group, by the shapes of their weeks: the same costs as in the model of load, whatever paths they come by. */
function askedByWeek(view: EstateView): Map<WeekShape, Asked> {
  const volumes = volumesAtWork(view);
  const hits = hitsOf(view, volumes);
  const costs = new Map<string, { read: number; write: number }>();
  const costOf = (group: RaidGroup, ioBytes: number, sequential: boolean) => {
    const key = `${group.id} ${ioBytes} ${sequential}`;
    let cost = costs.get(key);
    if (!cost) costs.set(key, (cost = groupCost(view, group, ioBytes, sequential, NONE)));
    return cost;
  };
  const weeks = new Map<WeekShape, Asked>();
  for (const volume of volumes) {
    if (!devicesOn(view, volume.id).some(({ state }) => state === 'online')) continue;
    const activity = volume.activity!;
    const asked = weeks.get(activity.week) ?? new Map<string, number>();
    weeks.set(activity.week, asked);
    const hit = hits(volume);
    const written = activity.writes * (1 - mergedOf(activity));
    const ask = (shares: ReturnType<typeof groupShares>, reads: number) => {
      for (const { group, part } of shares) {
        const cost = costOf(group, activity.ioBytes, activity.pattern === 'sequential');
        asked.set(group.id, (asked.get(group.id) ?? 0) + part * (reads * (1 - hit) * cost.read + written * cost.write));
      }
    };
    const legs = legsOf(view, volume.id).map((id) => view.table('volume').get(id)!);
    for (const leg of legs) ask(groupShares(view, leg), activity.reads / legs.length);
    for (const { groups } of writtenBeside(view, volume)) ask(groups, 0);
  }
  return weeks;
}

/**
 * How busy hosts keep the drives of a group at an hour of the week from Monday 00:00 UTC, by the activity of volumes: 0 to 1, and above where more is
 * asked than they can do. Work in the background does not count (load.md A).
 */
export const groupsBusy: (view: EstateView) => (group: RaidGroup, hour: number) => number = whileStill((view) => {
  const weeks = [...askedByWeek(view)].map(([week, asked]) => ({ hours: hoursOfWeek(week), asked }));
  return (group, hour) => {
    const drives = group.drives.length - groupHealth(view, group).failed.length;
    if (drives <= 0) return 0;
    return weeks.reduce((sum, { hours, asked }) => sum + hours[hour]! * (asked.get(group.id) ?? 0), 0) / drives;
  };
});
