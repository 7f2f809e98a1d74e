import type { HostInterface, IpAddress, Network, Port } from '../estate/entities';
import type { EstateView } from '../estate/estate';
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
  | 'mtu-black-hole';

export type Reach =
  | { ok: true; from: IpAddress; to: IpAddress; mtu: number; warnings: 'mtu-differs'[] }
  | { ok: false; reason: ReachFailure };

/** {@link networkOf} for one estate, each address looked up once. */
export function networkFinder(view: EstateView): (address: IpAddress) => Network | undefined {
  const found = new Map<string, Network | undefined>();
  return (address) => {
    if (!found.has(address.ip)) found.set(address.ip, networkOf(view, address));
    return found.get(address.ip);
  };
}

/** The declared network an address lies in. */
export function networkOf(view: EstateView, address: IpAddress): Network | undefined {
  for (const network of view.table('network').values()) if (inNetwork(address, network.cidr)) return network;
  return undefined;
}

const gap = (reason: ReachFailure): Reach => ({ ok: false, reason });
const severity: ReachFailure[] = [
  'network-down',
  'mtu-black-hole',
  'vlan-mismatch',
  'prefix-mismatch',
  'no-route',
  'address-family-differs',
];

/**
 * Whether a host interface reaches a portal. Only addresses of one family meet. Over a subnet they share both ends must lie in the other's prefix and in one VLAN, and the network
 * must be up and carry the smaller of the two frame sizes. Into another subnet it takes a gateway at both ends and a declared route between
 * the two networks, both up.
 */
export function reach(networkAt: (address: IpAddress) => Network | undefined, from: HostInterface, to: Port): Reach {
  if (from.state === 'down') return gap('interface-down');
  if (from.addresses.length === 0) return gap('interface-without-address');
  if (to.state === 'down') return gap('portal-down');
  if (to.addresses.length === 0) return gap('portal-without-address');
  const failures = new Set<ReachFailure>();
  for (const a of from.addresses)
    for (const b of to.addresses) {
      const failure = between(networkAt, from, to, a, b);
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
  return gap(severity.find((reason) => failures.has(reason)) ?? 'no-route');
}

/** What stands between two addresses of ends that are up; null where they meet. */
function between(
  networkAt: (address: IpAddress) => Network | undefined,
  from: HostInterface,
  to: Port,
  a: IpAddress,
  b: IpAddress,
): ReachFailure | null {
  if (familyOf(a.ip) !== familyOf(b.ip)) return 'address-family-differs';
  const forth = inside(b.ip, a);
  const back = inside(a.ip, b);
  const networks = [networkAt(a), networkAt(b)];
  if (!forth && !back) {
    if (!routed(networks[0], networks[1], from, to, a)) return 'no-route';
  } else if (!forth || !back) return 'prefix-mismatch';
  else if ((from.vlan ?? networks[0]?.vlan ?? 0) !== (to.vlan ?? networks[1]?.vlan ?? 0)) return 'vlan-mismatch';
  if (networks.some((network) => network?.state === 'down')) return 'network-down';
  return networks.some((network) => network && network.mtu < Math.min(from.mtu, to.mtu)) ? 'mtu-black-hole' : null;
}

/** For each two addresses by which ends that are up meet, the networks they lie in. */
export function meetings(
  networkAt: (address: IpAddress) => Network | undefined,
  from: HostInterface,
  to: Port,
): readonly (readonly Network[])[] {
  return from.addresses.flatMap((a) =>
    to.addresses.flatMap((b) => {
      if (between(networkAt, from, to, a, b) !== null) return [];
      const networks = [networkAt(a), networkAt(b)].filter((network) => network !== undefined);
      return [[...new Set(networks)]];
    }),
  );
}

/** Whether an address lies in the other's subnet. Where only one does, a prefix was mistyped: the session is expected, and missed. */
const shareSubnet = (a: HostInterface, b: Port): boolean =>
  a.addresses.some((x) => b.addresses.some((y) => inside(y.ip, x) || inside(x.ip, y)));

/**
 * Interfaces by which a host can leave for a portal, in the order in which routing prefers them: in its subnet first, then through a gateway with
 * a declared route, each by name. A host that bound interfaces leaves by all of those, and by no other; else by the first that is up.
 */
export function waysOut(
  networkAt: (address: IpAddress) => Network | undefined,
  ethernet: readonly HostInterface[],
  to: Port,
): { bound: boolean; ways: readonly HostInterface[] } {
  const sorted = [...ethernet].sort((a, b) => (a.name < b.name ? -1 : 1));
  const near = sorted.filter((from) => shareSubnet(from, to));
  const far = sorted.filter((from) => !near.includes(from) && hasRoute(networkAt, from, to));
  const bound = ethernet.some((from) => from.bound);
  return { bound, ways: [...near, ...far].filter((from) => !bound || from.bound) };
}

/** Whether packets of an interface find a declared way into the subnet of a portal, whatever of it is down now. */
const hasRoute = (networkAt: (address: IpAddress) => Network | undefined, from: HostInterface, to: Port): boolean =>
  from.addresses.some((a) =>
    to.addresses.some((b) => familyOf(a.ip) === familyOf(b.ip) && routed(networkAt(a), networkAt(b), from, to, a)),
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
