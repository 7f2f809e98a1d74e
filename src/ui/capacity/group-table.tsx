'use client';
import type { PoolCapacity } from '@/core/space/capacity';
import type { Waterfall } from '@/core/space/waterfall';
import { ratios } from '@/core/space/waterfall';
import { formatBytes, formatDecimalBytes } from '@/core/units/bytes';
import type { CapacityView } from '../api/client';
import type { Column } from '../table/columns';
import { DataTable } from '../table/data-table';

export const groupings = ['workload', 'volume', 'pool', 'array', 'site', 'media'] as const;
export type Grouping = (typeof groupings)[number];

interface Line {
  key: string;
  name: string;
  where: string;
  fall: Waterfall;
}

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
        .sort((a, b) => b.fall.used - a.fall.used);
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
      <DataTable
        label="By media"
        rows={model.media}
        keyOf={({ media }) => media}
        columns={mediaColumns}
        className="num"
      />
    );
  return (
    <DataTable
      label={`By ${grouping}`}
      rows={linesOf(model, grouping, pool)}
      keyOf={({ key }) => key}
      columns={lineColumns}
      className="num"
    />
  );
}

const parts = ['provisioned', 'written', 'data', 'physical', 'used'] as const;

/** Shown in the unit that suits it; ordered and written away in bytes. */
const partColumn = (part: (typeof parts)[number]): Column<Line> => ({
  head: part.replace(/^./, (letter) => letter.toUpperCase()),
  unit: 'bytes',
  kind: 'number',
  value: ({ fall }) => fall[part],
  cell: ({ fall }) => formatBytes(fall[part], 'used'),
  title: ({ fall }) => partsOf(fall, part),
});

const lineColumns: Column<Line>[] = [
  { head: 'Name', kind: 'name', value: ({ name }) => name },
  { head: 'In', kind: 'muted', value: ({ where }) => where },
  ...parts.map(partColumn),
  {
    head: 'Reduction',
    kind: 'number',
    value: ({ fall }) => ratios(fall).reduction,
    cell: ({ fall }) => ratio(ratios(fall).reduction),
  },
];

const mediaColumns: Column<CapacityView['media'][number]>[] = [
  { head: 'Media', kind: 'name', value: ({ label }) => label },
  { head: 'Drives', kind: 'number', value: ({ drives }) => drives },
  { head: 'Raw', unit: 'bytes', kind: 'number', value: ({ raw }) => raw, cell: ({ raw }) => formatDecimalBytes(raw) },
  {
    head: 'Usable in groups',
    unit: 'bytes',
    kind: 'number',
    value: ({ usable }) => usable,
    cell: ({ usable }) => formatBytes(usable),
  },
  {
    head: 'Used',
    unit: 'bytes',
    kind: 'number',
    value: ({ used }) => used,
    cell: ({ used }) => formatBytes(used, 'used'),
  },
];
