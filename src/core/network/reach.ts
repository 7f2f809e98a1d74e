import type { HostInterface, IpAddress, Network, Port, SiteLink } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import { familyOf, inNetwork, inside } from './address';

/** Why an interface and a portal do not meet, in the order in which it is asked. */
export type ReachFailure =
  | 'interface-down'
  | 'interface-without-address'
  | 'portal-down'
  | 'portal-without-address'
  | 'address-family-differs'
  | 'vlan-mismatch'
  | 'prefix-mismatch'
  | 'no-route'
  | 'network-down'
  | 'line-down'
  | 'mtu-black-hole';

export type Reach =
  | { ok: true; from: IpAddress; to: IpAddress; mtu: number; warnings: 'mtu-differs'[] }
  /** `lines`: links between sites that carry the network and are all down. */
  | { ok: false; reason: ReachFailure; lines?: readonly SiteLink[] };

/** The networks of one estate, and the links between sites they run over. */
export interface Networks {
  /** {@link networkOf}, each address looked up once. */
  at(address: IpAddress): Network | undefined;
  /** Links between the sites of both ends that carry one of these networks; none where the ends stand at one site, or no link is known to carry them. */
  linesOf(from: HostInterface, to: Port, networks: readonly (Network | undefined)[]): readonly SiteLink[];
}

export function networksOf(view: EstateView): Networks {
  const found = new Map<string, Network | undefined>();
  const lines = [...view.table('siteLink').values()].filter(({ networks }) => networks.length > 0);
  return {
    at(address) {
      if (!found.has(address.ip)) found.set(address.ip, networkOf(view, address));
      return found.get(address.ip);
    },
    linesOf(from, to, networks) {
      if (lines.length === 0 || from.host === null) return [];
      const [here, there] = [view.table('host').get(from.host)?.site, arrayOf(view, to).site];
      if (here === undefined || here === there) return [];
      return lines.filter(
        (line) =>
          line.sites.includes(here) &&
          line.sites.includes(there) &&
          networks.some((network) => network && line.networks.includes(network.id)),
      );
    },
  };
}

/** The declared network an address lies in. */
export function networkOf(view: EstateView, address: IpAddress): Network | undefined {
  for (const network of view.table('network').values()) if (inNetwork(address, network.cidr)) return network;
  return undefined;
}

const gap = (reason: ReachFailure): Extract<Reach, { ok: false }> => ({ ok: false, reason });
const severity: ReachFailure[] = [
  'network-down',
  'line-down',
  'mtu-black-hole',
  'vlan-mismatch',
  'prefix-mismatch',
  'no-route',
  'address-family-differs',
];

/**
 * Whether a host interface reaches a portal. Only addresses of one family meet. Over a subnet they share both ends must lie in the other's prefix and in one VLAN, and the network
 * must be up and carry the smaller of the two frame sizes. Into another subnet it takes a gateway at both ends and a declared route between
 * the two networks, both up. Between two sites one of the links that carry the network must be up.
 */
export function reach(networks: Networks, from: HostInterface, to: Port): Reach {
  if (from.state === 'down') return gap('interface-down');
  if (from.addresses.length === 0) return gap('interface-without-address');
  if (to.state === 'down') return gap('portal-down');
  if (to.addresses.length === 0) return gap('portal-without-address');
  const failures = new Set<ReachFailure>();
  for (const a of from.addresses)
    for (const b of to.addresses) {
      const failure = between(networks, from, to, a, b);
      if (failure === null)
        return {
          ok: true,
          from: a,
          to: b,
          mtu: Math.min(from.mtu, to.mtu),
          warnings: from.mtu === to.mtu ? [] : ['mtu-differs'],
        };
      failures.add(failure);
    }
  const reason = severity.find((one) => failures.has(one)) ?? 'no-route';
  return reason === 'line-down' ? { ...gap(reason), lines: linesBetween(networks, from, to) } : gap(reason);
}

/** Links between sites that carry a network of both ends, up or not. */
const linesBetween = (networks: Networks, from: HostInterface, to: Port): SiteLink[] => [
  ...new Set(
    networks.linesOf(
      from,
      to,
      [...from.addresses, ...to.addresses].map((one) => networks.at(one)),
    ),
  ),
];

