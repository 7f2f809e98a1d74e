import type { ArrayRow, Host, HostDevice, Mapping, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { families } from '../attach/families';
import { initiatorText } from '../attach/initiators';
import { grantOf, mainTarget, targetText } from '../iscsi/target';
import { nextFreeLun, takenLuns } from '../attach/luns';
import { readOnlyWhy } from '../attach/write-access';
import { mappingOf, pathFinder, pathWords, type Path, type Paths } from '../attach/paths';
import type { MissingReason, MissingSession } from '../attach/sessions';
import { identityNames } from '../naming/identity';
import { formatAddress } from '../network/address';
import { driveRef } from '../operation/inquiry';
import { nextStep as step, type NextStep } from '../operation/operation';
import { levelText, shapeOfGroup } from '../raid/geometry';
import { groupHealth } from '../raid/health';
import { formatBytes } from '../units/bytes';
import { groupsUnder, volumeState } from '../volume/health';
import { poolUsage } from '../pool/usage';
import { adviceFor, mendFor, slipWords, waitingWords } from './mends';

export type HopState = 'pass' | 'warn' | 'fail' | 'not-reached';

/** One link of the chain from the drives to the host's file system. */
export interface TraceHop {
  number: number;
  hop: string;
  object: string;
  state: HopState;
  /** Kebab-case, of a hop that fails or warns. */
  reason: string | null;
  /** What was found there, in a sentence. */
  evidence: string;
  /** What would mend it, in words and as an operation where one does. */
  advice: string | null;
  mend: NextStep | null;
}

/** A pair of ports, and how far it gets. */
export interface TracePair {
  from: string;
  to: string;
  via: string;
  state: Path['state'] | 'missing';
  /** The hop it breaks at; null where it holds. */
  breaksAt: number | null;
  says: string;
}

export interface Trace {
  host: string;
  volume: string;
  array: string;
  whole: boolean;
  hops: TraceHop[];
  /** Networks and fabrics over which it holds, and those over which it should and does not, by name. */
  legs: { holding: string[]; broken: string[] };
  pairs: TracePair[];
}

const HOPS = [
  'Drives',
  'RAID group',
  'Pool',
  'Volume',
  'Mapping',
  'Array port',
  'Link',
  'Zone or network',
  'Initiator',
  'Discovery',
  'Login',
  'LUN',
  'Host device',
  'File system',
] as const;

/** At which hop a pair of ports breaks for which reason. */
const hopOf: Record<MissingReason, number> = {
  'controller-down': 6,
  'array-port-down': 6,
  'portal-down': 6,
  'port-role-off': 6,
  'target-disabled': 6,
  'portal-without-address': 6,
  'interface-down': 7,
  'interface-without-address': 7,
  'no-active-uplink': 7,
  'many-active-uplinks': 7,
  'initiator-not-logged-in': 7,
  'target-not-logged-in': 7,
  'switch-down': 7,
  'no-isl-route': 7,
  'network-down': 7,
  'not-zoned': 8,
  'no-route': 8,
  'address-family-differs': 8,
  'vlan-mismatch': 8,
  'prefix-mismatch': 8,
  'mtu-black-hole': 8,
  'initiator-unknown': 9,
  'no-initiator': 9,
  'not-discovered': 10,
  'not-logged-in': 10,
  'access-none': 11,
  'chap-failed': 11,
  'chap-mutual-failed': 11,
  'auth-server-down': 11,
  'digest-none-common': 11,
  'nqn-not-allowed': 11,
  'session-limit': 11,
  'session-reinstated': 11,
  'controller-limit': 11,
};

interface Told {
  state: HopState;
  object: string;
  evidence: string;
  reason?: string;
  advice?: string;
  mend?: NextStep | null;
}
const pass = (object: string, evidence: string): Told => ({ state: 'pass', object, evidence });
const warn = (
  object: string,
  reason: string,
  evidence: string,
  advice: string,
  mend: NextStep | null = null,
): Told => ({ state: 'warn', object, reason, evidence, advice, mend });
const fail = (
  object: string,
  reason: string,
  evidence: string,
  advice: string,
  mend: NextStep | null = null,
): Told => ({ state: 'fail', object, reason, evidence, advice, mend });

/** The chain from the drives to the file system, hop by hop, for a host and a volume. The pair of ports that gets furthest speaks for hops 6 to 11. */
export function trace(view: EstateView, host: Host, volume: Volume): Trace {
  const array = view.table('array').get(volume.array)!;
  const mapping = mappingOf(view, host.id, volume.id);
  const device = view
    .table('hostDevice')
    .by('host', host.id)
    .find((row) => row.volume === volume.id);
  const finder = pathFinder(view);
  const paths = mapping ? finder.paths(mapping) : null;
  const furthest = paths
    ? ([...paths.missing].sort((a, b) => hopOf[b.reason] - hopOf[a.reason] || byEnds(a, b))[0] ??
      // A port in reach that serves another transport is no path that is expected, yet it may be why there is none.
      finder.sessions(host.id, volume.array).missing.find((gap) => gap.reason === 'port-role-off'))
    : undefined;
  const good = paths?.found.find((path) => path.state === 'optimized') ?? paths?.found[0];
  const told: Told[] = [
    ...storageHops(view, volume),
    mappingHop(view, host, volume, mapping),
    ...(mapping && paths
      ? portHops(view, host, array, mapping, paths, good, furthest)
      : [6, 7, 8, 9, 10, 11].map(() => unreached())),
    lunHop(host, mapping, paths),
    deviceHop(host, volume, mapping, paths, device),
    fileSystemHop(view, host, volume, device, mapping),
  ];
  let broken = false;
  const hops = told.map((one, k): TraceHop => {
    const state = broken ? 'not-reached' : one.state;
    const hop = {
      number: k + 1,
      hop: HOPS[k]!,
      object: one.object,
      state,
      reason: one.reason ?? null,
      evidence: one.evidence,
      advice: one.advice ?? null,
      mend: one.mend ?? null,
    };
    if (one.state === 'fail') broken = true;
    return state === 'not-reached' ? { ...hop, reason: null, advice: null, mend: null } : hop;
  });
  return {
    host: host.name,
    volume: volume.name,
    array: array.name,
    whole: !broken,
    hops,
    legs: paths ? legsOf(view, paths) : { holding: [], broken: [] },
    pairs: paths ? pairsOf(view, paths) : [],
  };
}

const unreached = (): Told => ({ state: 'not-reached', object: '', evidence: 'Not looked at.' });
const byEnds = (a: MissingSession, b: MissingSession): number =>
  `${a.interface} ${a.port}` < `${b.interface} ${b.port}` ? -1 : 1;

function storageHops(view: EstateView, volume: Volume): Told[] {
  const array = view.table('array').get(volume.array)!;
  const groups = groupsUnder(view, volume).map((id) => view.table('raidGroup').get(id)!);
  const health = groups.map((group) => ({ group, state: groupHealth(view, group) }));
  const lost = health.find((one) => one.state.state === 'lost');
  const weak = health.find((one) => one.state.state === 'degraded');
  const count = groups.reduce((sum, group) => sum + group.drives.length, 0);
  const gone = groups
    .flatMap((group) => group.drives.map((id) => view.table('drive').get(id)!))
    .filter((drive) => drive.state === 'failed' || drive.state === 'missing');
  const bad = gone.length;
  const drives = `${count} drives of ${array.name}`;
  const names = groups.map((group) => group.name).join(', ');
  const pool = view.table('pool').get(volume.pool)!;
  const usage = poolUsage(view, pool);
  const retired = volume.deletedAt !== null;
  const open = step('Replace drives', 'drive.replace', {
    array: array.name,
    drives: gone.map((drive) => driveRef(view, drive)),
  });
  return [
    lost
      ? fail(
          drives,
          'drives-lost',
          `${lost.group.name} has lost more drives than it survives.`,
          'Bring the drives or their enclosure back.',
          open,
        )
      : weak
        ? warn(
            drives,
            'drives-lost',
            `${bad} of ${count} have failed; ${weak.group.name} survives ${weak.state.tolerates} more.`,
            'Replace them and let the group rebuild.',
            open,
          )
        : pass(drives, 'All answer.'),
    lost
      ? fail(names, 'raid-group-offline', `${lost.group.name} is offline.`, 'Bring its drives back.')
      : pass(names, `${groups.map((group) => levelText(shapeOfGroup(group))).join(', ')}: data is there.`),
    usage.available === 0 && volume.provisioning === 'thin'
      ? warn(
          pool.name,
          'pool-full',
          `${pool.name} has no extent left: writes that need one fail.`,
          'Extend the pool.',
          step('Extend it', 'pool.extend', { array: array.name, name: pool.name }),
        )
      : pass(pool.name, `${formatBytes(usage.availableBytes)} left.`),
    retired
      ? fail(
          volume.name,
          'volume-offline',
          `${volume.name} was retired and is only kept.`,
          'Restore it.',
          step('Restore it', 'volume.restore', { array: array.name, volumes: [volume.name] }),
        )
      : volumeState(view, volume) === 'lost'
        ? fail(volume.name, 'volume-offline', `${volume.name} is offline with its data.`, 'Mend what lies under it.')
        : pass(
            volume.name,
            `${formatBytes(volume.size)}, served by controller ${view.table('controller').get(volume.owner)?.name}.`,
          ),
  ];
}

function mappingHop(view: EstateView, host: Host, volume: Volume, mapping: Mapping | undefined): Told {
  const array = view.table('array').get(volume.array)!.name;
  if (!mapping)
    return fail(
      'none',
      'not-mapped',
      `${volume.name} is mapped neither to ${host.name} nor to a cluster of its.`,
      'Map it.',
      step('Map it', 'mapping.create', { host: host.name, array, volumes: [volume.name] }),
    );
  const holder = mapping.subsystem
    ? undefined
    : takenLuns(view, host.id, volume.array, mapping.ports, mapping.target).get(mapping.lun);
  if (holder && holder !== volume.id)
    return fail(
      `LUN ${mapping.lun}`,
      'lun-taken',
      `LUN ${mapping.lun} shows ${view.table('volume').get(holder)!.name} as well.`,
      'Give it a free LUN.',
      step('Renumber', 'mapping.configure', {
        host: host.name,
        array,
        volume: volume.name,
        lun: String(nextFreeLun(view, host, volume.array, mapping.ports, 0, mapping.target)),
      }),
    );
  const where = mapping.subsystem
    ? `namespace ${mapping.lun} of ${view.table('subsystem').get(mapping.subsystem)!.name}`
    : `LUN ${mapping.lun}`;
  const ports = mapping.ports ? mapping.ports.map((id) => view.table('port').get(id)!.name).join(', ') : 'all ports';
  return pass(
    where,
    `${readOnlyWhy(view, mapping) === null ? 'Read and write' : 'Read-only'}, through ${ports}${mapping.cluster ? `, for cluster ${view.table('cluster').get(mapping.cluster)!.name}` : ''}.`,
  );
}

const endNames = (view: EstateView, end: { interface: string; port: string }): [string, string] => [
  view.table('interface').get(end.interface)?.name ?? '',
  view.table('port').get(end.port)?.name ?? '',
];

/** What hops 6 to 11 say of a pair of ports, as far as it holds. */
function holdsOf(view: EstateView, host: Host, array: ArrayRow, end: Path | MissingSession): Told[] {
  const port = view.table('port').get(end.port)!;
  const from = view.table('interface').get(end.interface)!;
  const network = networkName(view, end.network);
  const fc = end.transport === 'fc';
  return [
    pass(`${array.name} ${port.name}`, `Up, on controller ${view.table('controller').get(port.controller)?.name}.`),
    pass(
      `${host.name} ${from.name}`,
      fc
        ? `Logged in to fabric ${network} at ${view.table('switch').get(from.switch ?? '')?.name} port ${from.switchPort}.`
        : `${from.addresses.map(formatAddress).join(', ')} is up.`,
    ),
    pass(network, fc ? 'One active zone holds both ports.' : 'The two reach each other, and frames fit.'),
    pass(initiatorNames(view, host), 'It is on record for this host.'),
    pass(
      fc ? 'not applicable' : 'by the host',
      fc
        ? 'Fibre Channel asks the name server of the fabric.'
        : host.discovery === 'isns'
          ? 'The name server shows the target.'
          : 'The portal offers the target.',
    ),
    pass(
      fc ? 'not applicable' : servedBy(view, array, end),
      fc
        ? 'Fibre Channel ports log in by their names.'
        : end.transport === 'iscsi' && demands(view, host, array, end) === 'none'
          ? 'The target lets it in without CHAP.'
          : end.transport === 'iscsi'
            ? 'CHAP holds.'
            : 'The subsystem lets its host NQN in.',
    ),
  ];
}

/** What lets a host in over IP: the iSCSI target or the NVMe subsystem. */
function servedBy(view: EstateView, array: ArrayRow, end: { target: string | null }): string {
  const target = end.target === null ? undefined : view.table('target').get(end.target);
  return target ? targetText(view, target) : array.name;
}

/** What the target of a session demanded of the host. */
function demands(view: EstateView, host: Host, array: ArrayRow, end: { target: string | null; interface: string }) {
  const target = end.target === null ? mainTarget(view, array.id) : view.table('target').get(end.target);
  const from = view.table('interface').get(end.interface);
  return target ? grantOf(target, { name: host.presents, host, ...(from ? { from } : {}) }).auth : 'none';
}

const networkName = (view: EstateView, id: string | null): string =>
  id ? (view.table('fabric').get(id)?.name ?? view.table('network').get(id)?.name ?? '') : '';

/** Nothing was plugged in or given an address that could ever meet: what of the array's side stands is looked up all the same. */
function nothingInCommon(view: EstateView, host: Host, array: ArrayRow, mapping: Mapping): Told[] {
  const ports = view
    .table('port')
    .by('array', array.id)
    .filter((port) => mapping.ports === null || mapping.ports.includes(port.id));
  const live = ports.filter(
    (port) => port.state === 'up' && view.table('controller').get(port.controller)?.state === 'up',
  );
  const said = `${live.length} of ${ports.length} ports that show it are up.`;
  return [
    live.length === 0
      ? fail(array.name, 'array-port-down', said, 'Bring its ports and controllers back.')
      : pass(array.name, said),
    fail(
      host.name,
      'different-fabric',
      `${host.name} shares neither a subnet nor a fabric with ${array.name}.`,
      'Plug it in, or give it an address there.',
      step('Set up an interface', 'interface.configure', { host: host.name }),
    ),
    ...[8, 9, 10, 11].map(() => unreached()),
  ];
}

/** Hops 6 to 11: all pass where a pair of ports meets; else the pair that gets furthest tells where it breaks. */
function portHops(
  view: EstateView,
  host: Host,
  array: ArrayRow,
  mapping: Mapping,
  paths: Paths,
  good: Path | undefined,
  gap: MissingSession | undefined,
): Told[] {
  if (!gap) return good ? holdsOf(view, host, array, good) : nothingInCommon(view, host, array, mapping);
  const at = hopOf[gap.reason] - 6;
  const broken = holdsOf(view, host, array, gap);
  if (at === 1) broken[1]!.object = linkObject(view, host, array, gap);
  const mend = [adviceFor(gap.reason), mendFor(view, host, array, gap)] as const;
  const sentence = `${gap.message}.`.replace('..', '.') + waitingWords(view, gap) + slipWords(view, gap);
  if (good) {
    const holds = holdsOf(view, host, array, good);
    const short = paths.expected - paths.usable;
    if (short > 0)
      holds[at] = warn(
        broken[at]!.object,
        gap.reason,
        `${short} of ${paths.expected} paths are missing: ${sentence}`,
        ...mend,
      );
    return holds;
  }
  return broken.map((one, k) =>
    k < at ? one : k === at ? fail(one.object, gap.reason, sentence, ...mend) : unreached(),
  );
}

/** What of a link is broken: an end of it, or what lies between. */
function linkObject(view: EstateView, host: Host, array: ArrayRow, gap: MissingSession): string {
  if (gap.reason === 'target-not-logged-in') return `${array.name} ${view.table('port').get(gap.port)?.name}`;
  if (['switch-down', 'no-isl-route', 'network-down'].includes(gap.reason)) return networkName(view, gap.network);
  return `${host.name} ${view.table('interface').get(gap.interface)?.name}`;
}

/** Networks and fabrics over which the mapping is reached, and those over which it should be and is not. */
function legsOf(view: EstateView, paths: Paths): Trace['legs'] {
  const holding = new Set(paths.found.flatMap((path) => (path.state === 'unavailable' ? [] : (path.network ?? []))));
  const broken = new Set(paths.missing.flatMap(({ network }) => (network && !holding.has(network) ? network : [])));
  const names = (ids: Set<string>) => [...ids].map((id) => networkName(view, id)).sort();
  return { holding: names(holding), broken: names(broken) };
}

const initiatorNames = (view: EstateView, host: Host): string =>
  view
    .table('initiator')
    .by('host', host.id)
    .map((row) => initiatorText(row.name))
    .join(', ') || 'none';

function lunHop(host: Host, mapping: Mapping | undefined, paths: Paths | null): Told {
  if (!mapping || !paths) return unreached();
  const most = families[host.os].maxLun;
  if (!mapping.subsystem && mapping.lun > most)
    return fail(
      `LUN ${mapping.lun}`,
      'lun-out-of-range',
      `${host.name} addresses LUNs up to ${most}.`,
      'Give it a lower LUN.',
    );
  if (paths.found.length > 0 && paths.usable === 0)
    return fail(
      `LUN ${mapping.lun}`,
      'all-unavailable',
      `${paths.found.length} paths are there, and none serves it.`,
      'Mend what lies under the volume.',
    );
  return pass(
    mapping.subsystem ? `namespace ${mapping.lun}` : `LUN ${mapping.lun}`,
    `${paths.usable} of ${paths.expected} paths: ${pathWords(paths)}.`,
  );
}

const identityText = (naa: string, mapping: Mapping | undefined): string => {
  const [{ label, value }] = identityNames(naa, mapping?.subsystem != null) as [{ label: string; value: string }];
  return label === 'NAA' ? value : `${label} ${value}`;
};

function deviceHop(
  host: Host,
  volume: Volume,
  mapping: Mapping | undefined,
  paths: Paths | null,
  device: HostDevice | undefined,
): Told {
  if (!device)
    return fail(
      'none',
      'rescan-needed',
      `${volume.name} is mapped, and ${host.name} has not looked for it.`,
      'Rescan.',
      mapping ? step('Rescan', 'host.rescan', { host: host.name }) : null,
    );
  if (device.size !== volume.size)
    return warn(
      device.name,
      'rescan-needed',
      `${host.name} still reads ${formatBytes(device.size)}; the volume has ${formatBytes(volume.size)}.`,
      'Rescan.',
      step('Rescan', 'host.rescan', { host: host.name }),
    );
  if (device.naa !== volume.naa)
    return warn(
      device.name,
      'identity-differs',
      `${host.name} reads identity ${identityText(device.naa, mapping)}; the volume has ${identityText(volume.naa, mapping)}.`,
      'Remove the device and rescan.',
      step('Remove it', 'host-device.remove', { host: host.name, device: device.name }),
    );
  if (!host.multipath && paths && paths.usable > 1)
    return warn(
      device.name,
      'multipath-absent',
      `${paths.usable} paths, and ${host.name} does not combine them.`,
      'Let it combine them.',
      step('Combine paths', 'host.configure', { host: host.name }),
    );
  if (paths && paths.usable === 1)
    return warn(device.name, 'single-path', 'It hangs on one path.', 'Mend or add a second one.');
  return pass(device.name, `Identity ${identityText(device.naa, mapping)} on both sides.`);
}

function fileSystemHop(
  view: EstateView,
  host: Host,
  volume: Volume,
  device: HostDevice | undefined,
  mapping: Mapping | undefined,
): Told {
  if (!device) return unreached();
  const on = { host: host.name, device: device.name };
  if (!device.fileSystem)
    return warn(
      'none',
      'no-file-system',
      `${device.name} is blank.`,
      'Format and mount it.',
      step('Format it', 'host-device.format', on),
    );
  if (!device.mountPoint)
    return warn(
      device.fileSystem,
      'not-mounted',
      `${device.fileSystem} is there, and not mounted.`,
      'Mount it.',
      step('Mount it', 'host-device.mount', on),
    );
  const bar = mapping ? readOnlyWhy(view, mapping) : null;
  if (bar !== null || device.readOnly)
    return warn(
      device.mountPoint,
      'read-only',
      bar !== null
        ? `${device.fileSystem} can only be read: the volume ${bar}.`
        : `${device.fileSystem} stands read-only since a write was refused.`,
      bar !== null ? 'Let it write, if it shall be written.' : 'Unmount it and mount it again.',
      bar !== null && mapping?.access === 'read-only'
        ? step('Let it write', 'mapping.configure', {
            host: host.name,
            array: view.table('array').get(volume.array)!.name,
            volume: volume.name,
            access: 'read-write',
          })
        : bar === null
          ? step('Unmount it', 'host-device.unmount', on)
          : null,
    );
  if (device.fileSystemSize < device.size)
    return warn(
      device.mountPoint,
      'not-grown',
      `${device.fileSystem} reaches ${formatBytes(device.fileSystemSize)} of ${formatBytes(device.size)}.`,
      'Grow it.',
      step('Grow it', 'host-device.grow', on),
    );
  return pass(
    device.mountPoint,
    `${device.fileSystem}, ${formatBytes(device.used, 'used')} of ${formatBytes(device.fileSystemSize)}.`,
  );
}

function pairsOf(view: EstateView, paths: Paths): TracePair[] {
  const words = { optimized: 'carries I/O', 'non-optimized': 'waits in reserve', unavailable: 'serves nothing' };
  return [
    ...paths.found.map((path): TracePair => {
      const [from, to] = endNames(view, path);
      return {
        from,
        to,
        via: networkName(view, path.network),
        state: path.state,
        breaksAt: path.state === 'unavailable' ? 12 : null,
        says: words[path.state],
      };
    }),
    ...paths.missing.map((gap): TracePair => {
      const [from, to] = endNames(view, gap);
      return {
        from,
        to,
        via: networkName(view, gap.network),
        state: 'missing',
        breaksAt: hopOf[gap.reason],
        says: `breaks at hop ${hopOf[gap.reason]}`,
      };
    }),
  ].sort((a, b) => (`${a.from} ${a.to}` < `${b.from} ${b.to}` ? -1 : 1));
}
