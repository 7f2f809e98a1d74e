import { partsOf } from '../copies/activity';
import { shownBytes } from '../copies/parts';
import { compacted, created, changed, deleted, type Effect } from '../estate/effects';
import type { ExtentRun, Kind, Pool, Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { poolUsage, tiersOf, type GroupUsage } from '../pool/usage';
import { HYSTERESIS } from '../tier/exchange';
import { accessWeight, steadyHeat } from '../tier/heat';

type NewId = (kind: Kind) => string;

/** Heat of one extent at each part of a volume (hot, warm, the rest), where it settles under its mean week, and the ends of the first two as shares. */
export function heatOf(volume: Volume, extentSize: number): { ends: [number, number]; heat: [number, number, number] } {
  const { activity } = volume;
  if (!activity) return { ends: [1, 1], heat: [0, 0, 0] };
  const bytes = Math.max(1, shownBytes(volume));
  const [hot, warm] = partsOf(activity) as [number, number];
  const hotShare = hot > 0 ? activity.hotShare : 0;
  const perHour =
    (activity.reads + activity.writes) *
    3600 *
    accessWeight({ ioBytes: activity.ioBytes, sequential: activity.pattern === 'sequential' });
  const of = (share: number, part: number) =>
    part > 0 ? steadyHeat({ ratePerHour: (perHour * share) / Math.max(1, (part * bytes) / extentSize) }) : 0;
  return { ends: [hot, Math.max(hot, warm)], heat: [of(hotShare, hot), of(1 - hotShare, Math.max(0, warm - hot)), 0] };
}

/** Extents of a run that are equally hot: `count` of them, from `offset` within it. */
export interface HeatPiece {
  run: ExtentRun;
  offset: number;
  count: number;
  heat: number;
  /** Place of its class among those of the pool, 0 the fastest. */
  tier: number;
}

/** Every run of a volume in its pool, cut where its heat changes. What lies in the reduced store, and what copies keep, is left out. */
export function heatPieces(view: EstateView, pool: Pool): HeatPiece[] {
  const tierOf = new Map(
    tiersOf(poolUsage(view, pool)).flatMap(({ groups }, k) => groups.map(({ group }) => [group.id, k] as const)),
  );
  const pieces: HeatPiece[] = [];
  for (const volume of view.table('volume').by('pool', pool.id)) {
    if (volume.deletedAt !== null) continue;
    const { ends, heat } = heatOf(volume, pool.extentSize);
    const bytes = Math.max(1, shownBytes(volume));
    // An extent belongs to the part its middle lies in.
    const borders = ends.map((end) => Math.ceil((end * bytes) / pool.extentSize - 0.5));
    for (const run of view.table('extent').by('volume', volume.id)) {
      const tier = tierOf.get(run.raidGroup);
      if (tier === undefined) continue;
      const cuts = [0, ...borders.map((border) => Math.min(run.count, Math.max(0, border - run.at))), run.count];
      for (let part = 0; part < 3; part++) {
        const [from, to] = [cuts[part]!, cuts[part + 1]!];
        if (to > from) pieces.push({ run, offset: from, count: to - from, heat: heat[part]!, tier });
      }
    }
  }
  return pieces;
}

/** A class of a pool as a place to move to: its groups that take something, and what is free in them for that. */
interface Place {
  groups: GroupUsage[];
  free: number;
}

function placesOf(view: EstateView, pool: Pool): Place[] {
  return tiersOf(poolUsage(view, pool)).map(({ groups, capacity }, k) => {
    const taking = groups.filter(({ group }) => !group.draining);
    // A little of the fastest stays free for what is written next.
    const kept = k === 0 ? Math.ceil(capacity * HYSTERESIS.keptFree) : 0;
    return { groups: taking, free: Math.max(0, taking.reduce((sum, one) => sum + one.free, 0) - kept) };
  });
}

const hotter = (a: HeatPiece, b: HeatPiece): number => b.heat - a.heat || (a.run.id < b.run.id ? -1 : 1);

/** Whether a hot extent takes the place of a cold one (space.md I). */
const takesPlace = (hot: number, cold: number): boolean => hot >= (1 + HYSTERESIS.delta) * cold + HYSTERESIS.epsilon;

/** Extents that would be moved until nothing is gained any more; an exchange moves two. */
export function heatMoves(view: EstateView, pool: Pool): number {
  const pieces = heatPieces(view, pool);
  const places = placesOf(view, pool);
  let moves = 0;
  for (let fast = 0; fast + 1 < places.length; fast++) {
    const rising = pieces.filter(({ tier }) => tier > fast).sort(hotter);
    const falling = pieces.filter(({ tier }) => tier === fast).sort((a, b) => hotter(b, a));
    let room = places[fast]!.free;
    let [next, left] = [0, falling[0]?.count ?? 0];
    for (const hot of rising) {
      if (hot.heat < HYSTERESIS.epsilon) break;
      const into = Math.min(room, hot.count);
      room -= into;
      moves += into;
      for (let wanted = hot.count - into; wanted > 0;) {
        const cold = falling[next];
        if (!cold || !takesPlace(hot.heat, cold.heat)) break;
        const swapped = Math.min(wanted, left);
        moves += 2 * swapped;
        wanted -= swapped;
        left -= swapped;
        if (left === 0) left = falling[++next]?.count ?? 0;
      }
    }
    // What rises from below is not counted again a class further down.
    if (moves > 0) break;
  }
  return moves;
}

/** Moves extents of a piece into free room of groups; as many as there is room for, up to `count`. */
function movePiece(
  view: EstateView,
  { run, offset }: Pick<HeatPiece, 'run' | 'offset'>,
  count: number,
  groups: readonly GroupUsage[],
  newId: NewId,
): { effects: Effect[]; moved: number } {
  const places = [];
  let left = count;
  for (const { group, capacity } of groups) {
    if (left === 0) break;
    for (const free of view.occupancy.firstFree(
      group.id,
      Math.min(left, capacity - view.occupancy.used(group.id)),
      capacity,
    )) {
      places.push({ raidGroup: group.id, ...free });
      left -= free.count;
    }
  }
  const moved = count - left;
  if (moved === 0) return { effects: [], moved };
  const effects: Effect[] = [offset === 0 ? deleted('extent', run) : changed('extent', run, { count: offset })];
  const after = run.count - offset - moved;
  if (after > 0)
    effects.push(
      created('extent', {
        ...run,
        id: newId('extent'),
        start: run.start + offset + moved,
        at: run.at + offset + moved,
        count: after,
      }),
    );
  let at = run.at + offset;
  for (const { raidGroup, start, count: here } of places) {
    effects.push(created('extent', { ...run, id: newId('extent'), raidGroup, start, count: here, at }));
    at += here;
  }
  return { effects, moved };
}

/** The next move by heat, of up to `most` extents: the hottest of a slower class into free room, else in exchange with the coldest of the faster one. */
export function moveByHeat(
  view: EstateView,
  pool: Pool,
  most: number,
  newId: NewId,
): { effects: Effect[]; moved: number } {
  const pieces = heatPieces(view, pool);
  const places = placesOf(view, pool);
  for (let fast = 0; fast + 1 < places.length; fast++) {
    const [hot] = pieces.filter(({ tier }) => tier > fast).sort(hotter);
    if (!hot || hot.heat < HYSTERESIS.epsilon) continue;
    if (places[fast]!.free > 0)
      return movePiece(view, hot, Math.min(most, hot.count, places[fast]!.free), places[fast]!.groups, newId);
    const cold = pieces.filter(({ tier }) => tier === fast).sort((a, b) => hotter(b, a))[0];
    if (!cold || !takesPlace(hot.heat, cold.heat)) continue;
    const below = places.slice(fast + 1).find(({ free }) => free > 0);
    if (!below) continue;
    const swapped = Math.min(Math.max(1, Math.floor(most / 2)), hot.count, cold.count, below.free);
    const down = movePiece(view, cold, swapped, below.groups, newId);
    const between = new Overlay(view);
    between.apply(down.effects);
    // The hot run may be the one that was cut: it is looked for anew.
    const again = heatPieces(between, pool)
      .filter(({ tier }) => tier > fast)
      .sort(hotter)[0]!;
    const up = movePiece(between, again, Math.min(down.moved, again.count), places[fast]!.groups, newId);
    if (up.moved === 0) return { effects: [], moved: 0 };
    return { effects: compacted([...down.effects, ...up.effects]), moved: down.moved + up.moved };
  }
  return { effects: [], moved: 0 };
}
