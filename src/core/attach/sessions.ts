import type { HostInterface, Kind, Port, Transport } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayDevice, deviceText, hostDevice, loggedIn, type FcDevice } from '../fabric/devices';
import { fabricRoutes } from '../fabric/routes';
import { memberForms, zoneBook, type ZoneBook } from '../fabric/zoning';
import { nameServerUp, seesByIsns } from '../iscsi/isns';
import { loginRefusal, type LoginReason, type LoginStatus } from '../iscsi/login';
import { diagnose } from '../naming/diagnose';
import { formatWwn } from '../naming/wwn';
import { bindingFailure, bindingWords, type BindingFailure } from '../network/binding';
import { inside } from '../network/ipv4';
import { networkFinder, reach, type ReachFailure } from '../network/reach';
import { connectRefusal, offeredAt, subsystemsOf, type ConnectStatus } from '../nvme/connect';

/** Why an initiator port and a target port that should meet do not. */
export type MissingReason =
  | ReachFailure
  | BindingFailure
  | LoginReason
  | 'controller-down'
  | 'port-role-off'
  | 'nqn-not-allowed'
  | 'controller-limit'
  | 'initiator-not-logged-in'
  | 'target-not-logged-in'
  | 'array-port-down'
  | 'switch-down'
  | 'no-isl-route'
  | 'not-zoned'
  | 'initiator-unknown';

/** An initiator port of the host that is logged in at a port of the array. */
export interface Session {
  transport: Transport;
  interface: string;
  port: string;
  controller: string;
  /** The network, or the fabric, between them. */
  network: string | null;
  /** Of an NVMe controller. */
  subsystem: string | null;
}

/** A pair that should meet and does not. */
export interface MissingSession {
  transport: Transport;
  interface: string;
  port: string;
  network: string | null;
  subsystem: string | null;
  reason: MissingReason;
  status?: LoginStatus | ConnectStatus;
  message: string;
}

export interface Sessions {
  up: Session[];
  missing: MissingSession[];
}

export const reachWords: Record<ReachFailure, string> = {
  'interface-down': 'the interface is down',
  'interface-without-address': 'the interface has no address',
  'portal-down': 'the array port is down',
  'portal-without-address': 'the array port has no address',
  'vlan-mismatch': 'they lie in different VLANs: set the same one',
  'prefix-mismatch': 'only one of the two lies in the other’s subnet: correct the prefix',
  'no-route': 'they lie in different subnets',
  'network-down': 'the network is down',
  'mtu-black-hole': 'the network drops frames as large as both ends send: raise its MTU or lower theirs',
};

/** Whether both addresses lie in each other's subnet: only then a session is expected at all. */
const shareSubnet = (a: HostInterface, b: Port): boolean =>
  a.addresses.some((x) => b.addresses.some((y) => inside(y.ip, x) && inside(x.ip, y)));

/** A port of an array, with what every host asks of it. */
interface Door {
  port: Port;
  network: string | null;
  controller: { id: string; name: string; up: boolean };
  /** Where it ends in a fabric, and how zones may name it there. */
  device: FcDevice | null;
  forms: readonly string[];
}

const byId = (a: { id: string }, b: { id: string }) => (a.id < b.id ? -1 : a.id > b.id ? 1 : 0);

/** Kinds of rows that decide whether ports meet, and which path is the best. */
export const pathKinds: ReadonlySet<Kind> = new Set<Kind>([
  'access',
  'activeZone',
  'array',
  'authServer',
  'controller',
  'domainSet',
  'discoveryDomain',
  'fabric',
  'host',
  'initiator',
  'interface',
  'isl',
  'login',
  'nameServer',
  'network',
  'port',
  'subsystem',
  'switch',
]);

const books = new WeakMap<EstateView, { stamp: number; book: (host: string, array: string) => Sessions }>();

/**
 * {@link openBook}, kept as long as nothing of an estate has moved that decides about sessions. A preview that leaves all that alone reads the
 * book of the estate under it.
 */
export function sessionBook(view: EstateView): (host: string, array: string) => Sessions {
  let root = view;
  while (root.below && ![...pathKinds].some((kind) => root.revision(kind) > 0)) root = root.below;
  let stamp = 0;
  for (const kind of pathKinds) stamp += root.revision(kind);
  const known = books.get(root);
  if (known?.stamp === stamp) return known.book;
  const answers = new Map<string, Sessions>();
  const ask = openBook(root);
  const book = (host: string, array: string): Sessions => {
    const key = `${host} ${array}`;
    let found = answers.get(key);
    if (!found) answers.set(key, (found = ask(host, array)));
    return found;
  };
  books.set(root, { stamp, book });
  return book;
}

/**
 * How a host meets an array over each transport: every pair of ports that is logged in, and every pair that should be and is not, with the
 * first reason. What is asked of every pair (ports of an array, ports and names of a host, zones, routes) is looked up once an estate.
 */
