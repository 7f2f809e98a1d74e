import { ownPools } from '../../estate/own';
import { waysTo } from '../../attach/ways';
import type { ArrayRow, Host, Pool, ServiceClass, Transport } from '../../estate/entities';
import type { EstateView } from '../../estate/estate';
import { arrayOf } from '../../estate/relations';
import { headroomsOf } from '../../performance/pool-headroom';
import { poolsBusy } from '../../performance/room';
import { poolState, poolUsage, tiersOf } from '../../pool/usage';
import { mediaFigures } from '../../raid/media';
import { againstClass } from '../../service/class-operations';
import { placesFor, weakest } from '../../service/place';
import { extentsBesideMoves } from '../../volume/promised';
import { formatBytes, percentUsed, type Bytes } from '../../units/bytes';

/** A pool as a place for new volumes of given hosts. */
export interface PoolOffer {
  pool: Pool;
  array: ArrayRow;
  /** Transports by which all of the hosts could reach it. */
  ways: Transport[];
  /** Hosts at the array's own site. */
  near: number;
  /** Promised, of its size, in per cent with the new volumes. */
  promised: number;
  says: string;
  unfit: string | null;
  /** From 0 to 100 among those that fit, by room, service with one part failed and how long they last; null where it cannot serve more. */
  score: number | null;
  /** How busy its busiest group is at the busiest hour of the week, of what it is good for; 0 where nothing is known. */
  busy: number;
}

/** Better transports first where several lead there. */
const preference: Transport[] = ['fc', 'nvme-tcp', 'iscsi'];

/**
 * Every pool, the best first: one that all hosts reach and that has room; one whose drives are not too busy already, and that can serve more with
 * one part failed; then where most hosts are near; then by the score of `placesFor`. One that does not fit the class asked for is no place. A thin
 * volume asks for room for a tenth of its size, a thick one for all.
 */
export function rankPools(
  view: EstateView,
  hosts: readonly Host[],
  bytes: Bytes,
  thick: boolean,
  transport: Transport | null,
  wanted: ServiceClass | null = null,
): PoolOffer[] {
  const byArray = new Map<string, Transport[]>();
  const waysOf = (array: ArrayRow): Transport[] => {
    let ways = byArray.get(array.id);
    if (!ways) {
      const each = hosts.map((host) => waysTo(view, host, array));
      ways = preference.filter((one) => each.every((list) => list.includes(one)));
      byArray.set(array.id, ways);
    }
    return ways;
  };
  const busy = poolsBusy(view);
  const misfit = wanted ? againstClass(view, wanted) : () => null;
  const pools = ownPools(view);
  const offers = pools.map((pool): PoolOffer & { rank: number } => {
    const array = arrayOf(view, pool);
    const usage = poolUsage(view, pool);
    const left = extentsBesideMoves(view, pool) * pool.extentSize;
    const ways = waysOf(array).filter((way) => transport === null || way === transport);
    const promised = percentUsed(usage.promised + bytes, usage.size);
    const need = thick ? bytes : bytes / 10;
    const unfitWhy = (): string | null => {
      if (hosts.length > 0 && ways.length === 0) return transport ? 'not reached over that transport' : 'not reached';
      if (poolState(view, pool.id) === 'lost') return 'its data is lost';
      if (left < need) return `only ${formatBytes(left)} left`;
      const limit = pool.subscriptionLimit;
      return limit !== null && promised > limit ? `would promise ${promised} %, its limit is ${limit} %` : misfit(pool);
    };
    const unfit = unfitWhy();
    const [tier] = tiersOf(usage);
    return {
      pool,
      array,
      ways,
      near: hosts.filter((host) => host.site === array.site).length,
      promised,
      says: `${formatBytes(left)} left, promises ${promised} % with this${(busy.get(pool.id) ?? 0) > 1 ? ', its drives are too busy' : ''}`,
      busy: busy.get(pool.id) ?? 0,
      score: null,
      unfit,
      rank: tier ? mediaFigures[tier.media].rank : 99,
    };
  });
  const fitting = offers.flatMap(({ pool, unfit }) => (unfit === null ? [pool] : []));
  const asked = { bytes: thick ? bytes : bytes / 10, iops: 0, rules: [], replica: false };
  const scores = new Map(
    placesFor(view, asked, headroomsOf(view), undefined, fitting).pools.map((one) => [one.id, one]),
  );
  for (const offer of offers) {
    const found = scores.get(offer.pool.id);
    if (!found || found.score === null) continue;
    offer.score = found.score;
    offer.says += `, score ${found.score.toFixed(0)} of 100, ${weakest(found)} weakest`;
  }
  return offers.sort(
    (a, b) =>
      Number(a.unfit !== null) - Number(b.unfit !== null) ||
      Number(a.busy > 1) - Number(b.busy > 1) ||
      Number(a.score === null) - Number(b.score === null) ||
      b.near - a.near ||
      (b.score ?? 0) - (a.score ?? 0) ||
      a.rank - b.rank ||
      a.promised - b.promised ||
      (a.pool.id < b.pool.id ? -1 : 1),
  );
}
