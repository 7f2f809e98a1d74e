import type { MediaClass, Pool } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import { byName } from '../operation/draft';
import { poolUsage, tiersOf, type GroupUsage } from '../pool/usage';
import { mediaFigures } from '../raid/media';
import { HYSTERESIS } from '../tier/exchange';
import { placeAtLeastCost } from '../tier/optimum';
import type { Bounds } from '../tier/place';
import { heatPieces, type HeatPiece } from '../tiering/heat';
import { boundsWords, shareText } from '../tiering/policy-fields';
import {
  extentsByClass,
  inClasses,
  policyOf,
  policyWords,
  poolBounds,
  underPolicy,
  volumeRoom,
} from '../pool/tier-policy';
import { windowWords } from '../tiering/window';

/** A class of media in a pool: its room, what lies there, and how much of what hosts ask goes there. Extents; shares from 0 to 1. */
export interface HeatTier {
  media: MediaClass;
  label: string;
  capacity: number;
  used: number;
  /** Share of the pool's heat that lies there, and that would with everything placed by heat. */
  heat: number;
  heatBest: number;
  /** Extents there that nobody touches. */
  cold: number;
  serviceMs: number;
  /** The class from its first extent to its last in so many cells: the heat of an extent there by day, and the share that is used. */
  cells: { heat: number; used: number }[];
}

export interface HeatVolume {
  id: string;
  name: string;
  extents: number;
  /** Its heat by class, in the order of the tiers; shares of its own. */
  shares: number[];
  serviceMs: number | null;
  bestMs: number | null;
  /** The tier policy it is under. */
  policy: string | null;
}

export interface HeatMap {
  pool: string;
  name: string;
  array: string;
  tiers: HeatTier[];
  volumes: HeatVolume[];
  /** Mean service of what misses the cache, milliseconds: as it lies, and placed by heat; null where nobody asks. */
  serviceMs: number | null;
  bestMs: number | null;
  /** Share of the heat that would lie in a faster class. */
  gains: number;
  /** Whether the placement is the best that rooms and bounds allow, or what a greedy one finds. */
  how: 'greedy' | 'optimal';
  /** Why bounds of policies cannot be met, or null. */
  refusal: string | null;
  /** When extents move. */
  window: string;
}

/** Where the heat of a pool lies, and where it would lie placed by heat; null where it has one class of media alone. */
export function heatMap(view: EstateView, pool: Pool): HeatMap | null {
  const tiers = tiersOf(poolUsage(view, pool));
  if (tiers.length < 2) return null;
  const groupsOfTier = tiers.map(({ groups }) => groups);
  const heat: number[] = [];
  const lies: number[] = [];
  const owner: number[] = [];
  const volumes = view
    .table('volume')
    .by('pool', pool.id)
    .filter(({ deletedAt }) => deletedAt === null);
  const places = new Map(volumes.map(({ id }, v) => [id, v]));
  const pieces = heatPieces(view, pool);
  for (const { run, count, heat: each, tier } of pieces) {
    const v = places.get(run.volume!)!;
    for (let k = 0; k < count; k++) {
      heat.push(each);
      lies.push(tier);
      owner.push(v);
    }
  }
  const services = tiers.map(({ media }) => mediaFigures[media].readMs);
  const held = extentsByClass(view, pool);
  const classes = tiers.map(({ media }) => media);
  const { bounds, refusal } = poolBounds(view, pool);
  // Each volume under a policy is bounded by itself; the others share what is left.
  const policies: Record<string, Bounds> = { '': { percent: classes.map(() => 100) } };
  const policyAt = volumes.map(({ id }) => {
    const policy = refusal === null && bounds.has(id) ? policyOf(view, id) : undefined;
    if (!policy) return 0;
    policies[id] = inClasses(policy.shares, classes);
    return Object.keys(policies).length - 1;
  });
  const rooms = volumeRoom(view, pool, held);
  const place = (kept: number) =>
    placeAtLeastCost({
      tiers: rooms.map((capacity, k) => ({
        capacity: k === 0 ? Math.floor(capacity * (1 - kept)) : capacity,
        service: services[k]!,
      })),
      policies,
      extents: { heat, policy: owner.map((v) => policyAt[v]!) },
    });
  // A little of the fastest stays free for what is written next, where there is room for that.
  const spare = place(HYSTERESIS.keptFree);
  const placed = spare.ok ? spare : place(0);
  const best = placed.ok ? placed.tier : Uint8Array.from(lies);
  const total = heat.reduce((sum, one) => sum + one, 0);
  const share = (of: ArrayLike<number>, tier: number, mine: (k: number) => boolean = () => true) => {
    let [here, all] = [0, 0];
    for (let k = 0; k < heat.length; k++) {
      if (!mine(k)) continue;
      all += heat[k]!;
      if (of[k] === tier) here += heat[k]!;
    }
    return all > 0 ? here / all : 0;
  };
  const mean = (of: ArrayLike<number>, mine: (k: number) => boolean = () => true): number | null => {
    let [sum, all] = [0, 0];
    for (let k = 0; k < heat.length; k++) {
      if (!mine(k)) continue;
      sum += heat[k]! * services[of[k]!]!;
      all += heat[k]!;
    }
    return all > 0 ? sum / all : null;
  };
  let gains = 0;
  for (let k = 0; k < heat.length; k++) if (best[k]! < lies[k]!) gains += heat[k]!;
  return {
    pool: pool.id,
    name: pool.name,
    array: arrayOf(view, pool).name,
    tiers: tiers.map(({ media, capacity, used }, k) => ({
      media,
      label: mediaFigures[media].label,
      capacity,
      used,
      heat: share(lies, k),
      heatBest: share(best, k),
      cold: lies.reduce((count, tier, e) => count + (tier === k && heat[e]! < HYSTERESIS.epsilon ? 1 : 0), 0),
      serviceMs: services[k]!,
      cells: cellsOf(view, groupsOfTier[k]!, pieces),
    })),
    volumes: volumes.flatMap(({ id, name }, v): HeatVolume[] => {
      const mine = (k: number) => owner[k] === v;
      const extents = owner.reduce((count, one) => count + (one === v ? 1 : 0), 0);
      if (extents === 0) return [];
      return [
        {
          id,
          name,
          extents,
          shares: tiers.map((_, k) => share(lies, k, mine)),
          serviceMs: mean(lies, mine),
          bestMs: mean(best, mine),
          policy: policyOf(view, id)?.name ?? null,
        },
      ];
    }),
    serviceMs: mean(lies),
    bestMs: mean(best),
    gains: total > 0 ? gains / total : 0,
    how: placed.ok ? placed.how : 'greedy',
    refusal: refusal && boundsWords(view, pool, refusal),
    window: windowWords(pool),
  };
}

