import type { HostInterface } from '../../estate/entities';
import type { LoginStatus } from '../../iscsi/login';
import { bindingFailure, bindingWords } from '../../network/binding';
import { reach, waysOut, type Reach, type ReachFailure } from '../../network/reach';
import type { Gathered, MissingReason, MissingSession, Refused } from './session';
import type { Door, Surroundings } from './surroundings';

export const reachWords: Record<ReachFailure, string> = {
  'interface-down': 'the interface is down',
  'interface-without-address': 'the interface has no address',
  'portal-down': 'the array port is down',
  'portal-without-address': 'the array port has no address',
  'address-family-differs': 'one end has IPv4 addresses only, the other IPv6 only: give both an address of one family',
  'vlan-mismatch': 'they lie in different VLANs: set the same one',
  'prefix-mismatch': 'only one of the two lies in the other’s subnet: correct the prefix',
  'no-route': 'they lie in different subnets',
  'network-down': 'the network is down',
  'line-down': 'the link between the sites that carries the network is down',
  'mtu-black-hole': 'the network drops frames as large as both ends send: raise its MTU or lower theirs',
};

/** The same with the links between sites by name. */
const unmetWords = ({ reason, lines = [] }: Extract<Reach, { ok: false }>): string =>
  lines.length === 0
    ? reachWords[reason]
    : `${lines.map(({ name }) => name).join(' and ')}, which ${lines.length === 1 ? 'carries' : 'carry'} the network between the sites, ${lines.length === 1 ? 'is' : 'are'} down`;

/** What a host asks for over IP: a target or a subsystem, and whether it is let in from an interface that reaches it. */
export interface Service {
  role: 'iscsi' | 'nvme-tcp';
  target: string | null;
  subsystem: string | null;
  /** A target that answers nobody. */
  closed: Refused | null;
  refused: (from: HostInterface) => Refused | null;
}

/** What stands between two ends over IP. */
interface Stop {
  reason: MissingReason;
  why: string;
  status?: LoginStatus;
  /** The words name both ends already. */
  whole?: true;
}

/** Ends between which nothing was set up: from each bound interface, else from the first that is up. */
const strangers = (ethernet: readonly HostInterface[]): HostInterface[] => {
  const bound = ethernet.filter((from) => from.bound);
  const first = ethernet.find((from) => from.state === 'up') ?? ethernet[0];
  if (bound.length > 0) return bound;
  return first ? [first] : [];
};

/** How interfaces of a host meet portals of an array over IP. */
export function ipMeetings({ networks, byPort }: Surroundings) {
  /** What stands between an interface and a port, apart from who the host is, the hop nearest the drives first; null where they meet. */
  const between = (
    from: HostInterface,
    door: Door,
    role: 'iscsi' | 'nvme-tcp',
    closed: Refused | null,
  ): Stop | null => {
    const iscsi = role === 'iscsi';
    if (!door.controller.up)
      return {
        reason: 'controller-down',
        why: `controller ${door.controller.name} is down`,
        ...(iscsi ? { status: '0301' as const } : {}),
      };
    if (door.port.state === 'down') return { reason: 'portal-down', why: reachWords['portal-down'] };
    if (door.port.role !== role)
      return {
        reason: 'port-role-off',
        why: `the port does not serve ${iscsi ? 'iSCSI' : 'NVMe/TCP'}`,
        ...(iscsi ? { status: '0203' as const } : {}),
      };
    if (closed) return { reason: closed.reason, why: closed.message, status: '0301', whole: true };
    const met = reach(networks, from, door.port);
    if (!met.ok && met.reason.startsWith('interface-')) return { reason: met.reason, why: reachWords[met.reason] };
    const unfit = from.bound ? bindingFailure(from) : null;
    if (unfit) return { reason: unfit, why: bindingWords[unfit] };
    return met.ok ? null : { reason: met.reason, why: unmetWords(met) };
  };

  /** Which interfaces of the host sessions to the port leave by. */
  const leavers = (ethernet: readonly HostInterface[], door: Door): readonly HostInterface[] => {
    const { bound, ways } = waysOut(networks, ethernet, door.port);
    if (bound) return ways;
    const picked = ways.find((from) => from.state === 'up') ?? ways[0];
    return picked ? [picked] : [];
  };

  /** Meets every portal over IP; `refused` is why the host would not be let in where they reach each other. */
  return (
    doors: readonly Door[],
    ethernet: readonly HostInterface[],
    { role, target, subsystem, closed, refused }: Service,
    result: Gathered,
  ): void => {
    const unreached: Door[] = [];
    const endOf = (from: HostInterface, door: Door) => ({
      transport: role,
      interface: from.id,
      port: door.port.id,
      controller: door.controller.id,
      network: door.network,
      target,
      subsystem,
    });
    const gapOf = (from: HostInterface, door: Door, stop: Stop): MissingSession => ({
      ...endOf(from, door),
      reason: stop.reason,
      message: stop.whole ? stop.why : `${from.name} to ${door.port.name}: ${stop.why}`,
      ...(stop.status ? { status: stop.status } : {}),
    });
    for (const door of doors) {
      const leaving = leavers(ethernet, door);
      if (leaving.length === 0) unreached.push(door);
      for (const from of leaving) {
        const end = endOf(from, door);
        const stop = between(from, door, role, closed);
        if (stop) {
          result.missing.push(gapOf(from, door, stop));
          continue;
        }
        const no = refused(from);
        if (no)
          result.missing.push({
            ...end,
            reason: no.reason,
            message: no.message,
            ...(no.status ? { status: no.status } : {}),
          });
        else result.up.push(end);
      }
    }
    result.later.push(() =>
      unreached
        .flatMap((door) =>
          strangers(ethernet).flatMap((from) => {
            const stop = between(from, door, role, closed);
            return stop ? [gapOf(from, door, stop)] : [];
          }),
        )
        .sort(byPort),
    );
  };
}

export type IpMeetings = ReturnType<typeof ipMeetings>;