/** What stands between two addresses of ends that are up; null where they meet. */
function between(networks: Networks, from: HostInterface, to: Port, a: IpAddress, b: IpAddress): ReachFailure | null {
  if (familyOf(a.ip) !== familyOf(b.ip)) return 'address-family-differs';
  const forth = inside(b.ip, a);
  const back = inside(a.ip, b);
  const both = [networks.at(a), networks.at(b)];
  if (!forth && !back) {
    if (!routed(both[0], both[1], from, to, a)) return 'no-route';
  } else if (!forth || !back) return 'prefix-mismatch';
  else if ((from.vlan ?? both[0]?.vlan ?? 0) !== (to.vlan ?? both[1]?.vlan ?? 0)) return 'vlan-mismatch';
  if (both.some((network) => network?.state === 'down')) return 'network-down';
  const lines = networks.linesOf(from, to, both);
  if (lines.length > 0 && lines.every(({ state }) => state === 'down')) return 'line-down';
  return both.some((network) => network && network.mtu < Math.min(from.mtu, to.mtu)) ? 'mtu-black-hole' : null;
}

/** What two ends meet by: the networks their addresses lie in, and of the links between sites that carry these one that is up. */
export interface Meeting {
  networks: readonly Network[];
  line: SiteLink | null;
}

/** For each two addresses by which ends that are up meet, and for each link that brings them together, what they meet by. */
export function meetings(networks: Networks, from: HostInterface, to: Port): readonly Meeting[] {
  return from.addresses.flatMap((a) =>
    to.addresses.flatMap((b): Meeting[] => {
      if (between(networks, from, to, a, b) !== null) return [];
      const met = [...new Set([networks.at(a), networks.at(b)].filter((network) => network !== undefined))];
      const lines = networks.linesOf(from, to, met).filter(({ state }) => state === 'up');
      return lines.length === 0 ? [{ networks: met, line: null }] : lines.map((line) => ({ networks: met, line }));
    }),
  );
}

/** Links between sites that what two ends send goes over now, in equal parts. */
export const linesUnder = (networks: Networks, from: HostInterface, to: Port): readonly SiteLink[] =>
  meetings(networks, from, to).flatMap(({ line }) => line ?? []);

/** Whether an address lies in the other's subnet. Where only one does, a prefix was mistyped: the session is expected, and missed. */
const shareSubnet = (a: HostInterface, b: Port): boolean =>
  a.addresses.some((x) => b.addresses.some((y) => inside(y.ip, x) || inside(x.ip, y)));

/**
 * Interfaces by which a host can leave for a portal, in the order in which routing prefers them: in its subnet first, then through a gateway with
 * a declared route, each by name. A host that bound interfaces leaves by all of those, and by no other; else by the first that is up.
 */
export function waysOut(
  networks: Networks,
  ethernet: readonly HostInterface[],
  to: Port,
): { bound: boolean; ways: readonly HostInterface[] } {
  const sorted = [...ethernet].sort((a, b) => (a.name < b.name ? -1 : 1));
  const near = sorted.filter((from) => shareSubnet(from, to));
  const far = sorted.filter((from) => !near.includes(from) && hasRoute(networks, from, to));
  const bound = ethernet.some((from) => from.bound);
  return { bound, ways: [...near, ...far].filter((from) => !bound || from.bound) };
}

/** Whether packets of an interface find a declared way into the subnet of a portal, whatever of it is down now. */
const hasRoute = (networks: Networks, from: HostInterface, to: Port): boolean =>
  from.addresses.some((a) =>
    to.addresses.some((b) => familyOf(a.ip) === familyOf(b.ip) && routed(networks.at(a), networks.at(b), from, to, a)),
  );

/** Whether a router takes packets from one network to the other: it is declared, and both ends know their gateway of that family. */
const routed = (
  a: Network | undefined,
  b: Network | undefined,
  from: HostInterface,
  to: Port,
  address: IpAddress,
): boolean =>
  a !== undefined &&
  b !== undefined &&
  from.gateway !== null &&
  to.gateway !== null &&
  familyOf(from.gateway) === familyOf(address.ip) &&
  familyOf(to.gateway) === familyOf(address.ip) &&
  (a.routes.includes(b.id) || b.routes.includes(a.id));
