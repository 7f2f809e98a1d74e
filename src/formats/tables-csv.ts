import Papa from 'papaparse';
import type { MutedFinding } from '@/core/check/engine';
import type { CapacityModel } from '@/core/space/capacity';
import { runwayWords } from '@/core/space/forecast';
import type { PoolRunway } from '@/core/space/runway';
import { waterfallParts, type Waterfall } from '@/core/space/waterfall';

/** Tables that can be taken away as CSV; sizes are bytes. */
export const tables = [
  'arrays',
  'sites',
  'pools',
  'volumes',
  'workloads',
  'media',
  'reclaimable',
  'runways',
  'history',
] as const;
export type TableName = (typeof tables)[number];

const fall = (line: Waterfall) => Object.fromEntries(waterfallParts.map((part) => [part, line[part]]));

export function capacityTable(model: CapacityModel & { runways: PoolRunway[] }, table: TableName): string {
  const pools = model.arrays.flatMap((array) => array.pools);
  const poolName = (id: string) => {
    const pool = pools.find((one) => one.id === id);
    return { array: pool?.array ?? '', pool: pool?.name ?? '' };
  };
  const rows: Record<TableName, () => object[]> = {
    arrays: () =>
      model.arrays.map(({ name, site, parts, waterfall }) => ({ array: name, site, ...parts, ...fall(waterfall) })),
    sites: () => model.sites.map(({ name, parts, waterfall }) => ({ site: name, ...parts, ...fall(waterfall) })),
    pools: () =>
      pools.map((pool) => ({
        array: pool.array,
        site: pool.site,
        pool: pool.name,
        media: pool.media.join(' '),
        size: pool.size,
        promised: pool.promised,
        available: pool.available,
        reserve: pool.reserve,
        exposure: pool.exposure,
        ...fall(pool.waterfall),
      })),
    volumes: () =>
      pools.flatMap((pool) =>
        pool.volumes.map((volume) => ({
          array: pool.array,
          pool: pool.name,
          volume: volume.name,
          kept: volume.kept ? 'yes' : 'no',
          ...fall(volume.waterfall),
        })),
      ),
    workloads: () =>
      model.workloads.map((row) => ({ workload: row.name, volumes: row.volumes, ...fall(row.waterfall) })),
    media: () =>
      model.media.map(({ label, drives, raw, usable, used }) => ({ media: label, drives, raw, usable, used })),
    reclaimable: () =>
      model.had.map(({ array, pool, name, what, bytes, why }) => ({ array, pool, volume: name, what, bytes, why })),
    runways: () =>
      model.runways.flatMap((row) =>
        row.marks.map(({ percent, at, answer }) => ({
          ...poolName(row.pool),
          percent,
          at,
          runway: runwayWords(answer),
          days: typeof answer === 'string' || answer.latest === null ? '' : (answer.days ?? ''),
          earliest: typeof answer === 'string' ? '' : (answer.earliest ?? ''),
          latest: typeof answer === 'string' ? '' : (answer.latest ?? ''),
        })),
      ),
    history: () =>
      model.runways.flatMap((row) =>
        row.days.map(({ day, ...rest }) => ({
          ...poolName(row.pool),
          day: new Date(day * 86_400_000).toISOString().slice(0, 10),
          ...rest,
        })),
      ),
  };
  return `${Papa.unparse(rows[table](), { escapeFormulae: true })}\r\n`;
}

export const findingsTable = (found: readonly MutedFinding[]): string =>
  `${Papa.unparse(
    found.map(({ severity, check, subject, says, advice, muted }) => ({
      severity,
      check,
      about: subject.name,
      says,
      advice,
      muted: muted ? muted.reason : '',
    })),
    { escapeFormulae: true },
  )}\r\n`;
