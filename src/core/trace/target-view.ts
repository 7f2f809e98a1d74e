import type { EstateView } from '../estate/estate';
import { controllerOf, hostOf, interfaceOf, portOf, siteOf, volumeOf } from '../estate/relations';
import { connected, type LetIn } from '../attach/connected';
import { pathFinder } from '../attach/paths';
import { initiatorForm } from '../attach/initiators';
import { formatAddress } from '../network/address';
import { networksOf } from '../network/reach';
import { listensAt } from '../network/portal';
import { subsystemsOf } from '../nvme/connect';
import { connectionsOf } from '../nvme/reconnect';
import { byName } from '../operation/draft';
import {
  agreedConnections,
  arrayGrants,
  grantOf,
  lesser,
  portalsOf,
  portalText,
  targetsOf,
  targetText,
} from '../iscsi/target';
import { registeredNodes, type RegisteredNode } from '../iscsi/registry';
import { ruleText } from '../target/policy';
import type { AccessLevel, ArrayRow, Proof, Target } from '../estate/entities';

export interface PortalLine {
  port: string;
  controller: string;
  address: string;
  network: string;
  vlan: number;
  mtu: number;
  tcp: number;
  group: number;
  up: boolean;
  sessions: number;
}

export interface GuestLine {
  host: string;
  name: string;
  access: AccessLevel;
  /** The exception of the target by which it is so; empty where none is. */
  exception: string;
  /** Why it logs in here; null where it was never told to and nothing is mapped to it. */
  by: LetIn | null;
  /** Whether a secret is on record for it. */
  secret: boolean;
  sessions: number;
  expected: number;
  why: string;
}

/** A session at a target, by its two ends. */
export interface SessionEnds {
  host: string;
  from: string;
  to: string;
  network: string;
  /** Connections both sides agreed on. */
  connections: number;
}

/** An iSCSI target of an array: what it demands, where it listens, who may log in, who is. */
export interface TargetLine {
  array: string;
  /** Its alias, and whether it shows what names no target. */
  name: string;
  main: boolean;
  enabled: boolean;
  anyone: boolean;
  usual: AccessLevel;
  exceptions: string[];
  accounts: string[];
  sessionLimit: number | null;
  /** Volumes that it alone shows. */
  volumes: string[];
  connected: SessionEnds[];
  iqn: string;
  auth: Proof;
  authServer: string;
  headerDigest: string;
  dataDigest: string;
  isns: boolean;
  portals: PortalLine[];
  guests: GuestLine[];
}

export interface SubsystemLine {
  array: string;
  name: string;
  nqn: string;
  allowAny: boolean;
  allowed: { nqn: string; host: string }[];
  ports: string[];
  namespaces: { id: number; volume: string; hosts: string[] }[];
  controllers: number;
  /** TCP connections of all controllers. */
  connections: number;
  controllerLimit: number;
}

export interface NetworkLine {
  name: string;
  site: string;
  cidr: string;
  vlan: number;
  mtu: number;
  up: boolean;
  portals: string[];
  interfaces: { name: string; host: string; mtu: number; up: boolean; bound: boolean }[];
}

export interface TargetView {
  targets: TargetLine[];
  subsystems: SubsystemLine[];
  networks: NetworkLine[];
  nameServers: { name: string; ip: string; up: boolean; defaultDomain: boolean }[];
  /** What name servers hold. */
  nodes: RegisteredNode[];
  domains: { name: string; members: { name: string; owner: string }[]; sets: { name: string; enabled: boolean }[] }[];
}

