import type { RequestRule } from '../classes/rules';
import type { Host, Pool } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { ownPools } from '../estate/own';
import { arrayOf } from '../estate/relations';
import type { Keeping } from '../kinds/kept-request';
import { byName } from '../operation/draft';
import { packAll, type PackReason } from '../place/pack';
import { poolState } from '../pool/usage';
import { counted } from '../units/counted';
import { arrayAnswers } from '../volume/health';
import { judged, poolFacts, type Headrooms } from './facts';
import { farFrom, placesFor, roomOf } from './place';

/** Several volumes alike. Bytes and counted I/O a second of each (see `COUNTED_IO`). */
export interface SeveralAsked {
  bytes: number;
  iops: number;
  volumes: number;
  keeping: Keeping;
  rules: readonly RequestRule[];
  /** Each with a copy at an array that its own is introduced to. */
  replica: boolean;
  /** Hosts that are to reach them; nobody without. */
  hosts?: readonly Host[];
}

/** How many of them go to which pool. */
export interface Placed {
  id: string;
  pool: string;
  array: string;
  volumes: number;
}

export interface SeveralAnswer {
  /** By array and pool. */
  placed: Placed[];
  unplaced: number;
  says: string;
}

/** Pools whose copy would find no place. */
function withoutCopy(
  view: EstateView,
  { bytes, iops, rules }: SeveralAsked,
  headroom: Headrooms,
  pools: readonly Pool[],
): Set<string> {
  const answer = placesFor(view, { bytes, iops, rules, replica: true }, headroom, undefined, pools);
  return new Set(
    answer.pools.filter(({ reasons }) => reasons.some((reason) => reason.startsWith('replica'))).map(({ id }) => id),
  );
}

const reasonWords: Record<PackReason, string> = {
  'not-allowed': 'what is asked leaves pools out',
  apart: 'no pool takes two of them',
  capacity: 'there is no room',
  performance: 'pools cannot serve as much with one part failed',
};

/** Where a request goes: one volume into the pool that is ranked first, several as they are to be kept. */
export function placesOf(view: EstateView, asked: SeveralAsked, headroom: Headrooms): SeveralAnswer {
  if (asked.volumes > 1) return placeSeveral(view, asked, headroom);
  const { pools, says } = placesFor(view, asked, headroom);
  const best = pools.find(({ score }) => score !== null);
  return best
    ? { placed: [{ id: best.id, pool: best.name, array: best.array, volumes: 1 }], unplaced: 0, says }
    : { placed: [], unplaced: 1, says };
}

/**
 * Over which pools several volumes go, so that they stand together, apart, or as they fit (move.md F): room up to the urgent mark and service in
 * the worst single-failure state, both taken up by those placed before.
 */
export function placeSeveral(
  view: EstateView,
  asked: SeveralAsked,
  headroom: Headrooms,
  pools: readonly Pool[] = ownPools(view),
): SeveralAnswer {
  const far = farFrom(view, asked.hosts ?? []);
  const without = asked.replica ? withoutCopy(view, asked, headroom, pools) : new Set<string>();
  const allowed = pools
    .filter(
      (pool) =>
        !without.has(pool.id) &&
        far(pool) === null &&
        arrayAnswers(view, pool.array) &&
        poolState(view, pool.id) !== 'lost' &&
        judged(view, asked.rules, poolFacts(view, pool, headroom)).every(({ outcome }) => outcome === 'pass'),
    )
    .map(({ id }) => id);
  const packed = packAll({
    strategy: asked.keeping === 'fill' ? 'fill' : 'spread',
    volumes: Array.from({ length: asked.volumes }, (_, k) => ({
      id: String(k).padStart(4, '0'),
      bytes: asked.bytes,
      perf: asked.iops,
      ...(asked.keeping === 'together' ? { together: 'all' } : asked.keeping === 'apart' ? { apart: 'all' } : {}),
      allowed,
    })),
    pools: pools.map((pool) => {
      const room = roomOf(view, pool, headroom);
      return {
        id: pool.id,
        freeBytes: Math.max(0, room.limitBytes - room.usedBytes),
        freePerf: Math.max(0, room.perfLimit - room.perfUsed),
      };
    }),
  });
  // All of them are alike: none of them asks to be both together and apart.
  if (!packed.ok) throw new Error(packed.message);
  const { placed, unplaced } = packed.value;
  const counts = new Map<string, number>();
  for (const id of Object.values(placed)) counts.set(id, (counts.get(id) ?? 0) + 1);
  const rows = [...counts].map(([id, volumes]): Placed => {
    const pool = view.table('pool').get(id)!;
    return { id, pool: pool.name, array: arrayOf(view, pool).name, volumes };
  });
  rows.sort((a, b) => byName({ name: `${a.array} ${a.pool}` }, { name: `${b.array} ${b.pool}` }));
  const left = unplaced.reduce((sum, { ids }) => sum + ids.length, 0);
  const reasons = [...new Set(unplaced.flatMap((one) => one.reasons))].map((reason) => reasonWords[reason]);
  return {
    placed: rows,
    unplaced: left,
    says: [
      rows.length > 0 ? `${rows.map((one) => `${one.volumes} in ${one.array} ${one.pool}`).join(', ')}.` : '',
      left > 0
        ? `${left === asked.volumes ? (left === 1 ? 'It finds' : 'They find') : `${left} of ${asked.volumes} ${left === 1 ? 'finds' : 'find'}`} no place: ${reasons.join(', ') || 'there is no pool'}.`
        : '',
    ]
      .filter(Boolean)
      .join(' '),
  };
}

export const keepingWords: Record<Keeping, string> = {
  spread: 'Wherever most is left',
  fill: 'Into as few pools as hold them',
  together: 'Together in one pool',
  apart: 'Apart, each in a pool of its own',
};

/** How many volumes of what size, as people say it. */
export const severalWords = (volumes: number, size: string): string =>
  volumes === 1 ? `a volume of ${size}` : `${counted(volumes, 'volume')} of ${size}`;
