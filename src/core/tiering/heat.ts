import { partsOf } from '../copies/activity';
import { shownBytes } from '../copies/parts';
import { compacted, created, changed, deleted, type Effect } from '../estate/effects';
import type { ExtentRun, Kind, Pool, Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { poolUsage, tiersOf, type GroupUsage } from '../pool/usage';
import { HYSTERESIS } from '../tier/exchange';
import { accessWeight, steadyHeat } from '../tier/heat';
import { apply, nextStep, pictureOf, type Picture } from './moves';
import { poolBounds } from '../pool/tier-policy';

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

/** Everything that the moves of a pool are decided by. */
export function heatPicture(view: EstateView, pool: Pool): Picture {
  const places = tiersOf(poolUsage(view, pool)).map(({ groups, capacity }, k) => {
    const free = groups.reduce((sum, one) => sum + (one.group.draining ? 0 : one.free), 0);
    // A little of the fastest stays free for what is written next.
    return { free, kept: k === 0 ? Math.ceil(capacity * HYSTERESIS.keptFree) : 0 };
  });
  const { bounds } = poolBounds(view, pool);
  return pictureOf(
    heatPieces(view, pool).map(({ run, offset, count, heat, tier }) => ({
      id: `${run.id} ${offset}`,
      volume: run.volume!,
      run,
      offset,
      count,
      heat,
      tier,
    })),
    places,
    bounds,
  );
}

/** Extents that would be moved until nothing is gained any more; an exchange moves two. */
export function heatMoves(view: EstateView, pool: Pool): number {
  if (tiersOf(poolUsage(view, pool)).length < 2) return 0;
  const picture = heatPicture(view, pool);
  let moves = 0;
  for (let step = nextStep(picture); step; step = nextStep(picture)) {
    for (const { count } of step) moves += count;
    apply(picture, step);
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

/** The next move by heat, of up to `most` extents: into free room, or an exchange in which first one side makes way. */
export function moveByHeat(
  view: EstateView,
  pool: Pool,
  most: number,
  newId: NewId,
): { effects: Effect[]; moved: number } {
  const picture = heatPicture(view, pool);
  const step = nextStep(picture, most);
  if (!step) return { effects: [], moved: 0 };
  const overlay = new Overlay(view);
  const effects: Effect[] = [];
  let moved = 0;
  for (const { piece, count, to } of step) {
    const groups = tiersOf(poolUsage(overlay, pool))[to]!.groups.filter(({ group }) => !group.draining);
    const made = movePiece(overlay, piece, Math.min(count, Math.max(1, moved === 0 ? count : moved)), groups, newId);
    overlay.apply(made.effects);
    effects.push(...made.effects);
    moved += made.moved;
  }
  return { effects: compacted(effects), moved };
}
