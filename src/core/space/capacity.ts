import { isOwn, ownArrays } from '../estate/own';
import { servesOthers } from '../moving/fitness';
import type { EstateView } from '../estate/estate';
import { arrayOf, poolOf, siteOf, workloadOf } from '../estate/relations';
import type { ArrayRow, MediaClass, Pool } from '../estate/entities';
import { byName } from '../operation/draft';
import { groupsOf, mediaOf, poolExposure, poolUsage, tiersOf } from '../pool/usage';
import { mediaFigures } from '../raid/media';
import { reclaimable } from '../volume/reclaim';
import { bytesFreed } from '../volume/delete';
import type { Bytes } from '../units/bytes';
import { whole, type InParts } from '../units/in-parts';
import { addWaterfall, emptyWaterfall, poolWaterfall, ratios, type Waterfall } from './waterfall';

/** From the drives' labels to what may be given out: raw = overhead + spares + free drives + usable. */
export interface RawParts {
  raw: Bytes;
  /** Parity, copies, reserves on drives, larger members' rest, spare space inside groups. */
  overhead: Bytes;
  spares: Bytes;
  /** Drives that are in no group. */
  unassigned: Bytes;
  usable: Bytes;
  /** Of the usable bytes: in groups that carry no pool yet, and below one extent. */
  unpooled: Bytes;
}

/** What can be had back, and how. */
export interface Had {
  what: 'reclaimable' | 'unmapped' | 'orphaned' | 'kept' | 'over-allocated';
  volume: string;
  name: string;
  array: string;
  pool: string;
  bytes: Bytes;
  why: string;
  /** The operation that would bring it back. */
  mend: { label: string; do: string; params: Record<string, unknown> };
}

export interface PoolCapacity {
  id: string;
  name: string;
  array: string;
  site: string;
  media: MediaClass[];
  size: Bytes;
  used: Bytes;
  promised: Bytes;
  available: Bytes;
  reserve: Bytes;
  /** What would not fit if hosts filled all thin volumes. */
  exposure: Bytes;
  /** Usable bytes that a drive more of its kind would bring. */
  perDrive: Bytes;
  notice: number;
  urgent: number;
  waterfall: Waterfall;
  ratios: ReturnType<typeof ratios>;
  volumes: { id: string; name: string; workload: string | null; kept: boolean; waterfall: Waterfall }[];
}

export interface ArrayCapacity {
  id: string;
  name: string;
  site: string;
  parts: RawParts;
  waterfall: Waterfall;
  pools: PoolCapacity[];
}

export interface CapacityModel {
  arrays: ArrayCapacity[];
  sites: { name: string; parts: RawParts; waterfall: Waterfall }[];
  workloads: { id: string | null; name: string; volumes: number; waterfall: Waterfall }[];
  media: { media: MediaClass; label: string; drives: number; raw: Bytes; usable: Bytes; used: Bytes }[];
  had: Had[];
}

/** A volume whose extents hold far more than its file systems use is over-allocated from here on. */
const OVER_ALLOCATED = 1.5;

/** Everything the Capacity view draws, computed from the estate. */
export const capacityModel = (view: EstateView): CapacityModel => whole(capacityInParts(view));

/** The same, pausing after each pool and each hundred volumes. */
export function* capacityInParts(view: EstateView): InParts<CapacityModel> {
  const arrays: ArrayCapacity[] = [];
  for (const array of ownArrays(view).sort(byName)) arrays.push(yield* arrayCapacity(view, array));
  const sites = new Map<string, { name: string; parts: RawParts; waterfall: Waterfall }>();
  const workloads = new Map<string | null, CapacityModel['workloads'][number]>();
  for (const array of arrays) {
    const site = sites.get(array.site) ?? { name: array.site, parts: noParts(), waterfall: emptyWaterfall() };
    sites.set(array.site, site);
    for (const part of Object.keys(site.parts) as (keyof RawParts)[]) site.parts[part] += array.parts[part];
    addWaterfall(site.waterfall, array.waterfall);
    for (const pool of array.pools)
      for (const volume of pool.volumes) {
        const row = workloads.get(volume.workload) ?? {
          id: volume.workload,
          name: volume.workload ? (workloadOf(view, volume)?.name ?? '') : 'In no workload',
          volumes: 0,
          waterfall: emptyWaterfall(),
        };
        workloads.set(volume.workload, row);
        row.volumes += 1;
        addWaterfall(row.waterfall, volume.waterfall);
      }
  }
  return {
    arrays,
    sites: [...sites.values()],
    workloads: [...workloads.values()].sort((a, b) => Number(a.id === null) - Number(b.id === null) || byName(a, b)),
    media: mediaTable(view),
    had: yield* hadInParts(view),
  };
}

const noParts = (): RawParts => ({ raw: 0, overhead: 0, spares: 0, unassigned: 0, usable: 0, unpooled: 0 });