/** Cells in which the extents of a class are drawn. */
const CELLS = 120;

/** Extents of a class in the order in which they lie in its groups, in cells of as many each. */
function cellsOf(view: EstateView, groups: readonly GroupUsage[], pieces: readonly HeatPiece[]): HeatTier['cells'] {
  const starts = new Map<string, number>();
  let whole = 0;
  for (const { group, capacity } of groups) {
    starts.set(group.id, whole);
    whole += capacity;
  }
  const size = Math.max(1, whole / CELLS);
  const cells = Array.from({ length: Math.ceil(whole / size) }, () => ({ heat: 0, used: 0 }));
  /** Adds something to the cells that a run covers, by how much of each it covers. */
  const over = (from: number, count: number, add: (cell: HeatTier['cells'][number], part: number) => void) => {
    for (let at = from; at < from + count;) {
      const cell = Math.min(cells.length - 1, Math.floor(at / size));
      const end = cell === cells.length - 1 ? from + count : Math.min(from + count, (cell + 1) * size);
      add(cells[cell]!, end - at);
      at = end;
    }
  };
  for (const { group } of groups)
    for (const run of view.table('extent').by('raidGroup', group.id))
      over(starts.get(group.id)! + run.start, run.count, (cell, part) => (cell.used += part));
  for (const { run, offset, count, heat } of pieces) {
    const start = starts.get(run.raidGroup);
    if (start !== undefined) over(start + run.start + offset, count, (cell, part) => (cell.heat += heat * part));
  }
  return cells.map(({ heat, used }) => ({ heat: used > 0 ? heat / used : 0, used: Math.min(1, used / size) }));
}

/** Every tier policy, in words, with who is under it. */
export interface TierPolicyAnswer {
  id: string;
  name: string;
  array: string;
  says: string;
  shares: string[];
  volumes: string[];
  notes: string;
}
export const tierPolicies = (view: EstateView): TierPolicyAnswer[] =>
  [...view.table('tierPolicy').values()].sort(byName).map((policy) => ({
    id: policy.id,
    name: policy.name,
    array: arrayOf(view, policy).name,
    says: policyWords(policy),
    shares: policy.shares.map(shareText),
    volumes: underPolicy(view, policy.id).map(({ name }) => name),
    notes: policy.notes,
  }));

/** Every pool of several classes of media. */
export const heatMaps = (view: EstateView): HeatMap[] =>
  [...view.table('pool').values()].flatMap((pool) => heatMap(view, pool) ?? []);
