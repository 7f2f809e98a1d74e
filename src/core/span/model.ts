import type { ArrayRow, Drive, HostInterface, IpAddress, Port, RaidLevel } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { pathFinder, type PathFinder } from '../attach/paths';
import { families } from '../attach/families';
import { formOf } from '../naming/diagnose';
import { shortWwn } from '../naming/wwn';
import { formatAddress } from '../network/address';
import { networkFinder } from '../network/reach';
import { faults, type Fault } from '../lab/faults';
import { byName } from '../operation/draft';
import { poolState, poolUsage } from '../pool/usage';
import { levelText, shapeOfGroup, sketchOf } from '../raid/geometry';
import { groupHealth } from '../raid/health';
import { unfit } from '../raid/members';
import { mediaFigures } from '../raid/media';
import { formatDecimalBytes, type Bytes } from '../units/bytes';
import { volumeHealth } from '../volume/health';

/** How a thing stands, in the drawing's words. */
export type Post = 'stands' | 'leans' | 'broken' | 'in work' | 'absent';

export interface SpanDrive {
  id: string;
  slot: number;
  post: Post;
  /** The RAID group it belongs to. */
  group: string | null;
  spare: boolean;
  /** Its lamp blinks. */
  located: boolean;
}
export interface SpanEnclosure {
  id: string;
  number: number;
  label: string;
  flash: boolean;
  slots: number;
  drives: SpanDrive[];
  brackets: { group: string; name: string; from: number; to: number }[];
  free: number;
}
export interface SpanGroup {
  id: string;
  name: string;
  level: RaidLevel;
  label: string;
  data: number;
  redundancy: number;
  mirror: boolean;
  usable: Bytes;
  post: Post;
  pool: string | null;
  enclosures: string[];
  job: { kind: string; startedAt: number; finishesAt: number } | null;
}
export interface SpanPool {
  id: string;
  name: string;
  /** No pool, but the room of a RAID group from which volumes are carved straight. */
  direct: boolean;
  post: Post;
  size: Bytes;
  used: Bytes;
  promised: Bytes;
  available: Bytes;
  /** Shares of the size, 0 to 1; promised may be more. */
  filled: number;
  subscribed: number;
}
export interface SpanVolume {
  id: string;
  name: string;
  pool: string;
  size: Bytes;
  /** Bytes of extents it holds, and bytes hosts have written. */
  held: Bytes;
  written: Bytes;
  thin: boolean;
  post: Post;
  hosts: number;
  paths: { usable: number; expected: number };
}
/** FC, iSCSI, NVMe/TCP. */
export type ProtocolTag = 'FC' | 'IS' | 'NV' | '';
export interface SpanPort {
  id: string;
  name: string;
  tag: ProtocolTag;
  speed: number;
  address: string;
  post: Post;
  logins: number;
  networks: string[];
}
export interface SpanArray {
  id: string;
  name: string;
  site: string;
  model: string;
  post: Post;
  controllers: { id: string; name: string; up: boolean }[];
  drives: number;
  raw: Bytes;
  enclosures: SpanEnclosure[];
  groups: SpanGroup[];
  pools: SpanPool[];
  volumes: SpanVolume[];
  ports: SpanPort[];
}
export interface SpanHost {
  id: string;
  name: string;
  site: string;
  cluster: string | null;
  os: string;
  post: Post;
  paths: { usable: number; expected: number };
  mapped: number;
  devices: number;
  mounted: number;
  tags: ProtocolTag[];
  interfaces: { id: string; name: string; address: string; post: Post; fc: boolean; networks: string[] }[];
}
/** What lies between ports and hosts: a network, or a fabric. */
export interface SpanNetwork {
  id: string;
  kind: 'network' | 'fabric';
  name: string;
  /** `10.40.1.0/24`, or `2 switches`. */
  detail: string;
  mtu: number | null;
  tags: ProtocolTag[];
  post: Post;
  members: number;
}
export interface SpanModel {
  arrays: SpanArray[];
  networks: SpanNetwork[];
  hosts: SpanHost[];
  totals: {
    drives: number;
    raidGroups: number;
    pools: number;
    volumes: number;
    ports: number;
    networks: number;
    hosts: number;
    raw: Bytes;
    usable: Bytes;
    used: Bytes;
    promised: Bytes;
    available: Bytes;
  };
  faults: Fault[];
}