function* arrayCapacity(view: EstateView, array: ArrayRow): InParts<ArrayCapacity> {
  const parts = noParts();
  for (const drive of view.table('drive').by('array', array.id)) {
    parts.raw += drive.capacity;
    if (drive.raidGroup) continue;
    if (drive.spare === 'no') parts.unassigned += drive.capacity;
    else parts.spares += drive.capacity;
  }
  for (const group of view.table('raidGroup').by('array', array.id)) {
    parts.usable += group.usable;
    const pool = poolOf(view, group);
    parts.unpooled += pool ? group.usable % pool.extentSize : group.usable;
  }
  parts.overhead = parts.raw - parts.spares - parts.unassigned - parts.usable;
  const site = siteOf(view, array).name;
  const pools: PoolCapacity[] = [];
  for (const pool of [...view.table('pool').by('array', array.id)].sort(byName)) {
    pools.push(poolCapacity(view, pool, array.name, site));
    yield undefined;
  }
  const waterfall = emptyWaterfall();
  for (const pool of pools) addWaterfall(waterfall, pool.waterfall);
  return { id: array.id, name: array.name, site, parts, waterfall, pools };
}

function poolCapacity(view: EstateView, pool: Pool, array: string, site: string): PoolCapacity {
  const usage = poolUsage(view, pool);
  const { total, volumes } = poolWaterfall(view, pool);
  const rows = [...view.table('volume').by('pool', pool.id)].sort(byName);
  const drives = usage.groups.reduce((sum, one) => sum + one.group.drives.length, 0);
  return {
    id: pool.id,
    name: pool.name,
    array,
    site,
    media: tiersOf(usage).map((tier) => tier.media),
    size: usage.size,
    used: usage.usedBytes,
    promised: usage.promised,
    available: usage.availableBytes,
    reserve: usage.reserveBytes,
    exposure: poolExposure(view, pool, usage),
    perDrive: drives === 0 ? 0 : Math.floor(usage.groups.reduce((sum, one) => sum + one.group.usable, 0) / drives),
    notice: pool.notice,
    urgent: pool.urgent,
    waterfall: total,
    ratios: ratios(total),
    volumes: rows.map((volume) => ({
      id: volume.id,
      name: volume.name,
      workload: volume.workload,
      kept: volume.deletedAt !== null,
      waterfall: volumes.get(volume.id)!,
    })),
  };
}

function mediaTable(view: EstateView): CapacityModel['media'] {
  const rows = new Map<MediaClass, CapacityModel['media'][number]>();
  const rowOf = (media: MediaClass) => {
    const row = rows.get(media) ?? { media, label: mediaFigures[media].label, drives: 0, raw: 0, usable: 0, used: 0 };
    rows.set(media, row);
    return row;
  };
  for (const drive of view.table('drive').values()) {
    if (!isOwn(view, drive)) continue;
    rowOf(drive.media).drives += 1;
    rowOf(drive.media).raw += drive.capacity;
  }
  for (const group of view.table('raidGroup').values())
    if (isOwn(view, group)) rowOf(mediaOf(view, group)).usable += group.usable;
  for (const pool of view.table('pool').values())
    for (const group of isOwn(view, pool) ? groupsOf(view, pool.id) : [])
      rowOf(mediaOf(view, group)).used += view.occupancy.used(group.id) * pool.extentSize;
  return [...rows.values()].sort((a, b) => mediaFigures[a.media].rank - mediaFigures[b.media].rank);
}

/** What can be had back, the most first. */
function* hadInParts(view: EstateView): InParts<Had[]> {
  const found: Had[] = [];
  let looked = 0;
  for (const volume of view.table('volume').values()) {
    if (++looked % 100 === 0) yield undefined;
    const array = arrayOf(view, volume).name;
    const pool = poolOf(view, volume);
    const add = (
      what: Had['what'],
      bytes: Bytes,
      why: string,
      label: string,
      kind: string,
      more: Record<string, unknown> = {},
    ) => {
      if (bytes > 0)
        found.push({
          what,
          volume: volume.id,
          name: volume.name,
          array,
          pool: pool.name,
          bytes,
          why,
          mend: { label, do: kind, params: { array, volumes: [volume.name], ...more } },
        });
    };
    if (volume.deletedAt !== null) {
      add('kept', bytesFreed(view, [volume]), 'retired, and kept until its time is up', 'Give up', 'volume.purge');
      continue;
    }
    add(
      'reclaimable',
      reclaimable(view, volume),
      'freed by its file system, still mapped',
      'Reclaim',
      'volume.reclaim',
    );
    const held = view.occupancy.allocated(volume.id) * pool.extentSize;
    const mappings = view.table('mapping').countBy('volume', volume.id);
    if (mappings === 0 && servesOthers(view, volume.id)) continue;
    if (mappings === 0 && (held > 0 || volume.reducedTo > 0))
      add(
        volume.writtenAt === null ? 'unmapped' : 'orphaned',
        bytesFreed(view, [volume]),
        volume.writtenAt === null ? 'no host sees it, and none ever wrote to it' : 'no host sees it any more',
        'Retire',
        'volume.delete',
      );
    else if (volume.provisioning === 'thick' && held > OVER_ALLOCATED * Math.max(volume.written, pool.extentSize))
      add(
        'over-allocated',
        held - volume.written,
        'thick, and little of it is written',
        'Make thin',
        'volume.convert',
        { to: 'thin' },
      );
  }
  return found.sort((a, b) => b.bytes - a.bytes);
}
