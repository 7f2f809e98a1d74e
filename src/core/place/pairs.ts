import {
  rankCandidates,
  type Candidate,
  type Exclusion,
  type PlaceRequest,
  type PlaceRoom,
  type PlaceTerm,
  type Ranked,
} from './rank';

/** A pool that may take replicas, and the array it stands in. */
export interface ReplicaPool extends PlaceRoom {
  id: string;
  array: string;
}

export interface RankedPair extends Ranked {
  /** The pool its replica goes to. */
  replica: string;
}

const partOf = (left: number, limit: number): number => (limit > 0 ? left / limit : 0);

/**
 * The best pair of pools for something and its replica: each candidate with the replica pool that suits it best, of those whose array its own is
 * peered with (move.md F). A replica pool that another beats in room and headroom alike is never looked at with a candidate, so that a thousand by
 * a thousand stay few. `excluded` tells of candidates without any pair what speaks against the nearest.
 */
export function rankPairs({
  request,
  candidates,
  replicas,
  peered,
  weights,
  targetDays,
}: {
  request: Omit<PlaceRequest, 'replica'>;
  candidates: readonly (Omit<Candidate, 'replica'> & { array: string })[];
  replicas: readonly ReplicaPool[];
  /** Whether volumes of the first array may have replicas in the second. */
  peered: (from: string, to: string) => boolean;
  weights?: Readonly<Partial<Record<PlaceTerm, number>>>;
  targetDays?: number;
}): { ranked: RankedPair[]; excluded: { id: string; reasons: Exclusion[] }[] } {
  const bytes = request.replicaBytes ?? request.bytes;
  const units = request.replicaPerfUnits ?? request.perfUnits;
  const arrays = [...new Set(replicas.map(({ array }) => array))];
  const best = new Map(
    arrays.map((array) => [
      array,
      undominated(
        replicas.filter((one) => one.array === array),
        bytes,
        units,
      ),
    ]),
  );
  const fronts = new Map<string, ReplicaPool[]>();
  const frontOf = (array: string): ReplicaPool[] => {
    let front = fronts.get(array);
    if (!front) {
      const open = arrays
        .filter((other) => other !== array && peered(array, other))
        .flatMap((other) => best.get(other)!);
      front = undominated(open, bytes, units);
      fronts.set(array, front);
    }
    return front;
  };
  const pairs: Candidate[] = [];
  const of = new Map<string, { id: string; replica: string }>();
  for (const { array, ...own } of candidates) {
    const front = frontOf(array);
    for (const [k, replica] of front.entries()) {
      const id = `${own.id} ${k}`;
      of.set(id, { id: own.id, replica: replica.id });
      pairs.push({ ...own, id, replica });
    }
    if (front.length === 0) {
      of.set(own.id, { id: own.id, replica: '' });
      pairs.push({ ...own, replica: null });
    }
  }
  const { ranked, excluded } = rankCandidates({
    request: { ...request, replica: true },
    candidates: pairs,
    ...(weights ? { weights } : {}),
    ...(targetDays === undefined ? {} : { targetDays }),
  });
  const seen = new Set<string>();
  const first: RankedPair[] = [];
  for (const { id: pair, score, terms } of ranked) {
    const { id, replica } = of.get(pair)!;
    if (seen.has(id)) continue;
    seen.add(id);
    first.push({ id, replica, score, terms });
  }
  const without = new Map<string, Exclusion[]>();
  for (const { id: pair, reasons } of excluded) {
    const { id } = of.get(pair)!;
    const known = without.get(id);
    if (!seen.has(id) && (!known || reasons.length < known.length)) without.set(id, reasons);
  }
  return { ranked: first, excluded: [...without].map(([id, reasons]) => ({ id, reasons })) };
}

/** Those that no other beats in both shares left; whoever has no room at all comes last, and alone where none has. */
function undominated(pools: readonly ReplicaPool[], bytes: number, units: number): ReplicaPool[] {
  const left = (one: ReplicaPool) => ({
    one,
    fits: one.usedBytes + bytes <= one.limitBytes && one.perfUsed + units <= one.perfLimit,
    capacity: partOf(one.limitBytes - one.usedBytes - bytes, one.limitBytes),
    performance: partOf(one.perfLimit - one.perfUsed - units, one.perfLimit),
  });
  const all = pools.map(left);
  const able = all.some(({ fits }) => fits) ? all.filter(({ fits }) => fits) : all;
  able.sort((a, b) => b.capacity - a.capacity || b.performance - a.performance || (a.one.id < b.one.id ? -1 : 1));
  const front: ReplicaPool[] = [];
  let most = -Infinity;
  for (const { one, performance } of able)
    if (performance > most) {
      front.push(one);
      most = performance;
    }
  return front;
}
