import type { Host, HostInterface, Port } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { inside } from '../network/ipv4';
import { networkOf, reach, type ReachFailure } from '../network/reach';
import { nearMiss } from '../naming/nearness';

/** Login status class and detail (RFC 7143 §11.13) that this part of the product can meet. */
export type LoginStatus = '0201' | '0202' | '0203' | '0301';

export type MissingReason = ReachFailure | 'controller-down' | 'port-role-off' | 'not-authorised' | 'no-initiator';

/** An initiator port of the host that is logged in at a portal. */
export interface Session {
  interface: string;
  port: string;
  controller: string;
  network: string | null;
}

/** A pair that shares a subnet and yet has no session. */
export interface MissingSession {
  interface: string;
  port: string;
  network: string | null;
  reason: MissingReason;
  status?: LoginStatus;
  message: string;
}

export interface Sessions {
  up: Session[];
  missing: MissingSession[];
}

const reachWords: Record<ReachFailure, string> = {
  'interface-down': 'the interface is down',
  'interface-without-address': 'the interface has no address',
  'portal-down': 'the array port is down',
  'portal-without-address': 'the array port has no address',
  'prefix-mismatch': 'only one of the two lies in the other’s subnet: correct the prefix',
  'no-route': 'they lie in different subnets',
  'network-down': 'the network is down',
  'mtu-black-hole': 'the network drops frames as large as both ends send: raise its MTU or lower theirs',
};

/** Whether both addresses lie in each other's subnet: only then a session is expected at all. */
const shareSubnet = (a: HostInterface, b: Port): boolean =>
  a.addresses.some((x) => b.addresses.some((y) => inside(y.ip, x) && inside(x.ip, y)));

/** Why the array turns the host away, or null: the name the host sends must be one that is on record for it. */
export function accessRefusal(
  view: EstateView,
  host: Host,
): { reason: MissingReason; status: LoginStatus; message: string } | null {
  const known = view
    .table('initiator')
    .by('host', host.id)
    .map((row) => row.name);
  if (host.presents === null || known.length === 0)
    return { reason: 'no-initiator', status: '0202', message: `${host.name} has no initiator on record.` };
  if (known.includes(host.presents)) return null;
  const near = nearMiss(host.presents, known);
  const hint = near
    ? `${host.presents} logs in, on record is ${near.known}: ${near.distance === 1 ? 'one letter differs' : 'two letters differ'}, at position ${near.position}.`
    : `${host.presents} logs in, on record is ${known.join(', ')}.`;
  return { reason: 'not-authorised', status: '0202', message: `Not authorised (0202): ${hint}` };
}

function attempt(
  view: EstateView,
  host: Host,
  from: HostInterface,
  to: Port,
  access: ReturnType<typeof accessRefusal>,
): Session | MissingSession {
  const network = to.addresses[0] ? (networkOf(view, to.addresses[0])?.id ?? null) : null;
  const pair = { interface: from.id, port: to.id, network };
  const words = `${from.name} to ${to.name}: `;
  const met = reach(view, from, to);
  if (!met.ok && (met.reason === 'interface-down' || met.reason === 'interface-without-address'))
    return { ...pair, reason: met.reason, message: words + reachWords[met.reason] };
  const controller = view.table('controller').get(to.controller)!;
  if (controller.state === 'down')
    return {
      ...pair,
      reason: 'controller-down',
      status: '0301',
      message: `${words}controller ${controller.name} is down`,
    };
  if (!met.ok) return { ...pair, reason: met.reason, message: words + reachWords[met.reason] };
  if (to.role !== 'iscsi')
    return { ...pair, reason: 'port-role-off', status: '0203', message: `${words}the port does not serve iSCSI` };
  if (access) return { ...pair, reason: access.reason, status: access.status, message: access.message };
  return { ...pair, controller: controller.id, network: networkOf(view, met.to)?.id ?? null };
}

/**
 * The host logs in from each interface at each portal of the array it shares a subnet with: sessions = interfaces × portals that reach each
 * other. Pairs that share a subnet and fail are listed with the reason. Ports without the iSCSI role count as expected only when nothing
 * else is wrong with them and they once were portals, that is when they have an address.
 */
export function sessions(view: EstateView, host: Host, array: string): Sessions {
  const access = accessRefusal(view, host);
  const result: Sessions = { up: [], missing: [] };
  const ports = view
    .table('port')
    .by('array', array)
    .filter((port) => port.kind === 'ethernet' && port.addresses.length > 0);
  for (const from of [...view.table('interface').by('host', host.id)].sort(byId))
    for (const to of [...ports].sort(byId)) {
      if (!shareSubnet(from, to)) continue;
      const outcome = attempt(view, host, from, to, access);
      if ('reason' in outcome) result.missing.push(outcome);
      else result.up.push(outcome);
    }
  return result;
}

const byId = (a: { id: string }, b: { id: string }) => (a.id < b.id ? -1 : a.id > b.id ? 1 : 0);
