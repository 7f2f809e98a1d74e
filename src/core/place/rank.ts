import { byCodePoint } from '../units/order';
/** Room and headroom of a pool, or of the pool its replicas go to. Bytes; performance in units a second. */
export interface PlaceRoom {
  /** Size up to its fill mark. */
  limitBytes: number;
  usedBytes: number;
  /** What it gives in its worst single-failure state. */
  perfLimit: number;
  perfUsed: number;
}

export interface Candidate extends PlaceRoom {
  id: string;
  /** Its facts are what the request asks for. */
  matches?: boolean;
  growthBytesPerDay: number;
  allotmentFreeBytes?: number | null;
  preferences?: readonly { weight: number; met: boolean }[];
  replica?: PlaceRoom | null;
}

export interface PlaceRequest {
  bytes: number;
  perfUnits: number;
  growthBytesPerDay?: number;
  replica?: boolean;
  /** As large and as busy as the volume itself, unless said. */
  replicaBytes?: number | null;
  replicaPerfUnits?: number | null;
}

/** In the order in which they are told. */
export const placeTerms = [
  'capacity',
  'performance',
  'replicaCapacity',
  'replicaPerformance',
  'fit',
  'runway',
  'preference',
] as const;
export type PlaceTerm = (typeof placeTerms)[number];

export type Exclusion =
  'rules' | 'capacity' | 'performance' | 'allotment' | 'replica-missing' | 'replica-capacity' | 'replica-performance';

/** How much each term counts (a choice of move.md F). */
export const PLACE_WEIGHTS: Readonly<Record<PlaceTerm, number>> = {
  capacity: 25,
  performance: 25,
  replicaCapacity: 10,
  replicaPerformance: 10,
  fit: 10,
  runway: 15,
  preference: 5,
};
/** How much the mean counts beside the weakest term: a strong average must not hide one weak spot. */
const MEAN = 0.7;
/** Terms of which the weakest counts. */
const weighty: readonly PlaceTerm[] = ['capacity', 'performance', 'replicaCapacity', 'replicaPerformance', 'runway'];
/** Scores equal at so many decimals are equal. */
const DECIMALS = 1e9;

export interface Ranked {
  id: string;
  /** 0 to 100. */
  score: number;
  terms: Partial<Record<PlaceTerm, number>>;
}

export interface Ranking {
  ranked: Ranked[];
  excluded: { id: string; reasons: Exclusion[] }[];
}

const partOf = (left: number, limit: number): number => (limit > 0 ? left / limit : 0);

/** What keeps a room from taking so much, by its names of the reasons. */
const lacks = <R extends Exclusion>(
  room: PlaceRoom,
  bytes: number,
  units: number,
  capacity: R,
  performance: R,
): R[] => [
  ...(room.usedBytes + bytes > room.limitBytes ? [capacity] : []),
  ...(room.perfUsed + units > room.perfLimit ? [performance] : []),
];

/**
 * Where something fits best: candidates that can take it, the best first, with every term from 0 to 1, and those that cannot with every reason
 * (move.md F). score = 100·(0.7·weighted mean + 0.3·weakest). `weights` given replace all.
 */
export function rankCandidates({
  request,
  candidates,
  weights = PLACE_WEIGHTS,
  targetDays = 180,
}: {
  request: PlaceRequest;
  candidates: readonly Candidate[];
  weights?: Readonly<Partial<Record<PlaceTerm, number>>>;
  targetDays?: number;
}): Ranking {
  const { bytes, perfUnits, growthBytesPerDay = 0, replica = false } = request;
  const replicaBytes = request.replicaBytes ?? bytes;
  const replicaUnits = request.replicaPerfUnits ?? perfUnits;
  const excluded: Ranking['excluded'] = [];
  const ranked: (Ranked & { free: number })[] = [];
  for (const one of candidates) {
    const reasons: Exclusion[] = [
      ...(one.matches === false ? (['rules'] as const) : []),
      ...lacks(one, bytes, perfUnits, 'capacity', 'performance'),
      ...((one.allotmentFreeBytes ?? Infinity) < bytes ? (['allotment'] as const) : []),
      ...(!replica
        ? []
        : one.replica
          ? lacks(one.replica, replicaBytes, replicaUnits, 'replica-capacity', 'replica-performance')
          : (['replica-missing'] as const)),
    ];
    if (reasons.length > 0) {
      excluded.push({ id: one.id, reasons });
      continue;
    }
    const free = one.limitBytes - one.usedBytes - bytes;
    const capacity = partOf(free, one.limitBytes);
    const performance = partOf(one.perfLimit - one.perfUsed - perfUnits, one.perfLimit);
    const growth = one.growthBytesPerDay + growthBytesPerDay;
    const preferences = one.preferences ?? [];
    const wanted = preferences.reduce((sum, { weight }) => sum + weight, 0);
    const met = preferences.reduce((sum, { weight, met: is }) => sum + (is ? weight : 0), 0);
    const terms: Ranked['terms'] = { capacity, performance };
    if (replica && one.replica) {
      const { limitBytes, usedBytes, perfLimit, perfUsed } = one.replica;
      terms.replicaCapacity = partOf(limitBytes - usedBytes - replicaBytes, limitBytes);
      terms.replicaPerformance = partOf(perfLimit - perfUsed - replicaUnits, perfLimit);
    }
    terms.fit = 1 - Math.abs(capacity - performance);
    terms.runway = growth > 0 ? Math.min(1, free / growth / targetDays) : 1;
    terms.preference = wanted > 0 ? met / wanted : 1;
    ranked.push({ id: one.id, score: scoreOf(terms, weights), terms, free });
  }
  const rounded = (score: number) => Math.round(score * DECIMALS);
  ranked.sort((a, b) => rounded(b.score) - rounded(a.score) || b.free - a.free || byCodePoint(a.id, b.id));
  excluded.sort((a, b) => byCodePoint(a.id, b.id));
  return { ranked: ranked.map(({ id, score, terms }) => ({ id, score, terms })), excluded };
}

function scoreOf(terms: Ranked['terms'], weights: Readonly<Partial<Record<PlaceTerm, number>>>): number {
  let [sum, all] = [0, 0];
  for (const term of placeTerms) {
    const value = terms[term];
    if (value === undefined) continue;
    sum += (weights[term] ?? 0) * value;
    all += weights[term] ?? 0;
  }
  const mean = all > 0 ? sum / all : 0;
  const counted = weighty.flatMap((term) => ((weights[term] ?? 0) > 0 ? (terms[term] ?? []) : []));
  const weakest = counted.length > 0 ? Math.min(...counted) : mean;
  return 100 * (MEAN * mean + (1 - MEAN) * weakest);
}
