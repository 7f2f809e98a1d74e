import { mappingsOf, shownAs } from '../copies/legs';
import { addressHolder } from '../attach/addressing';
import type { EstateView } from '../estate/estate';
import type { HostInterface, IpAddress, Mapping, Port } from '../estate/entities';
import { nameKey } from '../estate/table';
import { nextStep } from '../operation/next-step';
import { formatBytes } from '../units/bytes';
import { NOTHING, rule, wrong, type Rule, type Wrong } from './rule';

const WAIT = 'Leave it as it is, and report this.';

/** Another mapping of the host whose number and ports meet this one's: one initiator would see two volumes at one LUN. */
function rivalOf(view: EstateView, mapping: Mapping): Mapping | undefined {
  if (mapping.subsystem !== null)
    return view
      .table('mapping')
      .by('subsystem', mapping.subsystem)
      .find((other) => other.lun === mapping.lun && other.volume !== mapping.volume);
  const array = view.table('volume').get(mapping.volume)?.array;
  return view
    .table('mapping')
    .by('host', mapping.host)
    .find(
      (other) =>
        other.id !== mapping.id &&
        other.lun === mapping.lun &&
        other.subsystem === null &&
        other.target === mapping.target &&
        view.table('volume').get(other.volume)?.array === array &&
        (mapping.ports === null || other.ports === null || mapping.ports.some((port) => other.ports!.includes(port))),
    );
}

const oneVolumeALun = rule({
  of: 'mapping',
  code: 'lun-taken',
  broken(view, mapping) {
    const rival = rivalOf(view, mapping);
    if (!rival) return NOTHING;
    const [volume, other] = [view.table('volume').get(mapping.volume), view.table('volume').get(rival.volume)];
    const host = view.table('host').get(rival.host);
    const array = view.table('array').get(other?.array ?? '');
    return wrong(
      `${host?.name ?? 'The host'} sees ${other?.name ?? 'another volume'} as ${mapping.subsystem ? 'namespace' : 'LUN'} ${mapping.lun}; ${volume?.name ?? 'this one'} cannot have it too.`,
      `Give ${other?.name ?? 'that volume'} another ${mapping.subsystem ? 'number' : 'LUN'}, or unmap it first.`,
      host && other && array
        ? nextStep(`Change the mapping of ${other.name}`, 'mapping.configure', {
            host: host.name,
            array: array.name,
            volume: other.name,
          })
        : undefined,
    );
  },
});

const mappingFits = rule({
  of: 'mapping',
  code: 'mapping-fits',
  asks: {
    host: (host, view) =>
      view
        .table('mapping')
        .by('host', host.id)
        .map((mapping) => mapping.id),
  },
  broken(view, mapping) {
    const found: Wrong[] = [];
    const volume = view.table('volume').get(mapping.volume);
    const host = view.table('host').get(mapping.host);
    const name = volume?.name ?? 'a volume';
    if (mapping.ports?.some((id) => view.table('port').get(id)?.array !== volume?.array))
      found.push(...wrong(`${name} would be shown through a port of another array.`, WAIT));
    const subsystem = mapping.subsystem ? view.table('subsystem').get(mapping.subsystem) : undefined;
    if (subsystem && volume && subsystem.array !== volume.array)
      found.push(...wrong(`${name} would be a namespace of a subsystem of another array.`, WAIT));
    const target = mapping.target ? view.table('target').get(mapping.target) : undefined;
    if (target && volume && target.array !== volume.array)
      found.push(...wrong(`${name} would be shown by a target of another array.`, WAIT));
    if (target && mapping.subsystem !== null)
      found.push(...wrong(`${name} would be shown by a target and by a subsystem.`, WAIT));
    if (mapping.cluster !== null && host && host.cluster !== mapping.cluster) {
      const cluster = view.table('cluster').get(mapping.cluster)?.name ?? 'a cluster';
      found.push(
        ...wrong(
          `${name} would be mapped to ${host.name} as a member of ${cluster}, to which it does not belong.`,
          `Put ${host.name} into ${cluster}, or map the volume to it alone.`,
          nextStep(`Change ${host.name}`, 'host.configure', { host: host.name, cluster }),
        ),
      );
    }
    return found;
  },
});

/** Each address is held once, over array ports and host ports. */
function addressesHeldOnce(view: EstateView, row: Port | HostInterface, who: string): readonly Wrong[] {
  const seen = new Set<string>();
  return row.addresses.flatMap(({ ip }: IpAddress) => {
    const holder = seen.has(ip) ? who : addressHolder(view, ip, row.id);
    seen.add(ip);
    return holder
      ? wrong(`${ip} belongs to ${holder} by now; ${who} cannot have it too.`, 'Choose an address that is free.')
      : [];
  });
}

