import { deviceAt, shownAs } from '../copies/legs';
import type { Host, HostDevice, Mapping, PathSelector, Transport } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { hostFiles, type HostFiles } from './host-files';
import { arrayOf, targetOf, volumeOf } from '../estate/relations';
import { initiatorForm, initiatorText } from '../attach/initiators';
import { connected, type LetIn } from '../attach/connected';
import { pathFinder, type PathFinder, type PathState } from '../attach/paths';
import { deviceShares, selectorOf, endsOf } from '../attach/selector';
import { discoveredTargets, type OfferedPortal } from '../iscsi/discovery';
import { discover, type Discovered } from '../nvme/discover';
import { identityNames } from '../naming/identity';
import { byName } from '../operation/draft';
import type { NextStep } from '../operation/operation';
import type { Bytes } from '../units/bytes';
import { deviceCourse, type DeviceCourse, type PathsPast, type Standing } from './device-course';
import { mendFor } from './reasons';

export interface DevicePath extends Standing {
  from: string;
  to: string;
  via: string;
  transport: Transport;
  state: PathState | 'missing';
  /** Over NVMe/TCP the ANA group of the namespace, by which each controller tells its state: one a controller that owns volumes. */
  group: number | null;
  /** Of the device's I/O, 0 to 1. */
  share: number;
  /** Why it is missing; empty where it is there. */
  why: string;
}

/** A volume as a host sees it: the device, and every path it has or should have. */
type IdentityName = ReturnType<typeof identityNames>[number];

export interface DeviceLine {
  volume: string;
  array: string;
  lun: number;
  namespace: boolean;
  /** The iSCSI target that alone shows it; empty where the array's own does. */
  target: string;
  size: Bytes;
  /** Null while the host has not looked. */
  device: {
    name: string;
    size: Bytes;
    state: HostDevice['state'];
    initialised: boolean;
    fileSystem: string | null;
    mountPoint: string | null;
    persistent: boolean;
    selector: PathSelector;
    ownSelector: boolean;
  } | null;
  /** Identity on both sides; equal or not. */
  identity: { array: IdentityName[]; host: IdentityName[] | null; equal: boolean };
  found: number;
  expected: number;
  optimized: number;
  paths: DevicePath[];
  /** Whether its I/O flows, waits for a path or fails. */
  io: DeviceCourse['io'];
}

/** Ports of a host and an array, and how many sessions stand of those that should. */
export interface SessionLine {
  array: string;
  transport: Transport;
  up: number;
  expected: number;
  /** What lets the host in there: active zones, being told to log in, or something mapped to it. */
  by: 'zoning' | LetIn | null;
  /** The first reason for what is missing, and its mend. */
  why: string;
  mend: NextStep | null;
}

/** A target as the host finds it, with where it answers. */
export interface OfferedTarget {
  array: string;
  /** Its alias; empty for the main one. */
  alias: string;
  iqn: string;
  by: 'isns' | 'addresses';
  offered: boolean;
  portals: OfferedPortal[];
}

export interface HostView extends HostFiles {
  id: string;
  name: string;
  selector: PathSelector;
  multipath: boolean;
  names: { kind: 'IQN' | 'NQN' | 'WWPN'; name: string }[];
  devices: DeviceLine[];
  sessions: SessionLine[];
  /** What arrays offer it: by iSNS or by asking portals, and by NVMe discovery logs. */
  targets: OfferedTarget[];
  discovery: Discovered;
}

/** A path that changed, as people read it. */
export interface PathEventLine {
  at: number;
  array: string;
  from: string;
  to: string;
  before: string;
  after: string;
  reason: string;
  /** Milliseconds until the host went on by another path; null where it never noticed. */
  noticedAfter: number | null;
}
export interface HostSheet extends HostView {
  events: PathEventLine[];
}

const words = { iscsi: 'IQN', nqn: 'NQN', wwn: 'WWPN' } as const;

/** Everything a host has found and should have found. */
export function hostView(view: EstateView, host: Host, past: PathsPast = { events: [], now: 0 }): HostView {
  const finder = pathFinder(view);
  const mappings = [...view.table('mapping').by('host', host.id)].sort(
    (a, b) => a.lun - b.lun || (a.id < b.id ? -1 : 1),
  );
  const arrays = [...view.table('array').values()].sort(byName);
  return {
    id: host.id,
    name: host.name,
    selector: host.selector,
    multipath: host.multipath,
    ...hostFiles(view, host),
    names: view
      .table('initiator')
      .by('host', host.id)
      .map((row) => ({ kind: words[initiatorForm(row.name)], name: initiatorText(row.name) })),
    devices: mappings.map((mapping) => deviceLine(view, finder, host, mapping, past)),
    sessions: arrays.flatMap((array) => sessionLines(view, finder, host, array.id)),
    targets:
      host.presents === null
        ? []
        : arrays.flatMap((array) =>
            discoveredTargets(view, host, array.id).map(({ target, offered, portals }) => ({
              array: array.name,
              alias: target.main ? '' : target.name,
              iqn: target.iqn,
              by: host.discovery,
              offered,
              portals,
            })),
          ),
    discovery: discover(view, host),
  };
}