const worst = (posts: Iterable<Post>): Post => {
  let found: Post = 'stands';
  for (const post of posts) {
    if (post === 'broken') return post;
    if (post === 'leans') found = post;
    else if (post === 'in work' && found === 'stands') found = post;
  }
  return found;
};

/** Everything the Span view draws, computed from the estate: no figure of it is stored. */
export function spanModel(view: EstateView): SpanModel {
  const finder = pathFinder(view);
  const networks = [...view.table('network').values()].sort(byName);
  const networkAt = networkFinder(view);
  const networksOf = (addresses: readonly IpAddress[]) => [
    ...new Set(addresses.flatMap((address) => networkAt(address)?.id ?? [])),
  ];
  const logins = loginsByPort(view, finder);
  const arrays = [...view.table('array').values()]
    .sort(byName)
    .map((array) => arrayModel(view, finder, array, networksOf, logins));
  const hosts = hostModels(view, finder, networksOf);
  const members = new Map<string, number>();
  for (const host of hosts)
    for (const row of host.interfaces)
      for (const network of row.networks) members.set(network, (members.get(network) ?? 0) + 1);
  for (const array of arrays)
    for (const port of array.ports)
      for (const network of port.networks) members.set(network, (members.get(network) ?? 0) + 1);
  const served = new Map<string, Set<ProtocolTag>>();
  for (const array of arrays)
    for (const port of array.ports)
      for (const network of port.networks)
        if (port.tag) served.set(network, (served.get(network) ?? new Set<ProtocolTag>()).add(port.tag));
  const sum = (of: (array: SpanArray) => number) => arrays.reduce((total, array) => total + of(array), 0);
  return {
    arrays,
    networks: [
      ...[...view.table('fabric').values()].sort(byName).map((fabric): SpanNetwork => {
        const switches = view.table('switch').by('fabric', fabric.id);
        const up = switches.filter((row) => row.state === 'up').length;
        return {
          id: fabric.id,
          kind: 'fabric',
          name: fabric.name,
          detail: `${switches.length} ${switches.length === 1 ? 'switch' : 'switches'}`,
          mtu: null,
          tags: ['FC'],
          post: up === switches.length ? 'stands' : up === 0 ? 'broken' : 'leans',
          members: members.get(fabric.id) ?? 0,
        };
      }),
      ...networks.map((network): SpanNetwork => ({
        id: network.id,
        kind: 'network',
        name: network.name,
        detail: network.cidr,
        mtu: network.mtu,
        tags: [...(served.get(network.id) ?? [])],
        post: network.state === 'up' ? 'stands' : 'broken',
        members: members.get(network.id) ?? 0,
      })),
    ],
    hosts,
    totals: {
      drives: view.table('drive').size,
      raidGroups: view.table('raidGroup').size,
      pools: view.table('pool').size,
      volumes: view.table('volume').size,
      ports: view.table('port').size,
      networks: networks.length + view.table('fabric').size,
      hosts: hosts.length,
      raw: sum((array) => array.raw),
      usable: sum((array) => array.groups.reduce((total, group) => total + group.usable, 0)),
      used: sum((array) => array.pools.reduce((total, pool) => total + pool.used, 0)),
      promised: sum((array) => array.pools.reduce((total, pool) => total + pool.promised, 0)),
      available: sum((array) => array.pools.reduce((total, pool) => total + pool.available, 0)),
    },
    faults: faults(view),
  };
}

/** Volumes of an array that are not retired, by name. */
const inUse = (view: EstateView, array: string) =>
  view
    .table('volume')
    .by('array', array)
    .filter((volume) => volume.deletedAt === null)
    .sort(byName);

function loginsByPort(view: EstateView, finder: PathFinder): Map<string, number> {
  const logins = new Map<string, number>();
  const seen = new Set<string>();
  for (const mapping of view.table('mapping').values()) {
    const array = view.table('volume').get(mapping.volume)!.array;
    const key = `${mapping.host} ${array}`;
    if (seen.has(key)) continue;
    seen.add(key);
    for (const session of finder.sessions(mapping.host, array).up)
      logins.set(session.port, (logins.get(session.port) ?? 0) + 1);
  }
  return logins;
}

