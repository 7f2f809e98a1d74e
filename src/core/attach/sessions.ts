import type { Host, HostInterface, Port } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { inside } from '../network/ipv4';
import { networkFinder, reach, type ReachFailure } from '../network/reach';
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

/** A portal to be, with what every host asks of it. */
interface Door {
  port: Port;
  network: string | null;
  controller: { id: string; name: string; up: boolean };
}

function attempt(
  networkAt: ReturnType<typeof networkFinder>,
  from: HostInterface,
  door: Door,
  access: ReturnType<typeof accessRefusal>,
): Session | MissingSession {
  const { port: to, network, controller } = door;
  const gap = (reason: MissingReason, why: string, status?: LoginStatus): MissingSession => ({
    interface: from.id,
    port: to.id,
    network,
    reason,
    message: `${from.name} to ${to.name}: ${why}`,
    ...(status ? { status } : {}),
  });
  const met = reach(networkAt, from, to);
  if (!met.ok && met.reason.startsWith('interface-')) return gap(met.reason, reachWords[met.reason]);
  if (!controller.up) return gap('controller-down', `controller ${controller.name} is down`, '0301');
  if (!met.ok) return gap(met.reason, reachWords[met.reason]);
  if (to.role !== 'iscsi') return gap('port-role-off', 'the port does not serve iSCSI', '0203');
  if (access) return { ...gap(access.reason, '', access.status), message: access.message };
  return { interface: from.id, port: to.id, controller: controller.id, network: networkAt(met.to)?.id ?? null };
}

/**
 * The host logs in from each interface at each portal of the array it shares a subnet with: sessions = interfaces × portals that reach each
 * other. Pairs that share a subnet and fail are listed with the reason. What is asked of every pair (ports of an array, interfaces and
 * names of a host) is looked up once an estate.
 */
export function sessionBook(view: EstateView): (host: string, array: string) => Sessions {
  const networkAt = networkFinder(view);
  const doors = remembered((array): Door[] =>
    view
      .table('port')
      .by('array', array)
      .filter((port) => port.kind === 'ethernet' && port.addresses.length > 0)
      .sort(byId)
      .map((port) => {
        const controller = view.table('controller').get(port.controller)!;
        return {
          port,
          network: networkAt(port.addresses[0]!)?.id ?? null,
          controller: { id: controller.id, name: controller.name, up: controller.state === 'up' },
        };
      }),
  );
  const guests = remembered((id) => ({
    access: accessRefusal(view, view.table('host').get(id)!),
    interfaces: [...view.table('interface').by('host', id)].sort(byId),
  }));
  return (host, array) => {
    const { access, interfaces } = guests(host);
    const result: Sessions = { up: [], missing: [] };
    for (const from of interfaces)
      for (const door of doors(array)) {
        if (!shareSubnet(from, door.port)) continue;
        const outcome = attempt(networkAt, from, door, access);
        if ('reason' in outcome) result.missing.push(outcome);
        else result.up.push(outcome);
      }
    return result;
  };
}

function remembered<T>(work: (key: string) => T): (key: string) => T {
  const known = new Map<string, T>();
  return (key) => {
    let value = known.get(key);
    if (value === undefined) known.set(key, (value = work(key)));
    return value;
  };
}

const byId = (a: { id: string }, b: { id: string }) => (a.id < b.id ? -1 : a.id > b.id ? 1 : 0);
