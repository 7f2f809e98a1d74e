import type { EstateView } from '../estate/estate';
import { kindWords, type Volume } from '../estate/entities';
import { families } from '../attach/families';
import { mappingOf, pathFinder, pathWords } from '../attach/paths';
import { accessRefusal } from '../attach/sessions';
import { formatAddress } from '../network/ipv4';
import { networkOf } from '../network/reach';
import { byName } from '../operation/draft';
import { driveRef } from '../operation/inquiry';
import { someOf } from '../pool/delete';
import { groupsOf, poolUsage } from '../pool/usage';
import { exactBytes, formatBytes, formatDecimalBytes, percentUsed } from '../units/bytes';
import { formatRate } from '../units/rate';
import { levelFigures, widthText } from '../raid/geometry';
import { groupHealth } from '../raid/health';
import { mediaFigures } from '../raid/media';
import { groupsUnder, servingController, volumeState } from '../volume/health';
import type { Post } from './model';
import type { Selection } from './chain';

/** What the title block says of a selection. */
export interface Facts {
  kind: string;
  name: string;
  post: Post;
  line: string;
  /** Ready-made ways on: an operation with its parameters filled in as far as the selection tells. */
  verbs: { label: string; do: string; params: Record<string, unknown> }[];
  cells: FactCell[];
}
export interface FactCell {
  title: string;
  rows?: { label: string; value: string; mono?: boolean }[];
  lines?: FactLine[];
}
export interface FactLine {
  post?: Post;
  text: string;
  more?: string;
}

const plural = (count: number, one: string, many = `${one}s`): string => `${count} ${count === 1 ? one : many}`;

/** The facts of one thing; the selection must exist. */
export function factsOf(view: EstateView, { kind, id }: Selection): Facts {
  const facts = {
    array: arrayFacts,
    drive: driveFacts,
    raidGroup: groupFacts,
    pool: poolFacts,
    volume: volumeFacts,
    port: portFacts,
    network: networkFacts,
    interface: interfaceFacts,
    host: hostFacts,
  }[kind];
  return { kind: kindWords[kind], ...facts(view, id) };
}
type Told = Omit<Facts, 'kind'>;