function openBook(view: EstateView): (host: string, array: string) => Sessions {
  const networkAt = networkFinder(view);
  const routes = fabricRoutes(view);
  const books = remembered((fabric): ZoneBook => zoneBook(view, fabric));
  const doors = remembered((array): Door[] =>
    view
      .table('port')
      .by('array', array)
      .filter((port) => port.kind === 'fc' || port.addresses.length > 0)
      .sort(byId)
      .map((port) => {
        const controller = view.table('controller').get(port.controller)!;
        const device = arrayDevice(view, port);
        return {
          port,
          network: device ? device.fabric : (networkAt(port.addresses[0]!)?.id ?? null),
          controller: { id: controller.id, name: controller.name, up: controller.state === 'up' },
          device,
          forms: device ? memberForms(device) : [],
        };
      }),
  );
  const doorsIn = remembered((key): Door[] => {
    const [array = '', fabric] = key.split(' ');
    return doors(array).filter((door) => door.device?.fabric === fabric);
  });
  const guests = remembered((id) => {
    const all = [...view.table('interface').by('host', id)].sort(byId);
    return {
      host: view.table('host').get(id)!,
      names: new Set(
        view
          .table('initiator')
          .by('host', id)
          .map((row) => row.name),
      ),
      ethernet: all.filter((row) => row.kind === 'ethernet'),
      fc: all.flatMap((row) => hostDevice(view, row) ?? []),
    };
  });
  const subsystems = remembered((array) => subsystemsOf(view, array));

  const overFabric = (host: string, array: string, result: Sessions): void => {
    const guest = guests(host);
    for (const initiator of guest.fc) {
      if (initiator.fabric === null) continue;
      const book = books(initiator.fabric);
      const here = doorsIn(`${array} ${initiator.fabric}`);
      const partners = book.partners(initiator);
      const zoned =
        partners === null
          ? here.filter((door) => book.mayTalk(initiator, door.device!))
          : here.filter((door) => door.forms.some((form) => partners.has(form)));
      const gap = (door: Door, reason: MissingReason, why: string) =>
        result.missing.push({
          transport: 'fc',
          interface: initiator.id,
          port: door.port.id,
          network: initiator.fabric,
          subsystem: null,
          reason,
          message: `${initiator.name} to ${door.port.name}: ${why}`,
        });
      if (zoned.length === 0) {
        // One way to each controller is the least that is wanted.
        const first = new Map<string, Door>();
        for (const door of [...here].sort((a, b) => (a.port.name < b.port.name ? -1 : 1)))
          if (!first.has(door.controller.id)) first.set(door.controller.id, door);
        for (const door of first.values()) gap(door, 'not-zoned', 'they share no active zone');
        continue;
      }
      for (const door of zoned) {
        const target = door.device!;
        if (initiator.switch?.state === 'down') gap(door, 'switch-down', `switch ${initiator.switch.name} is down`);
        else if (!loggedIn(initiator))
          gap(door, 'initiator-not-logged-in', `${deviceText(initiator)} has no fabric login`);
        else if (!door.controller.up) gap(door, 'controller-down', `controller ${door.controller.name} is down`);
        else if (door.port.state === 'down') gap(door, 'array-port-down', 'the array port is down');
        else if (target.switch?.state === 'down') gap(door, 'switch-down', `switch ${target.switch.name} is down`);
        else if (!loggedIn(target)) gap(door, 'target-not-logged-in', `${door.port.name} has no fabric login`);
        else if (routes.hops(initiator.switch!.id, target.switch!.id) === null)
          gap(door, 'no-isl-route', `no link leads from ${initiator.switch!.name} to ${target.switch!.name}`);
        else if (!guest.names.has(initiator.wwpn)) {
          const known = [...guest.names].filter((name) => /^[0-9a-f]{16}$/.test(name));
          const found = diagnose(
            initiator.wwpn,
            'port',
            known.map((name) => ({ name, role: 'port' as const, owner: guest.host.name })),
          );
          gap(
            door,
            'initiator-unknown',
            `${formatWwn(initiator.wwpn)} logs in, ${found.is === 'near-miss' ? `on record is ${formatWwn(found.known.name)}: ${found.distance} ${found.distance === 1 ? 'digit differs' : 'digits differ'}` : `and is not on record for ${guest.host.name}`}`,
          );
        } else
          result.up.push({
            transport: 'fc',
            interface: initiator.id,
            port: door.port.id,
            controller: door.controller.id,
            network: initiator.fabric,
            subsystem: null,
          });
      }
    }
  };

  /** What stands between an interface and a port, apart from who the host is; null where they meet. */
  const between = (
    from: HostInterface,
    door: Door,
    role: 'iscsi' | 'nvme-tcp',
  ): { reason: MissingReason; why: string; status?: LoginStatus } | null => {
    const met = reach(networkAt, from, door.port);
    if (!met.ok && met.reason.startsWith('interface-')) return { reason: met.reason, why: reachWords[met.reason] };
    const unfit = from.bound ? bindingFailure(from) : null;
    if (unfit) return { reason: unfit, why: bindingWords[unfit] };
    if (!door.controller.up)
      return {
        reason: 'controller-down',
        why: `controller ${door.controller.name} is down`,
        ...(role === 'iscsi' ? { status: '0301' as const } : {}),
      };
    if (!met.ok) return { reason: met.reason, why: reachWords[met.reason] };
    if (door.port.role !== role)
      return {
        reason: 'port-role-off',
        why: `the port does not serve ${role === 'iscsi' ? 'iSCSI' : 'NVMe/TCP'}`,
        ...(role === 'iscsi' ? { status: '0203' as const } : {}),
      };
    return null;
  };

  /** Which interface of the host a session to the port leaves by: each bound one, else the one routing picks. */
  const leavers = (ethernet: readonly HostInterface[], door: Door): HostInterface[] => {
    const near = ethernet.filter((from) => shareSubnet(from, door.port));
    const far =
      near.length > 0 ? [] : ethernet.filter((from) => from.gateway !== null && reach(networkAt, from, door.port).ok);
    const bound = ethernet.some((from) => from.bound);
    if (bound) return [...near, ...far].filter((from) => from.bound);
    const all = [...near, ...far].sort((a, b) => (a.name < b.name ? -1 : 1));
    const live = all.filter((from) => from.state === 'up');
    return (live.length > 0 ? live : all).slice(0, 1);
  };

  const overIscsi = (host: string, array: string, result: Sessions): void => {
    const { host: guest, ethernet } = guests(host);
    if (ethernet.length === 0) return;
    const row = view.table('array').get(array)!;
    const portals = doors(array).filter((door) => door.port.kind === 'ethernet');
    let access = loginRefusal(view, guest, row);
    let offered: readonly string[] | null = null;
    if (guest.discovery === 'isns' && guest.presents !== null) {
      const seen =
        nameServerUp(view) && row.isns
          ? seesByIsns(
              view,
              guest.presents,
              row.iqn,
              portals.flatMap((door) => door.port.addresses.map((address) => `${address.ip}:3260`)),
            )
          : { visible: false, portals: null, wouldHelp: [] };
      offered = seen.portals;
      if (!seen.visible)
        access = {
          reason: 'not-discovered',
          message: nameServerUp(view)
            ? `No enabled domain set holds ${guest.name} and ${row.name}${seen.wouldHelp[0] ? `; enable ${seen.wouldHelp[0]}` : ''}.`
            : 'The name server does not answer.',
        };
    }
    if (
      !access &&
      !guest.autoLogin &&
      !view
        .table('login')
        .by('host', guest.id)
        .some((login) => login.array === array)
    )
      access = { reason: 'not-logged-in', message: `${guest.name} was not told to log in at ${row.name}.` };
    for (const door of portals) {
      if (offered && !door.port.addresses.some((address) => offered.includes(`${address.ip}:3260`))) continue;
      for (const from of leavers(ethernet, door)) {
        const end = {
          transport: 'iscsi' as const,
          interface: from.id,
          port: door.port.id,
          network: door.network,
          subsystem: null,
        };
        const stop = between(from, door, 'iscsi');
        if (stop)
          result.missing.push({
            ...end,
            reason: stop.reason,
            message: `${from.name} to ${door.port.name}: ${stop.why}`,
            ...(stop.status ? { status: stop.status } : {}),
          });
        else if (access)
          result.missing.push({
            ...end,
            reason: access.reason,
            message: access.message,
            ...(access.status ? { status: access.status } : {}),
          });
        else result.up.push({ ...end, controller: door.controller.id });
      }
    }
  };

  const overNvme = (host: string, array: string, result: Sessions): void => {
    const { host: guest, ethernet } = guests(host);
    if (ethernet.length === 0) return;
    for (const subsystem of subsystems(array)) {
      const refusal = connectRefusal(guest, subsystem);
      const told =
        guest.autoLogin ||
        view
          .table('login')
          .by('host', guest.id)
          .some((login) => login.array === array);
      for (const door of doors(array)) {
        if (door.port.kind !== 'ethernet' || (subsystem.ports !== null && !subsystem.ports.includes(door.port.id)))
          continue;
        for (const from of leavers(ethernet, door)) {
          const end = {
            transport: 'nvme-tcp' as const,
            interface: from.id,
            port: door.port.id,
            network: door.network,
            subsystem: subsystem.id,
          };
          const stop = between(from, door, 'nvme-tcp');
          if (stop)
            result.missing.push({
              ...end,
              reason: stop.reason,
              message: `${from.name} to ${door.port.name}: ${stop.why}`,
            });
          else if (refusal)
            result.missing.push({ ...end, reason: refusal.reason, status: refusal.status, message: refusal.message });
          else if (!told)
            result.missing.push({
              ...end,
              reason: 'not-logged-in',
              message: `${guest.name} was not told to connect to ${subsystem.name}.`,
            });
          else if (offeredAt(subsystem, door.port)) result.up.push({ ...end, controller: door.controller.id });
        }
      }
    }
  };

  return (host, array) => {
    const result: Sessions = { up: [], missing: [] };
    overFabric(host, array, result);
    overIscsi(host, array, result);
    if (subsystems(array).length > 0) overNvme(host, array, result);
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