/** A port name is borne once, over array ports and host ports. */
function nameBorneOnce(view: EstateView, row: Port | HostInterface, who: string): readonly Wrong[] {
  if (!row.wwpn) return NOTHING;
  const other = [...view.table('port').by('wwpn', row.wwpn), ...view.table('interface').by('wwpn', row.wwpn)].find(
    (one) => one.id !== row.id,
  );
  return other ? wrong(`${who} would bear the port name of ${other.name}.`, WAIT) : NOTHING;
}

/** One cable a socket: the switch port is taken by nobody else. */
function socketFree(view: EstateView, row: Port | HostInterface, who: string): readonly Wrong[] {
  if (row.switch === null) return NOTHING;
  const at = view.table('switch').get(row.switch);
  const link = view
    .table('isl')
    .by('switch', row.switch)
    .find(
      (isl) =>
        (isl.a === row.switch && isl.aPort === row.switchPort) ||
        (isl.b === row.switch && isl.bPort === row.switchPort),
    );
  const other =
    link ??
    [...view.table('port').by('switch', row.switch), ...view.table('interface').by('switch', row.switch)].find(
      (one) => one.id !== row.id && one.switchPort === row.switchPort,
    );
  return other
    ? wrong(`${who} would share port ${row.switchPort} of switch ${at?.name ?? ''} with ${other.name}.`, WAIT)
    : NOTHING;
}

const portFits = rule({
  of: 'port',
  code: 'port-fits',
  broken(view, port) {
    const who = `port ${port.name} of ${view.table('array').get(port.array)?.name ?? 'an array'}`;
    const controller = view.table('controller').get(port.controller);
    return [
      ...addressesHeldOnce(view, port, who),
      ...nameBorneOnce(view, port, who),
      ...socketFree(view, port, who),
      ...(controller && controller.array !== port.array
        ? wrong(`${who} would belong to a controller of another array.`, WAIT)
        : []),
    ];
  },
});

const interfaceFits = rule({
  of: 'interface',
  code: 'interface-fits',
  broken(view, row) {
    const who = `${row.name} of ${row.host ? (view.table('host').get(row.host)?.name ?? 'a host') : 'nobody'}`;
    return [...addressesHeldOnce(view, row, who), ...nameBorneOnce(view, row, who), ...socketFree(view, row, who)];
  },
});

/** A name by which a host logs in belongs to no array. */
const initiatorRole = rule({
  of: 'initiator',
  code: 'role-swapped',
  broken(view, initiator) {
    const port = view.table('port').by('wwpn', initiator.name)[0];
    const subsystem = view.table('subsystem').by('nqn', initiator.name)[0];
    return port || subsystem
      ? wrong(
          `${initiator.name} is the name of ${(port ?? subsystem)!.name}, which is an array's.`,
          'Write the name the host shows as its own.',
        )
      : NOTHING;
  },
});

/** What a host has mounted is mapped to it. */
const mountedIsMapped = rule({
  of: 'hostDevice',
  code: 'mounted-unmapped',
  asks: {
    mapping: (mapping, view) =>
      view
        .table('hostDevice')
        .by('volume', shownAs(view, mapping.volume))
        .filter((device) => device.host === mapping.host)
        .map((device) => device.id),
    // Without its pair, a leg is shown as itself alone.
    replication: (row, view) =>
      row.stretch === null
        ? []
        : row.primaries.flatMap((id) =>
            view
              .table('hostDevice')
              .by('volume', id)
              .map((device) => device.id),
          ),
  },
  broken(view, device) {
    if (device.mountPoint === null || mappingsOf(view, device.host, device.volume).length > 0) return NOTHING;
    const host = view.table('host').get(device.host);
    const volume = view.table('volume').get(device.volume);
    return wrong(
      `${host?.name ?? 'A host'} has ${volume?.name ?? device.name} mounted at ${device.mountPoint}, which would not be mapped to it.`,
      `Unmount ${device.name} at ${host?.name ?? 'the host'} first.`,
      host
        ? nextStep(`Unmount ${device.name}`, 'host-device.unmount', { host: host.name, device: device.name })
        : undefined,
    );
  },
});

/** A file system ends where its volume does, or before. */
const fileSystemFits = rule({
  of: 'hostDevice',
  code: 'file-system-cut',
  asks: {
    volume: (volume, view) =>
      view
        .table('hostDevice')
        .by('volume', volume.id)
        .map((device) => device.id),
  },
  broken(view, device) {
    const volume = view.table('volume').get(device.volume);
    if (device.fileSystem === null || !volume || device.fileSystemSize <= volume.size) return NOTHING;
    const host = view.table('host').get(device.host);
    return wrong(
      `The file system of ${host?.name ?? 'a host'} on ${volume.name} reaches to ${formatBytes(device.fileSystemSize)}; the volume would have only ${formatBytes(volume.size)}.`,
      `Make the file system smaller at ${host?.name ?? 'the host'} first.`,
      host
        ? nextStep(`Shrink the file system on ${device.name}`, 'host-device.shrink', {
            host: host.name,
            device: device.name,
          })
        : undefined,
    );
  },
});

