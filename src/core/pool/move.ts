import { changed, created, deleted, type Effect } from '../estate/effects';
import type { ExtentRun, Kind, Pool } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { placeExtents, shareByRoom, type Placement } from './allocate';
import { BALANCED_POINTS } from './choices';
import { poolUsage, tiersOf, type GroupUsage } from './usage';

type NewId = (kind: Kind) => string;

/** The first `wanted` extents that lie in a group, as (parts of) its runs, from the highest start on. */
function takeFrom(view: EstateView, group: string, wanted: number): { run: ExtentRun; count: number }[] {
  const runs = [...view.table('extent').by('raidGroup', group)].sort((a, b) => b.start - a.start);
  const taken: { run: ExtentRun; count: number }[] = [];
  let left = wanted;
  for (const run of runs) {
    if (left === 0) break;
    const count = Math.min(left, run.count);
    taken.push({ run, count });
    left -= count;
  }
  return taken;
}

/** Effects that move the ends of runs to new places; the places hold exactly as many extents as are taken. */
function moved(
  taken: readonly { run: ExtentRun; count: number }[],
  places: readonly Placement[],
  newId: NewId,
): Effect[] {
  const effects: Effect[] = [];
  const rest = places.map((place) => ({ ...place }));
  for (const { run, count } of taken) {
    if (count === run.count) effects.push(deleted('extent', run));
    else effects.push(changed('extent', run, { count: run.count - count }));
    let at = run.at + run.count - count;
    let left = count;
    while (left > 0) {
      const place = rest[0]!;
      const here = Math.min(left, place.count);
      effects.push(
        created('extent', {
          ...run,
          id: newId('extent'),
          raidGroup: place.raidGroup,
          start: place.start,
          count: here,
          at,
        }),
      );
      place.start += here;
      place.count -= here;
      if (place.count === 0) rest.shift();
      at += here;
      left -= here;
    }
  }
  return effects;
}

/** Moves up to `most` extents out of a group to the other groups of its pool, keeping to its tier while that has room. */
export function emptyGroup(
  view: EstateView,
  pool: Pool,
  group: string,
  most: number,
  newId: NewId,
): { effects: Effect[]; moved: number } {
  const usage = poolUsage(view, pool);
  const media = usage.groups.find((one) => one.group.id === group)?.media ?? null;
  const taken = takeFrom(view, group, most);
  const wanted = taken.reduce((sum, one) => sum + one.count, 0);
  const places = placeExtents(view, pool, wanted, media, new Set([group]));
  const room = places.reduce((sum, place) => sum + place.count, 0);
  if (room < wanted) return emptyGroup(view, pool, group, room, newId);
  return { effects: moved(taken, places, newId), moved: wanted };
}

/** How many extents each group of a tier holds too many (above zero) or could take (below), so that all are filled alike. */
function surplus(groups: readonly GroupUsage[]): number[] {
  const used = groups.reduce((sum, one) => sum + one.used, 0);
  const targets = shareByRoom(
    used,
    groups.map((one) => one.capacity),
  );
  return groups.map((one, k) => one.used - targets[k]!);
}

const points = ({ used, capacity }: GroupUsage): number => (capacity === 0 ? 0 : (used / capacity) * 100);

/** Points of fill between the fullest and the emptiest group of the worst tier. */
export function spreadOf(view: EstateView, pool: Pool): number {
  let worst = 0;
  for (const tier of tiersOf(poolUsage(view, pool))) {
    const fills = tier.groups.filter((one) => !one.group.draining).map(points);
    if (fills.length > 1) worst = Math.max(worst, Math.max(...fills) - Math.min(...fills));
  }
  return worst;
}

/** Extents that a rebalance would move: Σ max(0, used − target) over all tiers. */
export const rebalanceMoves = (view: EstateView, pool: Pool): number =>
  tiersOf(poolUsage(view, pool)).reduce(
    (sum, tier) =>
      sum + surplus(tier.groups.filter((one) => !one.group.draining)).reduce((more, one) => more + Math.max(0, one), 0),
    0,
  );

/** Moves up to `most` extents from the fullest group to the emptiest of the worst tier; none once they are filled alike. */
export function rebalanceOnce(
  view: EstateView,
  pool: Pool,
  most: number,
  newId: NewId,
): { effects: Effect[]; moved: number } {
  for (const tier of tiersOf(poolUsage(view, pool))) {
    const groups = tier.groups.filter((one) => !one.group.draining);
    const fills = groups.map(points);
    if (groups.length < 2 || Math.max(...fills) - Math.min(...fills) < BALANCED_POINTS) continue;
    const over = surplus(groups);
    const from = over.indexOf(Math.max(...over));
    const to = over.indexOf(Math.min(...over));
    const count = Math.min(most, over[from]!, -over[to]!, groups[to]!.free);
    if (count <= 0) continue;
    const places = view.occupancy
      .firstFree(groups[to]!.group.id, count, groups[to]!.capacity)
      .map((run) => ({ raidGroup: groups[to]!.group.id, ...run }));
    return { effects: moved(takeFrom(view, groups[from]!.group.id, count), places, newId), moved: count };
  }
  return { effects: [], moved: 0 };
}