function arrayModel(
  view: EstateView,
  finder: PathFinder,
  array: ArrayRow,
  networksOf: (addresses: readonly IpAddress[]) => string[],
  logins: Map<string, number>,
): SpanArray {
  const stateOf = volumeHealth(view);
  const drives = view.table('drive').by('array', array.id);
  const groups = [...view.table('raidGroup').by('array', array.id)].sort(byName);
  const groupNames = new Map(groups.map((group) => [group.id, group.name]));
  const controllers = [...view.table('controller').by('array', array.id)].sort(byName);
  const down = new Set(
    controllers.filter((controller) => controller.state === 'down').map((controller) => controller.id),
  );

  const enclosures = [...view.table('enclosure').by('array', array.id)]
    .sort((a, b) => a.number - b.number)
    .map((enclosure): SpanEnclosure => {
      const own = [...view.table('drive').by('enclosure', enclosure.id)].sort((a, b) => a.slot - b.slot);
      const first = own[0];
      return {
        id: enclosure.id,
        number: enclosure.number,
        slots: enclosure.slots,
        flash: first ? mediaFigures[first.media].flash : false,
        label: first ? `${formatDecimalBytes(first.capacity)} ${mediaFigures[first.media].label}` : 'empty',
        drives: own.map((drive) => ({
          id: drive.id,
          slot: drive.slot,
          group: drive.raidGroup,
          post: drivePost(drive, enclosure),
          spare: drive.spare !== 'no',
          located: drive.located,
        })),
        brackets: brackets(own, groupNames),
        free: own.filter((drive) => !unfit(view, drive)).length,
      };
    });

  return {
    id: array.id,
    name: array.name,
    site: view.table('site').get(array.site)?.name ?? '',
    model: array.model,
    post: down.size === 0 ? 'stands' : down.size === controllers.length ? 'broken' : 'leans',
    controllers: controllers.map((controller) => ({
      id: controller.id,
      name: controller.name,
      up: controller.state === 'up',
    })),
    drives: drives.length,
    raw: drives.reduce((sum, drive) => sum + drive.capacity, 0),
    enclosures,
    groups: groups.map((group): SpanGroup => {
      const health = groupHealth(view, group);
      const job = view.table('job').by('raidGroup', group.id)[0];
      const shape = shapeOfGroup(group);
      const sketch = sketchOf(shape);
      return {
        id: group.id,
        name: group.name,
        level: group.level,
        label: levelText(shape),
        data: sketch.data,
        redundancy: sketch.parity,
        mirror: sketch.mirror,
        usable: group.usable,
        post:
          health.state === 'lost'
            ? 'broken'
            : health.state === 'degraded'
              ? 'leans'
              : health.state === 'initialising'
                ? 'in work'
                : 'stands',
        pool: group.pool,
        enclosures: [...new Set(group.drives.flatMap((id) => view.table('drive').get(id)?.enclosure ?? []))],
        job: job && !job.paused ? { kind: job.kind, startedAt: job.startedAt, finishesAt: job.finishesAt } : null,
      };
    }),
    pools: [...view.table('pool').by('array', array.id)].sort(byName).map((pool): SpanPool => {
      const usage = poolUsage(view, pool);
      const state = poolState(view, pool.id);
      return {
        id: pool.id,
        name: pool.name,
        post: state === 'lost' ? 'broken' : state === 'degraded' || usage.available === 0 ? 'leans' : 'stands',
        direct: pool.direct,
        size: usage.size,
        used: usage.usedBytes,
        promised: usage.promised,
        available: usage.availableBytes,
        filled: usage.capacity === 0 ? 0 : usage.used / usage.capacity,
        subscribed: usage.size === 0 ? 0 : usage.promised / usage.size,
      };
    }),
    volumes: inUse(view, array.id).map((volume): SpanVolume => {
      const state = stateOf(volume);
      const paths = { usable: 0, expected: 0 };
      const mappings = view.table('mapping').by('volume', volume.id);
      for (const mapping of mappings) {
        const count = finder.count(mapping);
        paths.usable += count.usable;
        paths.expected += count.expected;
      }
      const extentSize = view.table('pool').get(volume.pool)?.extentSize ?? 0;
      const short = mappings.length > 0 && (paths.usable < paths.expected || paths.usable === 0);
      return {
        id: volume.id,
        name: volume.name,
        pool: volume.pool,
        size: volume.size,
        held: view.occupancy.allocated(volume.id) * extentSize,
        written: volume.written,
        thin: volume.provisioning === 'thin',
        post:
          state === 'lost' || (mappings.length > 0 && paths.usable === 0)
            ? 'broken'
            : state === 'degraded' || short
              ? 'leans'
              : 'stands',
        hosts: new Set(mappings.map((mapping) => mapping.host)).size,
        paths,
      };
    }),
    ports: [...view.table('port').by('array', array.id)].sort(byName).map((port) => ({
      id: port.id,
      name: port.name,
      tag: protocolTags[port.role],
      speed: port.speed,
      address: port.kind === 'fc' ? shortWwn(port.wwpn ?? '') : port.addresses.map(formatAddress).join(', '),
      post: port.state === 'down' || down.has(port.controller) ? 'broken' : 'stands',
      logins: logins.get(port.id) ?? 0,
      networks: port.kind === 'fc' ? fabricOf(view, port.switch) : networksOf(port.addresses),
    })),
  };
}

