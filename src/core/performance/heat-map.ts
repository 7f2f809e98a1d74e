import type { MediaClass, Pool } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import { poolUsage, tiersOf } from '../pool/usage';
import { mediaFigures } from '../raid/media';
import { HYSTERESIS } from '../tier/exchange';
import { placeByHeat } from '../tier/place';
import { heatPieces } from '../volume/heat';

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
}

export interface HeatVolume {
  id: string;
  name: string;
  extents: number;
  /** Its heat by class, in the order of the tiers; shares of its own. */
  shares: number[];
  serviceMs: number | null;
  bestMs: number | null;
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
}

/** Where the heat of a pool lies, and where it would lie placed by heat; null where it has one class of media alone. */
export function heatMap(view: EstateView, pool: Pool): HeatMap | null {
  const tiers = tiersOf(poolUsage(view, pool));
  if (tiers.length < 2) return null;
  const heat: number[] = [];
  const lies: number[] = [];
  const owner: number[] = [];
  const volumes = view
    .table('volume')
    .by('pool', pool.id)
    .filter(({ deletedAt }) => deletedAt === null);
  const places = new Map(volumes.map(({ id }, v) => [id, v]));
  for (const { run, count, heat: each, tier } of heatPieces(view, pool)) {
    const v = places.get(run.volume!)!;
    for (let k = 0; k < count; k++) {
      heat.push(each);
      lies.push(tier);
      owner.push(v);
    }
  }
  const services = tiers.map(({ media }) => mediaFigures[media].readMs);
  const placed = placeByHeat({
    tiers: tiers.map(({ capacity }, k) => ({
      // A little of the fastest stays free for what is written next.
      capacity: k === 0 ? Math.floor(capacity * (1 - HYSTERESIS.keptFree)) : capacity,
      service: services[k]!,
    })),
    policies: { all: { percent: tiers.map(() => 100) } },
    extents: { heat, policy: heat.map(() => 0) },
  });
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
        },
      ];
    }),
    serviceMs: mean(lies),
    bestMs: mean(best),
    gains: total > 0 ? gains / total : 0,
  };
}

/** Every pool of several classes of media. */
export const heatMaps = (view: EstateView): HeatMap[] =>
  [...view.table('pool').values()].flatMap((pool) => heatMap(view, pool) ?? []);