function deviceLine(view: EstateView, finder: PathFinder, host: Host, mapping: Mapping, past: PathsPast): DeviceLine {
  const volume = volumeOf(view, mapping);
  const device = deviceAt(view, host.id, volume.id);
  const paths = finder.paths(mapping);
  const selector = selectorOf(host, device);
  // Of a stretched volume the host shares its I/O over the paths to both legs.
  const all = finder.of(mapping);
  const spread = deviceShares(all.found, host, device);
  const shares = paths.found.map((path) => spread[all.found.findIndex((one) => endsOf(one) === endsOf(path))] ?? 0);
  const shown = view.table('volume').get(shownAs(view, volume.id))!;
  const course = deviceCourse(host, device, volume.array, paths, past);
  const owners = view
    .table('controller')
    .by('array', volume.array)
    .map((row) => row.id)
    .sort();
  const group = mapping.subsystem === null ? null : owners.indexOf(volume.owner) + 1;
  const port = (id: string) => view.table('port').get(id)?.name ?? '';
  const end = (id: string) => view.table('interface').get(id)?.name ?? '';
  const via = (id: string | null) =>
    id ? (view.table('fabric').get(id)?.name ?? view.table('network').get(id)?.name ?? '') : '';
  return {
    volume: volume.name,
    array: arrayOf(view, volume).name,
    lun: mapping.lun,
    namespace: mapping.subsystem !== null,
    target: mapping.target ? (targetOf(view, mapping)?.name ?? '') : '',
    size: volume.size,
    device: device
      ? {
          name: device.name,
          size: device.size,
          state: device.state,
          initialised: device.initialised,
          fileSystem: device.fileSystem,
          mountPoint: device.mountPoint,
          persistent: device.persistent,
          selector,
          ownSelector: device.selector !== null,
        }
      : null,
    identity: {
      array: identityNames(shown.naa, mapping.subsystem !== null),
      host: device ? identityNames(device.naa, mapping.subsystem !== null) : null,
      equal: device?.naa === shown.naa,
    },
    found: paths.found.length,
    expected: paths.expected,
    optimized: paths.optimized,
    paths: [
      ...paths.found.map((path, k): DevicePath => ({
        from: end(path.interface),
        to: port(path.port),
        via: via(path.network),
        transport: path.transport,
        state: path.state,
        group,
        share: shares[k]!,
        why: '',
        ...course.of(path),
      })),
      ...paths.missing.map((gap): DevicePath => ({
        from: end(gap.interface),
        to: port(gap.port),
        via: via(gap.network),
        transport: gap.transport,
        state: 'missing',
        group: null,
        share: 0,
        why: gap.message,
        ...course.of(gap),
      })),
    ].sort((a, b) => (`${a.from} ${a.to}` < `${b.from} ${b.to}` ? -1 : 1)),
    io: course.io,
  };
}

function sessionLines(view: EstateView, finder: PathFinder, host: Host, id: string): SessionLine[] {
  const array = view.table('array').get(id)!;
  const { up, missing, by } = connected(view, finder, host, id);
  const gaps = missing.filter((gap) => gap.reason !== 'port-role-off');
  return (['fc', 'iscsi', 'nvme-tcp'] as const).flatMap((transport) => {
    const own = up.filter((session) => session.transport === transport).length;
    const lost = gaps.filter((gap) => gap.transport === transport);
    // Where nothing is up and nothing mapped, a fabric that is not zoned is no fault.
    const wanted = own > 0 || mapsFrom(view, host, id);
    if (own + lost.length === 0 || !wanted) return [];
    return [
      {
        array: array.name,
        transport,
        up: own,
        expected: own + lost.length,
        by: transport === 'fc' ? 'zoning' : by,
        why: lost[0]?.message ?? '',
        mend: lost[0] ? mendFor({ view, host, array, gap: lost[0] }) : null,
      },
    ];
  });
}

const mapsFrom = (view: EstateView, host: Host, array: string): boolean =>
  view
    .table('mapping')
    .by('host', host.id)
    .some((mapping) => volumeOf(view, mapping).array === array);
