import type { EstateView } from '../estate/estate';
import { pathFinder } from '../attach/paths';
import { byName } from '../operation/draft';
import { driveRef } from '../operation/inquiry';
import { someOf } from '../pool/delete';
import { groupsOf, poolUsage } from '../pool/usage';
import { exactBytes, formatBytes, formatDecimalBytes, percentUsed } from '../units/bytes';
import { levelFigures, widthText } from '../raid/geometry';
import { groupHealth } from '../raid/health';
import { mediaFigures } from '../raid/media';
import { groupsUnder, servingController, volumeState } from '../volume/health';
import { groupLine, plural, reachedLine, type FactLine, type Told } from './facts-lines';

export function arrayFacts(view: EstateView, id: string): Told {
  const array = view.table('array').get(id)!;
  const controllers = [...view.table('controller').by('array', id)].sort(byName);
  const drives = view.table('drive').by('array', id);
  const groups = view.table('raidGroup').by('array', id);
  const pools = [...view.table('pool').by('array', id)].map((pool) => poolUsage(view, pool));
  const total = (of: (usage: (typeof pools)[number]) => number) => pools.reduce((sum, usage) => sum + of(usage), 0);
  const down = controllers.filter((controller) => controller.state === 'down').length;
  return {
    name: array.name,
    post: down === 0 ? 'stands' : down === controllers.length ? 'broken' : 'leans',
    line: `${array.model} at ${view.table('site').get(array.site)?.name}`,
    verbs: [
      { label: 'Carve RAID group', do: 'raid-group.create', params: { array: array.name } },
      { label: 'Make pool', do: 'pool.create', params: { array: array.name } },
      { label: 'Carve volumes', do: 'volume.create', params: { array: array.name } },
      { label: 'Set up port', do: 'port.configure', params: { array: array.name } },
    ],
    cells: [
      {
        title: 'Capacity',
        rows: [
          { label: 'Raw', value: formatDecimalBytes(drives.reduce((sum, drive) => sum + drive.capacity, 0)) },
          { label: 'In RAID groups', value: formatBytes(groups.reduce((sum, group) => sum + group.usable, 0)) },
          {
            label: 'Filled',
            value: `${formatBytes(
              total((usage) => usage.usedBytes),
              'used',
            )}, ${percentUsed(
              total((usage) => usage.used),
              total((usage) => usage.capacity),
            )} %`,
          },
          {
            label: 'Promised',
            value: formatBytes(
              total((usage) => usage.promised),
              'used',
            ),
          },
        ],
      },
      {
        title: 'Stands on',
        lines: controllers.map((controller) => ({
          post: controller.state === 'up' ? 'stands' : 'broken',
          text: `Controller ${controller.name}`,
          more: `owns ${plural(view.table('volume').countBy('owner', controller.id), 'volume')}${controller.state === 'up' ? '' : '; its partner serves them'}`,
        })),
      },
      { title: 'Known as', rows: [{ label: 'Target', value: array.iqn, mono: true }] },
    ],
  };
}

export function driveFacts(view: EstateView, id: string): Told {
  const drive = view.table('drive').get(id)!;
  const array = view.table('array').get(drive.array)!;
  const group = drive.raidGroup ? view.table('raidGroup').get(drive.raidGroup) : undefined;
  const ref = driveRef(view, drive);
  return {
    name: `${array.name} ${ref}`,
    post: drive.state === 'failed' ? 'broken' : drive.state === 'rebuilding' ? 'in work' : 'stands',
    line: `${formatDecimalBytes(drive.capacity)} ${mediaFigures[drive.media].label}, ${group ? `member of ${group.name}` : 'free'}`,
    verbs: group
      ? []
      : [{ label: 'Carve RAID group', do: 'raid-group.create', params: { array: array.name, drives: [ref] } }],
    cells: [
      {
        title: 'Drive',
        rows: [
          { label: 'Serial', value: drive.serial, mono: true },
          { label: 'Sector', value: `${drive.sector} B` },
          { label: 'State', value: drive.state },
        ],
      },
      {
        title: 'Carries',
        lines: group ? [groupLine(view, group.id)] : [{ text: 'Nothing yet. It can join a RAID group.' }],
      },
    ],
  };
}

export function groupFacts(view: EstateView, id: string): Told {
  const group = view.table('raidGroup').get(id)!;
  const array = view.table('array').get(group.array)!;
  const line = groupLine(view, id);
  const pool = group.pool ? view.table('pool').get(group.pool) : undefined;
  const health = groupHealth(view, group);
  return {
    name: group.name,
    post: line.post,
    line: `${levelFigures[group.level].label} ${widthText(group.level, group.drives.length)} on ${array.name}`,
    verbs: pool
      ? [{ label: 'Carve volumes', do: 'volume.create', params: { array: array.name, pool: pool.name } }]
      : [
          { label: 'Make pool', do: 'pool.create', params: { array: array.name, raidGroups: [group.name] } },
          { label: 'Retire', do: 'raid-group.delete', params: { array: array.name, name: group.name } },
        ],
    cells: [
      {
        title: 'Size',
        rows: [
          { label: 'Usable', value: formatBytes(group.usable) },
          { label: 'Each member', value: formatBytes(group.memberSize) },
          { label: 'Chunk', value: exactBytes(group.chunk) },
        ],
      },
      {
        title: 'Rests on',
        lines: [
          {
            text: `${plural(group.drives.length, 'drive')} in ${plural(new Set(group.drives.map((drive) => view.table('drive').get(drive)?.enclosure)).size, 'enclosure')}`,
            more: `it ${line.more}`,
          },
          ...health.failed.map((drive): FactLine => ({
            post: drive.state === 'failed' ? 'broken' : 'in work',
            text: `Drive ${driveRef(view, drive)}`,
            more: drive.state === 'failed' ? 'has failed' : 'rebuilds',
          })),
        ],
      },
      {
        title: 'Carries',
        lines: [
          {
            text: pool
              ? `Pool ${pool.name}, ${plural(view.table('volume').countBy('pool', pool.id), 'volume')}`
              : 'Nothing yet. Make a pool from it.',
          },
        ],
      },
    ],
  };
}