function arrayFacts(view: EstateView, id: string): Told {
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

function driveFacts(view: EstateView, id: string): Told {
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

function groupLine(view: EstateView, id: string): { post: Post; text: string; more: string } {
  const group = view.table('raidGroup').get(id)!;
  const health = groupHealth(view, group);
  const post: Post =
    health.state === 'lost'
      ? 'broken'
      : health.state === 'degraded'
        ? 'leans'
        : health.state === 'initialising'
          ? 'in work'
          : 'stands';
  const words =
    health.state === 'lost'
      ? 'has lost more drives than it survives'
      : `survives ${health.tolerates} more lost ${health.tolerates === 1 ? 'drive' : 'drives'}`;
  return {
    post,
    text: `${group.name} ${levelFigures[group.level].label} ${widthText(group.level, group.drives.length)}`,
    more: words,
  };
}

function groupFacts(view: EstateView, id: string): Told {
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

function poolFacts(view: EstateView, id: string): Told {
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

function volumeFacts(view: EstateView, id: string): Told {
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

function reachedLine(
  view: EstateView,
  finder: ReturnType<typeof pathFinder>,
  host: string,
  volume: Volume,
): { post: Post; text: string; more: string } {
  const mapping = mappingOf(view, host, volume.id)!;
  const paths = finder.paths(mapping);
  const device = view
    .table('hostDevice')
    .by('volume', volume.id)
    .find((row) => row.host === host);
  const seen = device
    ? device.mountPoint
      ? `${device.name} at ${device.mountPoint}`
      : `${device.name}${device.fileSystem ? `, ${device.fileSystem} not mounted` : ', blank'}`
    : 'not looked for yet: rescan';
  const why = paths.missing[0]?.message;
  return {
    post: paths.usable === 0 ? 'broken' : paths.usable < paths.expected ? 'leans' : 'stands',
    text: `${view.table('host').get(host)?.name} LUN ${mapping.lun}, ${paths.usable}/${paths.expected}`,
    more: `${pathWords(paths)}; ${seen}${why ? `. Missing: ${why}` : ''}`,
  };
}

function portFacts(view: EstateView, id: string): Told {
  const port = view.table('port').get(id)!;
  const array = view.table('array').get(port.array)!;
  const controller = view.table('controller').get(port.controller)!;
  const finder = pathFinder(view);
  const hosts = [
    ...new Set(
      [...view.table('mapping').values()]
        .filter((mapping) => view.table('volume').get(mapping.volume)!.array === port.array)
        .map((mapping) => mapping.host),
    ),
  ];
  const lines = hosts.flatMap((host): FactLine[] => {
    const { up, missing } = finder.sessions(host, port.array);
    const own = up.filter((session) => session.port === id).length;
    const gaps = missing.filter((gap) => gap.port === id && gap.reason !== 'port-role-off');
    if (own + gaps.length === 0) return [];
    return [
      {
        post: own === 0 ? 'broken' : gaps.length > 0 ? 'leans' : 'stands',
        text: view.table('host').get(host)!.name,
        more: `${plural(own, 'session')}${gaps[0] ? `; ${gaps[0].message}` : ''}`,
      },
    ];
  });
  const role = port.role === 'fc' ? 'Fibre Channel' : port.role === 'iscsi' ? 'iSCSI portal' : 'Ethernet, no role';
  return {
    name: `${array.name} ${port.name}`,
    post: port.state === 'down' || controller.state === 'down' ? 'broken' : 'stands',
    line: `${role}, ${port.speed} Gb/s, on controller ${controller.name}`,
    verbs:
      port.kind === 'ethernet'
        ? [{ label: 'Set up', do: 'port.configure', params: { array: array.name, port: port.name } }]
        : [],
    cells: [
      {
        title: 'Port',
        rows:
          port.kind === 'fc'
            ? [{ label: 'WWPN', value: port.wwpn ?? '–', mono: true }]
            : [
                { label: 'Address', value: port.addresses.map(formatAddress).join(', ') || 'none', mono: true },
                { label: 'MTU', value: String(port.mtu) },
                { label: 'Portal group', value: String(port.portalGroup) },
                {
                  label: 'Network',
                  value: port.addresses[0] ? (networkOf(view, port.addresses[0])?.name ?? 'unknown') : '–',
                },
              ],
      },
      {
        title: 'Logged in',
        lines:
          lines.length > 0
            ? lines
            : [
                {
                  text:
                    port.role === 'iscsi'
                      ? 'Nobody yet.'
                      : port.role === 'fc'
                        ? 'Fabrics are not part of this estate yet.'
                        : 'Give it the iSCSI role first.',
                },
              ],
      },
    ],
  };
}

function networkFacts(view: EstateView, id: string): Told {
  const network = view.table('network').get(id)!;
  const portals = [...view.table('port').values()].filter((port) =>
    port.addresses.some((address) => networkOf(view, address)?.id === id),
  );
  const interfaces = [...view.table('interface').values()].filter((row) =>
    row.addresses.some((address) => networkOf(view, address)?.id === id),
  );
  const odd = [...portals, ...interfaces].filter((row) => row.mtu !== network.mtu);
  return {
    name: network.name,
    post: network.state === 'up' ? 'stands' : 'broken',
    line: `${network.cidr} at ${view.table('site').get(network.site)?.name}`,
    verbs: [],
    cells: [
      {
        title: 'Network',
        rows: [
          { label: 'Subnet', value: network.cidr, mono: true },
          { label: 'MTU', value: String(network.mtu) },
          { label: 'Portals', value: String(portals.length) },
          { label: 'Interfaces', value: String(interfaces.length) },
        ],
      },
      {
        title: 'Frame sizes',
        lines:
          odd.length === 0
            ? [{ post: 'stands', text: 'All ends agree.' }]
            : odd.slice(0, 5).map((row): FactLine => ({ post: 'leans', text: row.name, more: `sends ${row.mtu}` })),
      },
    ],
  };
}

function interfaceFacts(view: EstateView, id: string): Told {
  const row = view.table('interface').get(id)!;
  const host = view.table('host').get(row.host)!;
  return {
    name: `${host.name} ${row.name}`,
    post: row.state === 'up' ? 'stands' : 'broken',
    line: `Interface of ${host.name}`,
    verbs: [],
    cells: [
      {
        title: 'Interface',
        rows: [
          { label: 'Address', value: row.addresses.map(formatAddress).join(', ') || 'none', mono: true },
          { label: 'MTU', value: String(row.mtu) },
          { label: 'Network', value: row.addresses[0] ? (networkOf(view, row.addresses[0])?.name ?? 'unknown') : '–' },
        ],
      },
    ],
  };
}

function hostFacts(view: EstateView, id: string): Told {
  const host = view.table('host').get(id)!;
  const finder = pathFinder(view);
  const mappings = [...view.table('mapping').by('host', id)].sort((a, b) => a.lun - b.lun);
  const devices = [...view.table('hostDevice').by('host', id)].sort(byName);
  const access = accessRefusal(view, host);
  const unseen = mappings.filter((mapping) => !devices.some((device) => device.volume === mapping.volume));
  const lines = mappings.map((mapping) => {
    const line = reachedLine(view, finder, id, view.table('volume').get(mapping.volume)!);
    return {
      ...line,
      text: `${view.table('volume').get(mapping.volume)!.name} ${line.text.slice(host.name.length + 1)}`,
    };
  });
  const initiators = view.table('initiator').by('host', id);
  const blank = devices.find((device) => !device.fileSystem);
  const mounted = devices.find((device) => device.mountPoint);
  return {
    name: host.name,
    post: lines.some((line) => line.post === 'broken')
      ? 'broken'
      : lines.some((line) => line.post === 'leans')
        ? 'leans'
        : 'stands',
    line: `${families[host.os].label} at ${view.table('site').get(host.site)?.name}${host.cluster ? `, cluster ${view.table('cluster').get(host.cluster)?.name}` : ''}`,
    verbs: [
      { label: 'Map volumes', do: 'mapping.create', params: { host: host.name } },
      { label: 'Rescan', do: 'host.rescan', params: { host: host.name } },
      ...(devices.length > 0
        ? [
            {
              label: 'Format',
              do: 'host-device.format',
              params: { host: host.name, ...(blank ? { device: blank.name } : {}) },
            },
          ]
        : []),
      ...(mounted
        ? [{ label: 'Unmount', do: 'host-device.unmount', params: { host: host.name, device: mounted.name } }]
        : []),
      ...(mappings.length > 0
        ? [{ label: 'Unmap', do: 'mapping.delete', params: { host: host.name } }]
        : [{ label: 'Retire', do: 'host.delete', params: { host: host.name } }]),
    ],
    cells: [
      {
        title: 'Known as',
        rows:
          initiators.length > 0
            ? initiators.map((row) => ({ label: 'Initiator', value: row.name, mono: true }))
            : [{ label: 'Initiator', value: 'none' }],
        lines: access ? [{ post: 'broken', text: access.message }] : [],
      },
      {
        title: 'Sees',
        lines:
          lines.length === 0
            ? [{ text: 'Nothing is mapped. Map volumes.' }]
            : [
                ...(unseen.length > 0
                  ? [
                      {
                        post: 'leans' as Post,
                        text: `${plural(unseen.length, 'volume')} mapped, not looked for yet`,
                        more: 'rescan',
                      },
                    ]
                  : []),
                ...lines,
              ],
      },
      {
        title: 'Writes',
        lines: devices
          .filter((device) => device.mountPoint)
          .map((device) => ({
            text: device.mountPoint!,
            more: `${formatBytes(device.used, 'used')} of ${formatBytes(device.size)}, ${formatRate(device.writeRate)}`,
          })),
      },
    ],
  };
}
