import type { EstateView } from '../estate/estate';
import { connected, type LetIn } from '../attach/connected';
import { pathFinder } from '../attach/paths';
import { initiatorForm } from '../attach/initiators';
import { formatAddress } from '../network/ipv4';
import { networkFinder } from '../network/reach';
import { NVME_PORT, subsystemsOf } from '../nvme/connect';
import { byName } from '../operation/draft';

export interface PortalLine {
  port: string;
  controller: string;
  address: string;
  network: string;
  vlan: number;
  mtu: number;
  group: number;
  up: boolean;
  sessions: number;
}

export interface GuestLine {
  host: string;
  name: string;
  access: 'read-write' | 'read-only' | 'none';
  /** Why it logs in here; null where it was never told to and nothing is mapped to it. */
  by: LetIn | null;
  /** Whether a secret is on record for it. */
  secret: boolean;
  sessions: number;
  expected: number;
  why: string;
}

/** The iSCSI target of an array: what it demands, where it listens, who may log in. */
export interface TargetLine {
  array: string;
  iqn: string;
  auth: 'none' | 'one-way' | 'mutual';
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
  domains: { name: string; members: { name: string; owner: string }[]; sets: { name: string; enabled: boolean }[] }[];
}

/** What stands on the IP side: targets, subsystems, networks and the name service. */
export function targetView(view: EstateView): TargetView {
  const finder = pathFinder(view);
  const networkAt = networkFinder(view);
  const arrays = [...view.table('array').values()].sort(byName);
  const hosts = [...view.table('host').values()].sort(byName);
  const hostName = (id: string | null) => (id ? (view.table('host').get(id)?.name ?? '') : '');
  const owners = new Map<string, string>([
    ...arrays.map((array) => [array.iqn, array.name] as const),
    ...[...view.table('initiator').values()].map((row) => [row.name, hostName(row.host)] as const),
  ]);
  const portsOf = (array: string, role: string) =>
    [...view.table('port').by('array', array)].filter((port) => port.role === role).sort(byName);
  return {
    targets: arrays
      .filter((array) => portsOf(array.id, 'iscsi').length > 0)
      .map((array): TargetLine => {
        const sessions = new Map(
          hosts
            .filter((host) => host.presents !== null)
            .map((host) => {
              const { up, missing, by } = connected(view, finder, host, array.id);
              const own = up.filter((one) => one.transport === 'iscsi');
              const gaps = missing.filter((one) => one.transport === 'iscsi' && one.reason !== 'port-role-off');
              return [host.id, { own, gaps, by }] as const;
            }),
        );
        const count = (port: string) =>
          [...sessions.values()].reduce((sum, { own }) => sum + own.filter((one) => one.port === port).length, 0);
        return {
          array: array.name,
          iqn: array.iqn,
          auth: array.auth,
          authServer: array.authServer ? (view.table('authServer').get(array.authServer)?.name ?? '') : '',
          headerDigest: array.headerDigest,
          dataDigest: array.dataDigest,
          isns: array.isns,
          portals: portsOf(array.id, 'iscsi').flatMap((port) =>
            port.addresses.map((address) => ({
              port: port.name,
              controller: view.table('controller').get(port.controller)?.name ?? '',
              address: formatAddress(address),
              network: networkAt(address)?.name ?? 'unknown',
              vlan: port.vlan ?? networkAt(address)?.vlan ?? 0,
              mtu: port.mtu,
              group: port.portalGroup,
              up: port.state === 'up' && view.table('controller').get(port.controller)?.state === 'up',
              sessions: count(port.id),
            })),
          ),
          guests: [...view.table('initiator').values()]
            .filter((row) => initiatorForm(row.name) === 'iscsi')
            .map((row): GuestLine => {
              const host = view.table('host').get(row.host)!;
              const {
                own = [],
                gaps = [],
                by = null,
              } = row.name === host.presents ? (sessions.get(row.host) ?? {}) : {};
              return {
                host: host.name,
                name: row.name,
                access:
                  view
                    .table('access')
                    .by('initiator', row.id)
                    .find((one) => one.array === array.id)?.level ?? 'read-write',
                secret: row.chapSecret !== null,
                by,
                sessions: own.length,
                expected: own.length + gaps.length,
                why: gaps[0]?.message ?? (row.name === host.presents ? '' : `${host.name} shows another name`),
              };
            })
            .sort((a, b) => (`${a.host} ${a.name}` < `${b.host} ${b.name}` ? -1 : 1)),
        };
      }),
    subsystems: arrays.flatMap((array) =>
      subsystemsOf(view, array.id).map((row): SubsystemLine => {
        const mappings = view.table('mapping').by('subsystem', row.id);
        const ids = [...new Set(mappings.map((one) => one.lun))].sort((a, b) => a - b);
        return {
          array: array.name,
          name: row.name,
          nqn: row.nqn,
          allowAny: row.allowAny,
          allowed: row.allowed.map((nqn) => ({ nqn, host: hosts.find((host) => host.nqn === nqn)?.name ?? '' })),
          ports: portsOf(array.id, 'nvme-tcp')
            .filter((port) => row.ports === null || row.ports.includes(port.id))
            .map((port) => `${port.name} ${port.addresses.map((one) => `${one.ip}:${NVME_PORT}`).join(', ')}`),
          namespaces: ids.map((id) => {
            const own = mappings.filter((one) => one.lun === id);
            return {
              id,
              volume: view.table('volume').get(own[0]!.volume)!.name,
              hosts: own.map((one) => hostName(one.host)).sort(),
            };
          }),
          controllers: hosts.reduce(
            (sum, host) =>
              sum + connected(view, finder, host, array.id).up.filter((one) => one.subsystem === row.id).length,
            0,
          ),
          controllerLimit: row.controllerLimit,
        };
      }),
    ),
    networks: [...view.table('network').values()].sort(byName).map((network) => ({
      name: network.name,
      site: view.table('site').get(network.site)?.name ?? '',
      cidr: network.cidr,
      vlan: network.vlan,
      mtu: network.mtu,
      up: network.state === 'up',
      portals: arrays.flatMap((array) =>
        [...view.table('port').by('array', array.id)]
          .filter((port) => port.addresses.some((address) => networkAt(address)?.id === network.id))
          .sort(byName)
          .map((port) => `${array.name} ${port.name}`),
      ),
      interfaces: [...view.table('interface').values()]
        .filter((row) => row.addresses.some((address) => networkAt(address)?.id === network.id))
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
