import { allotmentRoom } from '../classes/allotment';
import type { Allotment, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { Refusal } from '../operation/refusal';
import { subjectOf } from '../operation/refusal';
import { arrayOf } from '../estate/relations';
import { formatBytes, type Bytes } from '../units/bytes';

/** The allotment that a volume was taken from, if any. */
export function allotmentOf(view: EstateView, volume: string): Allotment | undefined {
  const [use] = view.table('allotmentUse').by('volume', volume);
  return use && view.table('allotment').get(use.allotment);
}

/** Volumes that were taken from an allotment. A retired one counts until it is given up, for it can be had back. */
export const takenFrom = (view: EstateView, allotment: string): Volume[] =>
  view
    .table('allotmentUse')
    .by('allotment', allotment)
    .flatMap(({ volume }) => view.table('volume').get(volume) ?? []);

/** What is taken of an allotment, provisioned, by pool. */
export function takenOf(
  view: EstateView,
  allotment: string,
): { volumes: number; bytes: Bytes; pools: Record<string, Bytes> } {
  const pools: Record<string, Bytes> = {};
  const volumes = takenFrom(view, allotment);
  let bytes = 0;
  for (const { pool, size } of volumes) {
    pools[pool] = (pools[pool] ?? 0) + size;
    bytes += size;
  }
  return { volumes: volumes.length, bytes, pools };
}

export const poolName = (view: EstateView, id: string): string => {
  const pool = view.table('pool').get(id);
  return pool ? `${arrayOf(view, pool).name} ${pool.name}` : id;
};

/** Why an allotment has not what is asked of it, or null. What is taken already by volumes that change stands in `less`. */
export function allotmentRefusal(
  view: EstateView,
  allotment: Allotment,
  request: readonly { pool: string; bytes: Bytes }[],
  field: string,
  less: { volumes: number; pools: Readonly<Record<string, Bytes>> } = { volumes: 0, pools: {} },
): Refusal | null {
  const taken = takenOf(view, allotment.id);
  const usage = {
    volumes: taken.volumes - less.volumes,
    pools: Object.fromEntries(
      Object.entries(taken.pools).map(([pool, bytes]) => [pool, bytes - (less.pools[pool] ?? 0)]),
    ),
  };
  const answer = allotmentRoom({
    quota: {
      bytes: allotment.bytes,
      volumes: allotment.volumes,
      pools: Object.fromEntries(allotment.pools.map((pool, k) => [pool, allotment.poolBytes[k] ?? 0])),
    },
    usage,
    request,
    nameOf: (pool) => poolName(view, pool),
  });
  if (answer.ok) return null;
  const rows = Object.entries(usage.pools).map(([pool, bytes]) => `${formatBytes(bytes)} in ${poolName(view, pool)}`);
  const used = Object.values(usage.pools).reduce((sum, bytes) => sum + bytes, 0);
  return {
    code: answer.reason,
    field,
    subject: subjectOf('allotment', allotment),
    message: `${allotment.name}: ${answer.message}`,
    mend: `${formatBytes(used)} of ${formatBytes(allotment.bytes)} are taken${rows.length > 0 ? `: ${rows.join(', ')}` : ''}. Give something back, ask for less, or have the allotment raised.`,
  };
}
