import { formatBytes } from '../units/bytes';
import { notParsed, parsed, type Parsed } from '../units/parsed';

/** What a consumer may take: provisioned bytes in all, volumes, and bytes of single pools. */
export interface Quota {
  bytes: number;
  volumes?: number | null;
  pools?: Readonly<Record<string, number>> | null;
}

const own = (of: Readonly<Record<string, number>>, key: string): number => (Object.hasOwn(of, key) ? of[key]! : 0);
const amount = (bytes: number): string => formatBytes(Math.max(0, Math.round(bytes)));

/**
 * What is left of an allotment after a request, which is granted wholly or not at all; a volume for each entry (move.md G). Bytes provisioned.
 * Reasons: allotment-volumes, allotment-pool, allotment-total. `nameOf` calls a pool by its name in a refusal.
 */
export function allotmentRoom({
  quota,
  usage,
  request,
  nameOf = (pool) => pool,
}: {
  quota: Quota;
  usage: { volumes: number; pools: Readonly<Record<string, number>> };
  request: readonly { pool: string; bytes: number }[];
  nameOf?: (pool: string) => string;
}): Parsed<{ leftBytes: number }> {
  const volumes = quota.volumes ?? null;
  if (volumes !== null && usage.volumes + request.length > volumes)
    return notParsed('allotment-volumes', `${volumes} volumes allowed, ${usage.volumes} used.`);
  const pools = quota.pools ?? {};
  const taken = new Map<string, number>();
  for (const { pool, bytes } of request) {
    const before = own(usage.pools, pool) + (taken.get(pool) ?? 0);
    if (Object.hasOwn(pools, pool) && before + bytes > pools[pool]!)
      return notParsed(
        'allotment-pool',
        `${nameOf(pool)}: ${amount(pools[pool]! - before)} left, ${amount(bytes)} wanted.`,
      );
    taken.set(pool, (taken.get(pool) ?? 0) + bytes);
  }
  const used = Object.values(usage.pools).reduce((sum, bytes) => sum + bytes, 0);
  const asked = request.reduce((sum, { bytes }) => sum + bytes, 0);
  const left = quota.bytes - used - asked;
  if (left < 0)
    return notParsed('allotment-total', `${amount(quota.bytes - used)} left over all pools, ${amount(asked)} wanted.`);
  return parsed({ leftBytes: left });
}
