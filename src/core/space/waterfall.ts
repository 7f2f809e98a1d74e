import { reducedStore } from '../content/reduce';
import { bytesIn, within } from '../estate/runs';
import { mappedRuns } from '../content/weave';
import { areaBytes } from '../copies/area';
import type { Pool, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { copiesHolder } from '../estate/occupancy';
import { storeVolumes } from '../pool/store';
import { poolUsage } from '../pool/usage';
import type { Bytes } from '../units/bytes';

/**
 * Where promised bytes go, line by line; every line is the one before less (or plus) a named part, to the byte:
 * provisioned − unwritten = written − zeros = nonZero − cloneSharing − dedupeSaving − compressionSaving = data;
 * data + metadata + snapshots = physical; physical + slack = used.
 */
export interface Waterfall {
  provisioned: Bytes;
  unwritten: Bytes;
  written: Bytes;
  /** Zero pages that are not kept. */
  zeros: Bytes;
  nonZero: Bytes;
  cloneSharing: Bytes;
  dedupeSaving: Bytes;
  deduped: Bytes;
  compressionSaving: Bytes;
  data: Bytes;
  metadata: Bytes;
  snapshots: Bytes;
  physical: Bytes;
  /** Extents taken beyond what lies in them: rounding, and what thick volumes hold unwritten. */
  slack: Bytes;
  used: Bytes;
}

export const waterfallParts = [
  'provisioned',
  'unwritten',
  'written',
  'zeros',
  'nonZero',
  'cloneSharing',
  'dedupeSaving',
  'deduped',
  'compressionSaving',
  'data',
  'metadata',
  'snapshots',
  'physical',
  'slack',
  'used',
] as const satisfies readonly (keyof Waterfall)[];

export const emptyWaterfall = (): Waterfall =>
  Object.fromEntries(waterfallParts.map((part) => [part, 0])) as unknown as Waterfall;

export function addWaterfall(sum: Waterfall, more: Waterfall): void {
  for (const part of waterfallParts) sum[part] += more[part];
}

/** A line of one volume. What several share is counted with the one that held it first, so that volumes add up to their pool. */
function volumeWaterfall(
  view: EstateView,
  volume: Volume,
  extentSize: Bytes,
  reduced: ReturnType<typeof reducedStore>['volumes'][number] | undefined,
): Waterfall {
  const mapped = mappedRuns(volume);
  const written = bytesIn(mapped);
  // A clone holds nothing of its own: all it shows lies with what the copies of its origin keep.
  const cloneSharing = volume.origin === null ? 0 : written;
  const own =
    cloneSharing > 0 ? 0 : volume.reducedTo === 0 ? written : bytesIn(within(mapped, volume.reducedTo, volume.size));
  const zeros = reduced?.zeros ?? 0;
  const nonZero = written - zeros;
  const stored = reduced?.stored ?? 0;
  const deduped = own + stored;
  const data = own + (reduced?.compressed ?? 0);
  const metadata = reduced?.metadata ?? 0;
  const snapshots = areaBytes(view, volume);
  const physical = data + metadata + snapshots;
  const slack =
    (view.occupancy.allocated(volume.id) + view.occupancy.allocated(copiesHolder(volume.id))) * extentSize -
    own -
    snapshots;
  const provisioned = volume.deletedAt === null ? volume.size : written;
  return {
    provisioned,
    unwritten: provisioned - written,
    written,
    zeros,
    nonZero,
    cloneSharing,
    dedupeSaving: nonZero - cloneSharing - deduped,
    deduped,
    compressionSaving: deduped - data,
    data,
    metadata,
    snapshots,
    physical,
    slack,
    used: physical + slack,
  };
}

export interface PoolWaterfall {
  pool: Pool;
  total: Waterfall;
  volumes: Map<string, Waterfall>;
}

/** The waterfall of a pool and of each of its volumes. The pool has one part more: its store's last extent, and whole blocks of metadata. */
export function poolWaterfall(view: EstateView, pool: Pool): PoolWaterfall {
  const store = reducedStore(pool, storeVolumes(view, pool.id));
  const reduced = new Map(store.volumes.map((row) => [row.volume, row]));
  const volumes = new Map<string, Waterfall>();
  const total = emptyWaterfall();
  for (const volume of view.table('volume').by('pool', pool.id)) {
    const line = volumeWaterfall(view, volume, pool.extentSize, reduced.get(volume.id));
    volumes.set(volume.id, line);
    addWaterfall(total, line);
  }
  const rounding = store.metadata - store.volumes.reduce((sum, row) => sum + row.metadata, 0);
  const slack = view.occupancy.allocated(pool.id) * pool.extentSize - store.bytes;
  total.metadata += rounding;
  total.physical += rounding;
  total.slack += slack;
  total.used += rounding + slack;
  return { pool, total, volumes };
}

/** What does not add up, in words; empty when all does. */
export function brokenSums(view: EstateView, { pool, total }: PoolWaterfall): { says: string; by: Bytes }[] {
  const wrong: { says: string; by: Bytes }[] = [];
  const same = (says: string, a: Bytes, b: Bytes) => {
    if (a !== b) wrong.push({ says, by: Math.abs(a - b) });
  };
  same(
    'provisioned and its parts',
    total.provisioned,
    total.unwritten + total.zeros + total.cloneSharing + total.dedupeSaving + total.compressionSaving + total.data,
  );
  same('physical and its parts', total.physical, total.data + total.snapshots + total.metadata);
  same('used and its parts', total.used, total.physical + total.slack);
  same('used and the extents taken', total.used, poolUsage(view, pool).usedBytes);
  return wrong;
}

/** Ratios that sellers and buyers speak of; null where there is nothing to divide. Thin provisioning is told apart. */
export const ratios = (line: Waterfall) => {
  const over = (a: Bytes, b: Bytes) => (b === 0 ? null : a / b);
  return {
    dedupe: over(line.nonZero - line.cloneSharing, line.deduped),
    compression: over(line.deduped, line.data),
    reduction: over(line.nonZero, line.data),
    thin: over(line.provisioned, line.written),
  };
};
