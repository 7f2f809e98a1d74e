'use client';
import type { PoolCapacity } from '@/core/space/capacity';
import type { Waterfall } from '@/core/space/waterfall';
import { ratios } from '@/core/space/waterfall';
import { formatBytes, formatDecimalBytes } from '@/core/units/bytes';
import type { CapacityView } from '../api/client';

export const groupings = ['workload', 'volume', 'pool', 'array', 'site', 'media'] as const;
export type Grouping = (typeof groupings)[number];

interface Line {
  key: string;
  name: string;
  where: string;
  fall: Waterfall;
}

const SHOWN = 200;

function linesOf(model: CapacityView, grouping: Grouping, pool: PoolCapacity | undefined): Line[] {
  const pools = model.arrays.flatMap((array) => array.pools);
  switch (grouping) {
    case 'workload':
      return model.workloads.map((row) => ({
        key: row.id ?? 'none',
        name: row.name,
        where: `${row.volumes} volumes`,
        fall: row.waterfall,
      }));
    case 'volume':
      return (pool?.volumes ?? [])
        .map((volume) => ({
          key: volume.id,
          name: volume.name,
          where: volume.kept ? `${pool!.name}, retired` : pool!.name,
          fall: volume.waterfall,
        }))
        .sort((a, b) => b.fall.used - a.fall.used)
        .slice(0, SHOWN);
    case 'pool':
      return pools.map((pool) => ({ key: pool.id, name: pool.name, where: pool.array, fall: pool.waterfall }));
    case 'array':
      return model.arrays.map((array) => ({
        key: array.id,
        name: array.name,
        where: array.site,
        fall: array.waterfall,
      }));
    case 'site':
      return model.sites.map((site) => ({
        key: site.name,
        name: site.name,
        where: `${formatDecimalBytes(site.parts.raw)} raw`,
        fall: site.waterfall,
      }));
    case 'media':
      return [];
  }
}

/** What a figure is made of, to the byte. */
function partsOf(fall: Waterfall, part: 'provisioned' | 'written' | 'data' | 'physical' | 'used'): string {
  const text = (bytes: number) => formatBytes(bytes, 'used');
  const less = [
    ['zeros', fall.zeros],
    ['shared by clones', fall.cloneSharing],
    ['equal pages', fall.dedupeSaving],
    ['compressed away', fall.compressionSaving],
  ] as const;
  const gone = less.filter(([, bytes]) => bytes > 0).map(([word, bytes]) => ` − ${text(bytes)} ${word}`);
  switch (part) {
    case 'provisioned':
      return `${text(fall.written)} written + ${text(fall.unwritten)} not written yet`;
    case 'written':
      return `${text(fall.provisioned)} provisioned − ${text(fall.unwritten)} not written yet`;
    case 'data':
      return `${text(fall.written)} written${gone.join('')}`;
    case 'physical':
      return `${text(fall.data)} data + ${text(fall.metadata)} metadata + ${text(fall.snapshots)} snapshots`;
    case 'used':
      return `${text(fall.physical)} physical + ${text(fall.slack)} rest of extents`;
  }
}

const ratio = (value: number | null): string => (value === null ? '–' : `${value.toFixed(2)}:1`);

/** The waterfall's lines for each member of a grouping. */
export function GroupTable({
  model,
  grouping,
  pool,
}: {
  model: CapacityView;
  grouping: Grouping;
  /** The pool whose volumes are listed. */
  pool: PoolCapacity | undefined;
}) {
  if (grouping === 'media')
    return (
      <table className="table num" aria-label="By media">
        <thead>
          <tr>
            {['Media', 'Drives', 'Raw', 'Usable in groups', 'Used'].map((head, k) => (
              <th key={head} className={`caps ${k > 0 ? 'right' : ''}`}>
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {model.media.map((row) => (
            <tr key={row.media}>
              <td className="name">{row.label}</td>
              <td className="right">{row.drives}</td>
              <td className="right">{formatDecimalBytes(row.raw)}</td>
              <td className="right">{formatBytes(row.usable)}</td>
              <td className="right">{formatBytes(row.used, 'used')}</td>
            </tr>
          ))}
        </tbody>
      </table>
    );
  const lines = linesOf(model, grouping, pool);
  return (
    <table className="table num" aria-label={`By ${grouping}`}>
      <thead>
        <tr>
          {['Name', 'In', 'Provisioned', 'Written', 'Data', 'Physical', 'Used', 'Reduction'].map((head, k) => (
            <th key={head} className={`caps ${k > 1 ? 'right' : ''}`}>
              {head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {lines.map(({ key, name, where, fall }) => (
          <tr key={key}>
            <td className="name">{name}</td>
            <td className="text-ink2">{where}</td>
            {(['provisioned', 'written', 'data', 'physical', 'used'] as const).map((part) => (
              <td key={part} className="right" title={partsOf(fall, part)}>
                {formatBytes(fall[part], 'used')}
              </td>
            ))}
            <td className="right">{ratio(ratios(fall).reduction)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
