import { mmc, mmcResponseQuantile } from '../load/queue';
import { bisected } from '../units/bisect';

export type NeighbourLimit =
  { ok: true; limitPerS: number } | { ok: false; code: 'qos-target-missed-without-x'; responseS: number | null };

/**
 * The largest rate X of a neighbour with which the response percentile of M/M/c at X + Y stays within the target (load.md J); the response of Y
 * alone, in seconds, where even that misses it (null: Y alone saturates the queue). Propose it rounded down.
 */
export function limitForNeighbour({
  serviceS,
  servers,
  neighbourPerS,
  targetS,
  percentile,
}: {
  serviceS: number;
  servers: number;
  neighbourPerS: number;
  targetS: number;
  percentile: number;
}): NeighbourLimit {
  const full = servers / serviceS;
  const q = percentile / 100;
  const refused = (responseS: number | null): NeighbourLimit => ({
    ok: false,
    code: 'qos-target-missed-without-x',
    responseS,
  });
  if (neighbourPerS >= full) return refused(null);
  const response = (x: number) => mmcResponseQuantile(x + neighbourPerS, serviceS, servers, q);
  const alone = response(0);
  if (alone > targetS) return refused(alone);
  if (servers === 1) return { ok: true, limitPerS: 1 / serviceS - Math.log(1 / (1 - q)) / targetS - neighbourPerS };
  const top = full - neighbourPerS;
  return {
    ok: true,
    limitPerS: bisected(
      (x) => {
        const answer = mmc({ arrivalsPerS: x + neighbourPerS, serviceS, servers });
        return answer.saturated ? 1 : response(x) - targetS;
      },
      0,
      top,
    ),
  };
}

export interface FloorItem {
  id: string;
  floorIops: number;
  ioBytes: number;
  unitBytes: number;
  readFraction: number;
  writeFactor: number;
  limitIops?: number;
}

export type FloorsAnswer =
  | { ok: true; unitsPerS: number; limitUnitsPerS: number; fits: boolean; perItem: Record<string, number> }
  | { ok: false; code: 'qos-floor-above-limit'; id: string; message: string };

/**
 * Whether floors can be held (load.md J): units = iops·max(1, ⌈io/unit⌉)·(read + (1 − read)·writeFactor), their sum within capacity·(1 − headroom).
 * The capacity is that of the worst single-failure state.
 */
export function floorsFeasible({
  capacityUnitsPerS,
  headroom,
  items,
}: {
  capacityUnitsPerS: number;
  headroom: number;
  items: readonly FloorItem[];
}): FloorsAnswer {
  const perItem: Record<string, number> = {};
  for (const { id, floorIops, ioBytes, unitBytes, readFraction, writeFactor, limitIops = Infinity } of items) {
    if (floorIops > limitIops)
      return {
        ok: false,
        code: 'qos-floor-above-limit',
        id,
        message: `${id} has a floor of ${floorIops} but is limited to ${limitIops}.`,
      };
    perItem[id] =
      floorIops * Math.max(1, Math.ceil(ioBytes / unitBytes)) * (readFraction + (1 - readFraction) * writeFactor);
  }
  const unitsPerS = Object.values(perItem).reduce((sum, one) => sum + one, 0);
  const limitUnitsPerS = capacityUnitsPerS * (1 - headroom);
  return { ok: true, unitsPerS, limitUnitsPerS, fits: unitsPerS <= limitUnitsPerS * (1 + 1e-12), perItem };
}
