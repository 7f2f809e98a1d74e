import type { Partner } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { formatBytes, type Bytes } from '../units/bytes';
import { dateText } from '../units/date';
import type { Milliseconds } from '../units/duration';
import { notParsed, parsed, type ParseFailure, type Parsed } from '../units/parsed';

/** What the owner of pools lets a peer use: by pool, in all, how many volumes, until when. */
export interface PeerGrant {
  pools: Readonly<Record<string, number>>;
  bytes: number;
  volumes: number;
  notAfter?: Milliseconds | null;
}

/**
 * What would be left of a peer's quota, after a request (protect.md J). Reasons: peer-quota-expired, peer-quota-pool-not-offered,
 * peer-quota-volumes, peer-quota-pool-bytes, peer-quota-bytes.
 */
export function peerQuota({
  grant,
  used,
  request,
}: {
  grant: PeerGrant;
  used: { pools: Readonly<Record<string, number>>; volumes: number };
  request: { pool: string; bytes: number; now: Milliseconds };
}): Parsed<{ leftBytes: number; leftPoolBytes: number }> {
  const { pool, bytes, now } = request;
  if (typeof grant.notAfter === 'number' && now >= grant.notAfter)
    return notParsed('peer-quota-expired', `The quota ended on ${dateText(grant.notAfter)}.`);
  const offered = grant.pools[pool];
  if (offered === undefined) return notParsed('peer-quota-pool-not-offered', `${pool} was not offered to you.`);
  if (used.volumes + 1 > grant.volumes)
    return notParsed('peer-quota-volumes', `${used.volumes} of ${grant.volumes} volumes used.`);
  const usedBytes = Object.values(used.pools).reduce((sum, one) => sum + one, 0);
  const leftPool = offered - (used.pools[pool] ?? 0);
  const left = grant.bytes - usedBytes;
  if (bytes > leftPool)
    return notParsed(
      'peer-quota-pool-bytes',
      `${formatBytes(leftPool)} left in ${pool}, ${formatBytes(bytes)} wanted.`,
    );
  if (bytes > left)
    return notParsed(
      'peer-quota-bytes',
      `${formatBytes(left)} left in all (${formatBytes(usedBytes)} of ${formatBytes(grant.bytes)} used), ${formatBytes(bytes)} wanted.`,
    );
  return parsed({ leftBytes: left - bytes, leftPoolBytes: leftPool - bytes });
}

/** What an array knows of another; undefined where it was never introduced. */
export const partnerAt = (view: EstateView, array: string, peer: string): Partner | undefined =>
  view
    .table('partner')
    .by('array', array)
    .find((row) => row.peer === peer);

/** What the copies of a partner take of an array: promised bytes by pool, and volumes. They count as long as their replication stands. */
export function quotaUsed(view: EstateView, row: Partner): { pools: Record<string, Bytes>; volumes: number } {
  const pools: Record<string, Bytes> = {};
  let volumes = 0;
  for (const { secondaries, primaries } of view.table('replication').values())
    secondaries.forEach((id, k) => {
      const volume = view.table('volume').get(id)!;
      if (volume.array !== row.array || view.table('volume').get(primaries[k]!)!.array !== row.peer) return;
      pools[volume.pool] = (pools[volume.pool] ?? 0) + volume.size;
      volumes++;
    });
  return { pools, volumes };
}

/** What an array lets its partner use; what is not limited in all is limited by its pools. */
export const grantOf = (row: Partner): PeerGrant => ({
  pools: Object.fromEntries(row.offered.map((pool, k) => [pool, row.offeredBytes[k]!])),
  bytes: row.quotaBytes ?? row.offeredBytes.reduce((sum, bytes) => sum + bytes, 0),
  volumes: row.quotaVolumes ?? Infinity,
  notAfter: row.quotaUntil,
});

/** Why the quota of a partner does not let it have volumes of these sizes in a pool; null where it does. `growing`: one that it has grows so much. */
export function quotaMisfit(
  view: EstateView,
  row: Partner,
  {
    pool,
    sizes,
    now,
    growing = false,
  }: { pool: string; sizes: readonly Bytes[]; now: Milliseconds; growing?: boolean },
): ParseFailure | null {
  const used = quotaUsed(view, row);
  const name = (id: string) => view.table('pool').get(id)?.name ?? id;
  const named = (pools: Readonly<Record<string, number>>) =>
    Object.fromEntries(Object.entries(pools).map(([id, bytesOf]) => [name(id), bytesOf]));
  const grant = grantOf(row);
  const result = peerQuota({
    grant: { ...grant, pools: named(grant.pools) },
    // All come together or none: the last is asked for with the others there.
    used: { pools: named(used.pools), volumes: used.volumes + (growing ? -1 : sizes.length - 1) },
    request: { pool: name(pool), bytes: sizes.reduce((sum, size) => sum + size, 0), now },
  });
  return result.ok ? null : result;
}