/** What stands on the IP side: targets, subsystems, networks and the name service. */
export function targetView(view: EstateView): TargetView {
  const finder = pathFinder(view);
  const networks = networksOf(view);
  const arrays = [...view.table('array').values()].sort(byName);
  const hosts = [...view.table('host').values()].sort(byName);
  const hostName = (id: string | null) => (id ? (view.table('host').get(id)?.name ?? '') : '');
  const owners = new Map<string, string>([
    ...[...view.table('target').values()].map((target) => [target.iqn, targetText(view, target)] as const),
    ...[...view.table('initiator').values()].map((row) => [row.name, hostName(row.host)] as const),
  ]);
  const portsOf = (array: string, role: string) =>
    [...view.table('port').by('array', array)].filter((port) => port.role === role).sort(byName);
  const targetLine = (array: ArrayRow, target: Target): TargetLine | null => {
    const portals = portalsOf(view, target);
    if (portals.length === 0 && target.main) return null;
    const key = target.main ? null : target.id;
    const sessions = new Map(
      hosts
        .filter((host) => host.presents !== null)
        .map((host) => {
          const { up, missing, at } = connected(view, finder, host, array.id);
          const own = up.filter((one) => one.transport === 'iscsi' && one.target === key);
          const gaps = missing.filter(
            (one) => one.transport === 'iscsi' && one.target === key && one.reason !== 'port-role-off',
          );
          return [host.id, { own, gaps, by: at(key) }] as const;
        }),
    );
    const up = [...sessions].flatMap(([host, { own }]) => own.map((one) => ({ ...one, host })));
    return {
      array: array.name,
      name: target.name,
      main: target.main,
      enabled: target.enabled,
      anyone: target.anyone,
      usual: target.usual,
      exceptions: target.rules.map(ruleText),
      accounts: target.accounts.map((one) => one.name),
      sessionLimit: target.sessionLimit,
      volumes: [
        ...new Set(
          view
            .table('mapping')
            .by('target', target.id)
            .map((mapping) => volumeOf(view, mapping).name),
        ),
      ].sort(),
      connected: up
        .map((one) => ({
          host: hostName(one.host),
          from: interfaceOf(view, one).name,
          to: portOf(view, one).name,
          network: view.table('network').get(one.network ?? '')?.name ?? '',
          connections: agreedConnections(hostOf(view, one), target),
        }))
        .sort((a, b) => (`${a.host} ${a.from} ${a.to}` < `${b.host} ${b.from} ${b.to}` ? -1 : 1)),
      iqn: target.iqn,
      auth: target.auth,
      authServer: target.authServer ? (view.table('authServer').get(target.authServer)?.name ?? '') : '',
      headerDigest: target.headerDigest,
      dataDigest: target.dataDigest,
      isns: target.isns,
      portals: portals.flatMap(({ port, tcp, group }) =>
        port.addresses.map((address) => ({
          port: port.name,
          controller: controllerOf(view, port).name,
          address: formatAddress(address),
          network: networks.at(address)?.name ?? 'unknown',
          vlan: port.vlan ?? networks.at(address)?.vlan ?? 0,
          mtu: port.mtu,
          tcp,
          group,
          up: target.enabled && port.state === 'up' && controllerOf(view, port).state === 'up',
          sessions: up.filter((one) => one.port === port.id).length,
        })),
      ),
      guests: [...view.table('initiator').values()]
        .filter((row) => initiatorForm(row.name) === 'iscsi')
        .flatMap((row): GuestLine[] => {
          const host = hostOf(view, row);
          const { own = [], gaps = [], by = null } = row.name === host.presents ? (sessions.get(row.host) ?? {}) : {};
          // A target of its own is everybody's business that it shows something to, or that asks for it.
          if (!target.main && by === null) return [];
          const from = view.table('interface').by('host', host.id)[0];
          const grant = grantOf(target, { name: row.name, host, ...(from ? { from } : {}) });
          return [
            {
              host: host.name,
              name: row.name,
              access: lesser(grant.level, arrayGrants(view, row, array.id)),
              exception: grant.by ?? '',
              secret:
                row.chapSecret !== null || target.accounts.some((one) => one.name === (host.chapName || row.name)),
              by,
              sessions: own.length,
              expected: own.length + gaps.length,
              why: gaps[0]?.message ?? (row.name === host.presents ? '' : `${host.name} shows another name`),
            },
          ];
        })
        .sort((a, b) => (`${a.host} ${a.name}` < `${b.host} ${b.name}` ? -1 : 1)),
    };
  };
  return {
    targets: arrays.flatMap((array) => targetsOf(view, array.id).flatMap((target) => targetLine(array, target) ?? [])),
    subsystems: arrays.flatMap((array) =>
      subsystemsOf(view, array.id).map((row): SubsystemLine => {
        const mappings = view.table('mapping').by('subsystem', row.id);
        const guests = hosts.map((host) => ({
          host,
          controllers: connected(view, finder, host, array.id).up.filter((one) => one.subsystem === row.id).length,
        }));
        const ids = [...new Set(mappings.map((one) => one.lun))].sort((a, b) => a - b);
        return {
          array: array.name,
          name: row.name,
          nqn: row.nqn,
          allowAny: row.allowAny,
          allowed: row.allowed.map((nqn) => ({ nqn, host: hosts.find((host) => host.nqn === nqn)?.name ?? '' })),
          ports: portsOf(array.id, 'nvme-tcp')
            .filter((port) => row.ports === null || row.ports.includes(port.id))
            .map(
              (port) => `${port.name} ${port.addresses.map((one) => portalText(one.ip, listensAt(port))).join(', ')}`,
            ),
          namespaces: ids.map((id) => {
            const own = mappings.filter((one) => one.lun === id);
            return {
              id,
              volume: volumeOf(view, own[0]!).name,
              hosts: own.map((one) => hostName(one.host)).sort(),
            };
          }),
          controllers: guests.reduce((sum, guest) => sum + guest.controllers, 0),
          connections: guests.reduce(
            (sum, { host, controllers }) => sum + controllers * connectionsOf(host.ioQueues, row.queueLimit),
            0,
          ),
          controllerLimit: row.controllerLimit,
        };
      }),
    ),
    networks: [...view.table('network').values()].sort(byName).map((network) => ({
      name: network.name,
      site: siteOf(view, network).name,
      cidr: network.cidr,
      vlan: network.vlan,
      mtu: network.mtu,
      up: network.state === 'up',
      portals: arrays.flatMap((array) =>
        [...view.table('port').by('array', array.id)]
          .filter((port) => port.addresses.some((address) => networks.at(address)?.id === network.id))
          .sort(byName)
          .map((port) => `${array.name} ${port.name}`),
      ),
      interfaces: [...view.table('interface').values()]
        .filter((row) => row.addresses.some((address) => networks.at(address)?.id === network.id))
        .map((row) => ({
          name: row.name,
          host: hostName(row.host),
          mtu: row.mtu,
          up: row.state === 'up',
          bound: row.bound,
        }))
        .sort((a, b) => (`${a.host} ${a.name}` < `${b.host} ${b.name}` ? -1 : 1)),
    })),
    nameServers: [...view.table('nameServer').values()]
      .sort(byName)
      .map((row) => ({ name: row.name, ip: row.ip, up: row.state === 'up', defaultDomain: row.defaultDomain })),
    nodes: registeredNodes(view),
    domains: [...view.table('discoveryDomain').values()].sort(byName).map((row) => ({
      name: row.name,
      members: row.members.map((name) => ({ name, owner: owners.get(name) ?? '' })),
      sets: view
        .table('domainSet')
        .by('domain', row.id)
        .map((set) => ({ name: set.name, enabled: set.enabled })),
    })),
  };
}