export function poolFacts(view: EstateView, id: string): Told {
  const pool = view.table('pool').get(id)!;
  const array = view.table('array').get(pool.array)!;
  const usage = poolUsage(view, pool);
  const volumes = [...view.table('volume').by('pool', id)].sort(byName);
  const lines = groupsOf(view, id).map((group) => groupLine(view, group.id));
  return {
    name: pool.name,
    post: lines.some((line) => line.post === 'broken')
      ? 'broken'
      : lines.some((line) => line.post === 'leans') || usage.available === 0
        ? 'leans'
        : 'stands',
    line: `${plural(lines.length, 'RAID group')} on ${array.name}, extents of ${exactBytes(pool.extentSize)}`,
    verbs: [
      { label: 'Carve volumes', do: 'volume.create', params: { array: array.name, pool: pool.name } },
      ...(volumes.length === 0
        ? [{ label: 'Retire', do: 'pool.delete', params: { array: array.name, name: pool.name } }]
        : []),
    ],
    cells: [
      {
        title: 'Size',
        rows: [
          { label: 'Capacity', value: formatBytes(usage.size) },
          {
            label: 'Filled',
            value: `${formatBytes(usage.usedBytes, 'used')}, ${percentUsed(usage.used, usage.capacity)} %`,
          },
          { label: 'Left', value: formatBytes(usage.availableBytes) },
          {
            label: 'Promised',
            value: `${formatBytes(usage.promised, 'used')}, ${percentUsed(usage.promised, usage.size)} %`,
          },
          { label: 'In reserve', value: formatBytes(usage.reserve * pool.extentSize, 'used') },
        ],
      },
      { title: 'Rests on', lines },
      {
        title: 'Carries',
        lines: [
          {
            text:
              volumes.length === 0
                ? 'No volume yet. Carve one.'
                : `${plural(volumes.length, 'volume')}: ${someOf(
                    volumes.map((volume) => volume.name),
                    6,
                  )}`,
          },
        ],
      },
    ],
  };
}

export function volumeFacts(view: EstateView, id: string): Told {
  const volume = view.table('volume').get(id)!;
  const array = view.table('array').get(volume.array)!;
  const pool = view.table('pool').get(volume.pool)!;
  const groups = groupsUnder(view, volume);
  const mappings = view.table('mapping').by('volume', id);
  const finder = pathFinder(view);
  const drives = groups.flatMap((group) => view.table('raidGroup').get(group)!.drives);
  const enclosures = new Set(drives.map((drive) => view.table('drive').get(drive)?.enclosure));
  const held = view.occupancy.allocated(id) * pool.extentSize;
  const serving = servingController(view, volume);
  const owner = view.table('controller').get(volume.owner);
  const state = volumeState(view, volume);
  const reached = mappings.map((mapping) => reachedLine(view, finder, mapping.host, volume));
  return {
    name: volume.name,
    post:
      state === 'lost' || reached.some((line) => line.post === 'broken')
        ? 'broken'
        : state === 'degraded' || reached.some((line) => line.post === 'leans')
          ? 'leans'
          : 'stands',
    line: `${volume.provisioning === 'thin' ? 'Thin' : 'Thick'}, in pool ${pool.name} on ${array.name}`,
    verbs: [
      { label: 'Map', do: 'mapping.create', params: { array: array.name, volumes: [volume.name] } },
      ...(mappings[0]
        ? [
            {
              label: 'Unmap',
              do: 'mapping.delete',
              params: {
                host: view.table('host').get(mappings[0].host)!.name,
                array: array.name,
                volumes: [volume.name],
              },
            },
          ]
        : []),
      ...(mappings.length === 0
        ? [{ label: 'Retire', do: 'volume.delete', params: { array: array.name, volumes: [volume.name] } }]
        : []),
    ],
    cells: [
      {
        title: 'Size',
        rows: [
          { label: 'Promised', value: formatBytes(volume.size, 'used') },
          { label: 'Held', value: `${formatBytes(held, 'used')}, ${percentUsed(held, volume.size)} %` },
          { label: 'Written', value: formatBytes(volume.written, 'used') },
          { label: 'Serial', value: volume.serial, mono: true },
          { label: 'NAA', value: volume.naa, mono: true },
        ],
      },
      {
        title: 'Rests on',
        lines: [
          {
            text: `${plural(drives.length, 'drive')} in ${plural(enclosures.size, 'enclosure')}, through ${groups.map((group) => view.table('raidGroup').get(group)!.name).join(', ')}`,
            more:
              held === 0
                ? 'no extent taken yet'
                : `${plural(view.occupancy.allocated(id), 'extent')} in ${plural(view.table('extent').countBy('volume', id), 'run')}`,
          },
          {
            post: owner?.state === 'up' ? 'stands' : 'leans',
            text: `Controller ${owner?.name} owns it`,
            more:
              serving && serving.id !== volume.owner
                ? `${serving.name} serves it now`
                : serving
                  ? ''
                  : 'no controller serves it',
          },
        ],
      },
      { title: 'Reached by', lines: reached.length > 0 ? reached : [{ text: 'No host. Map it to one.' }] },
    ],
  };
}
