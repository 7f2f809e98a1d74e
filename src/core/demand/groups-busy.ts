import { hoursOfWeek } from '../copies/activity';
import { devicesOn, leadOf, legsOf } from '../copies/legs';
import type { RaidGroup, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { whileStill } from '../estate/while-still';
import type { WeekShape } from '../kinds/activity';
import { groupHealth } from '../raid/health';
import { hitsOf, isAtWork, mergedOf } from './cached';
import { groupCost, groupShares } from './group-cost';
import { writtenBeside } from './written-beside';

const NONE: ReadonlySet<string> = new Set();

/** Volumes whose I/O may reach the groups of an array: its own, and those of which it holds the other leg, a mirror or the target of a move. */
function reaching(view: EstateView, array: string): Volume[] {
  const found = new Set<string>();
  for (const { id } of view.table('volume').by('array', array)) {
    found.add(leadOf(view, id));
    for (const row of view.table('replication').by('secondary', id))
      found.add(row.primaries[row.secondaries.indexOf(id)]!);
    for (const move of view.table('move').by('twin', id)) found.add(move.volume);
  }
  return [...found].flatMap((id) => view.table('volume').get(id) ?? []).filter((volume) => isAtWork(view, volume));
}

/**
 * How busy hosts keep the drives of each group of an array, by hour of the week from Monday 00:00 UTC: 0 to 1, and above where more is asked than they
 * can do. The same costs as in the model of load, whatever paths I/O comes by; work in the background does not count (load.md A).
 */
function busyGroups(view: EstateView, array: string, hitOf: (volume: Volume) => number): Map<string, Float64Array> {
  const costs = new Map<string, { read: number; write: number }>();
  const costOf = (group: RaidGroup, ioBytes: number, sequential: boolean) => {
    const key = `${group.id} ${ioBytes} ${sequential}`;
    let cost = costs.get(key);
    if (!cost) costs.set(key, (cost = groupCost(view, group, ioBytes, sequential, NONE)));
    return cost;
  };
  /** Drive seconds a second on the mean of the week, by group and shape of the week. */
  const asked = new Map<string, Map<WeekShape, number>>();
  for (const volume of reaching(view, array)) {
    if (!devicesOn(view, volume.id).some(({ state }) => state === 'online')) continue;
    const activity = volume.activity!;
    const written = activity.writes * (1 - mergedOf(activity));
    const ask = (shares: ReturnType<typeof groupShares>, reads: number) => {
      for (const { group, part } of shares) {
        if (group.array !== array) continue;
        const cost = costOf(group, activity.ioBytes, activity.pattern === 'sequential');
        const weeks = asked.get(group.id) ?? new Map<WeekShape, number>();
        asked.set(group.id, weeks);
        const more = part * (reads * (1 - hitOf(volume)) * cost.read + written * cost.write);
        weeks.set(activity.week, (weeks.get(activity.week) ?? 0) + more);
      }
    };
    const legs = legsOf(view, volume.id).map((id) => view.table('volume').get(id)!);
    for (const leg of legs) if (leg.array === array) ask(groupShares(view, leg), activity.reads / legs.length);
    for (const { groups } of writtenBeside(view, volume)) ask(groups, 0);
  }
  return new Map(
    [...asked].map(([id, weeks]) => {
      const group = view.table('raidGroup').get(id)!;
      const drives = group.drives.length - groupHealth(view, group).failed.length;
      const hours = new Float64Array(168);
      if (drives > 0)
        for (const [week, perS] of weeks) hoursOfWeek(week).forEach((busy, k) => (hours[k]! += (busy * perS) / drives));
      return [id, hours];
    }),
  );
}

/** What hosts ask rests on these; of moves only on those that write to both sides. A draft of many moves asks for it once. */
export const ASKED = {
  of: [
    'array',
    'controller',
    'drive',
    'raidGroup',
    'pool',
    'volume',
    'extent',
    'hostDevice',
    'mapping',
    'replication',
    'outsideLun',
  ],
  and: (view: EstateView) =>
    view
      .table('move')
      .by('open', '')
      .filter(({ mode, state, held }) => mode === 'mirror' && !held && (state === 'copying' || state === 'waiting'))
      .map(({ id, twin }) => `${id} ${twin}`)
      .join(),
} satisfies Parameters<typeof whileStill>[1];

const IDLE = new Float64Array(168);

/** By group, each array worked out when it is asked for. */
export const groupsBusy: (view: EstateView) => (group: RaidGroup, hour: number) => number = whileStill((view) => {
  const hits = hitsOf(view);
  const arrays = new Map<string, Map<string, Float64Array>>();
  return ({ id, array }, hour) => {
    let groups = arrays.get(array);
    if (!groups) arrays.set(array, (groups = busyGroups(view, array, hits)));
    return (groups.get(id) ?? IDLE)[hour]!;
  };
}, ASKED);