const members = (row: { members: readonly string[]; principals?: readonly string[] }): readonly string[] => [
  ...row.members,
  ...(row.principals ?? []),
];

const zoneMembers = rule({
  of: 'zone',
  code: 'zone-members',
  asks: {
    alias: (alias, view) =>
      view
        .table('zone')
        .by('fabric', alias.fabric)
        .filter((zone) => members(zone).includes(`alias:${alias.name}`))
        .map((zone) => zone.id),
  },
  broken(view, zone) {
    const fabric = view.table('fabric').get(zone.fabric);
    const gone = members(zone).find(
      (member) =>
        member.startsWith('alias:') &&
        !view
          .table('alias')
          .by('name', nameKey(zone.fabric, member.slice(6)))
          .some((alias) => alias.name === member.slice(6)),
    );
    if (gone !== undefined)
      return wrong(
        `Zone ${zone.name} names the alias ${gone.slice(6)}, which would not be there.`,
        `Take ${gone.slice(6)} out of ${zone.name} first.`,
        fabric
          ? nextStep(`Change zone ${zone.name}`, 'zone.configure', { fabric: fabric.name, name: zone.name })
          : undefined,
      );
    return NOTHING;
  },
});

/** Zones and aliases of a fabric share their names. */
const aliasName = rule({
  of: 'alias',
  code: 'zoning-name-twice',
  asks: {
    zone: (zone, view) =>
      view
        .table('alias')
        .by('name', nameKey(zone.fabric, zone.name))
        .map((alias) => alias.id),
  },
  broken(view, alias) {
    const zone = view.table('zone').by('name', nameKey(alias.fabric, alias.name))[0];
    return zone
      ? wrong(`An alias and a zone of the fabric would both be called ${alias.name}.`, `Rename ${zone.name} first.`)
      : NOTHING;
  },
});

const setZones = rule({
  of: 'zoneSet',
  code: 'zone-set-zones',
  broken(view, set) {
    const stray = set.zones.map((id) => view.table('zone').get(id)).find((zone) => zone && zone.fabric !== set.fabric);
    if (stray) return wrong(`Zone set ${set.name} would hold ${stray.name} of another fabric.`, WAIT);
    return new Set(set.zones).size < set.zones.length
      ? wrong(`Zone set ${set.name} would hold a zone twice.`, WAIT)
      : NOTHING;
  },
});

const activeSet = rule({
  of: 'fabric',
  code: 'active-set',
  asks: { zoneSet: (set) => [set.fabric] },
  broken(view, fabric) {
    if (fabric.activeSet === null) return NOTHING;
    const stands = view
      .table('zoneSet')
      .by('name', nameKey(fabric.id, fabric.activeSet))
      .some((set) => set.name === fabric.activeSet);
    return stands
      ? NOTHING
      : wrong(
          `${fabric.activeSet} is active in fabric ${fabric.name}, and would not be on record any more.`,
          'Activate another zone set first.',
          nextStep(`Activate another in fabric ${fabric.name}`, 'zone-set.activate', { fabric: fabric.name }),
        );
  },
});

const targetFits = rule({
  of: 'target',
  code: 'target-fits',
  broken(view, target) {
    const found: Wrong[] = [];
    const stray = target.portals
      ?.map(({ port }) => view.table('port').get(port))
      .find((port) => port && port.array !== target.array);
    if (stray) found.push(...wrong(`Target ${target.name} would answer at a port of another array.`, WAIT));
    if (target.portals?.some(({ port }) => !view.table('port').get(port)))
      found.push(...wrong(`Target ${target.name} would answer at a port that is not there.`, WAIT));
    const twin =
      target.main &&
      view
        .table('target')
        .by('array', target.array)
        .some((other) => other.main && other.id !== target.id);
    if (twin) found.push(...wrong('An array would have two main targets.', WAIT));
    if (view.table('initiator').by('iqn', target.iqn).length > 0)
      found.push(...wrong(`${target.iqn} would be the name of a target and of an initiator.`, WAIT));
    return found;
  },
});

const subsystemPorts = rule({
  of: 'subsystem',
  code: 'subsystem-fits',
  broken(view, subsystem) {
    const stray = subsystem.ports
      ?.map((id) => view.table('port').get(id))
      .find((port) => port && port.array !== subsystem.array);
    return stray ? wrong(`Subsystem ${subsystem.name} would be offered at a port of another array.`, WAIT) : NOTHING;
  },
});

export const attachRules: readonly Rule[] = [
  oneVolumeALun,
  mappingFits,
  portFits,
  interfaceFits,
  initiatorRole,
  mountedIsMapped,
  fileSystemFits,
  zoneMembers,
  aliasName,
  setZones,
  activeSet,
  targetFits,
  subsystemPorts,
];