/** How a drive stands: one that expects to fail leans, one whose enclosure does not answer is broken with it. */
export function drivePost(drive: Drive, enclosure: { state: string } | undefined): Post {
  if (drive.state === 'missing') return 'absent';
  if (drive.state === 'failed' || enclosure?.state === 'down') return 'broken';
  if (drive.state === 'rebuilding') return 'in work';
  return drive.state === 'predicted' ? 'leans' : 'stands';
}

/** Runs of neighbouring slots that belong to one group. */
function brackets(
  drives: readonly { slot: number; raidGroup: string | null }[],
  names: Map<string, string>,
): SpanEnclosure['brackets'] {
  const found: SpanEnclosure['brackets'] = [];
  for (const { slot, raidGroup } of drives) {
    if (!raidGroup) continue;
    const last = found.at(-1);
    if (last && last.group === raidGroup && last.to === slot - 1) last.to = slot;
    else found.push({ group: raidGroup, name: names.get(raidGroup) ?? '', from: slot, to: slot });
  }
  return found;
}

const protocolTags: Record<Port['role'], ProtocolTag> = { none: '', fc: 'FC', iscsi: 'IS', 'nvme-tcp': 'NV' };

/** The fabric a cable leads into. */
function fabricOf(view: EstateView, id: string | null): string[] {
  const found = id === null ? undefined : view.table('switch').get(id);
  return found ? [found.fabric] : [];
}

/** Protocols a host speaks: by the names it is on record with, and the ports it has. */
function tagsOf(view: EstateView, host: string, interfaces: readonly HostInterface[]): ProtocolTag[] {
  const forms = new Set(
    view
      .table('initiator')
      .by('host', host)
      .map((row) => formOf(row.name)),
  );
  const tags: ProtocolTag[] = [];
  if (forms.has('wwn') || interfaces.some((row) => row.kind === 'fc')) tags.push('FC');
  if (forms.has('iscsi')) tags.push('IS');
  if (forms.has('nqn')) tags.push('NV');
  return tags;
}

function hostModels(
  view: EstateView,
  finder: PathFinder,
  networksOf: (addresses: readonly IpAddress[]) => string[],
): SpanHost[] {
  return [...view.table('host').values()].sort(byName).map((host) => {
    const paths = { usable: 0, expected: 0 };
    const mappings = view.table('mapping').by('host', host.id);
    const posts: Post[] = [];
    for (const mapping of mappings) {
      const count = finder.count(mapping);
      paths.usable += count.usable;
      paths.expected += count.expected;
      posts.push(count.usable === 0 ? 'broken' : count.usable < count.expected ? 'leans' : 'stands');
    }
    const devices = view.table('hostDevice').by('host', host.id);
    const interfaces = [...view.table('interface').by('host', host.id)].sort(byName);
    return {
      id: host.id,
      name: host.name,
      site: view.table('site').get(host.site)?.name ?? '',
      cluster: host.cluster ? (view.table('cluster').get(host.cluster)?.name ?? null) : null,
      os: families[host.os].label,
      post: worst(posts),
      paths,
      mapped: mappings.length,
      devices: devices.length,
      mounted: devices.filter((device) => device.mountPoint).length,
      tags: tagsOf(view, host.id, interfaces),
      interfaces: interfaces.map((row) => ({
        id: row.id,
        name: row.name,
        fc: row.kind === 'fc',
        address: row.kind === 'fc' ? shortWwn(row.wwpn ?? '') : row.addresses.map(formatAddress).join(', '),
        post: row.state === 'up' ? 'stands' : 'broken',
        networks: row.kind === 'fc' ? fabricOf(view, row.switch) : networksOf(row.addresses),
      })),
    };
  });
}
