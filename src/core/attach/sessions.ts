import type { Host, HostInterface, Kind, Port, Subsystem, Target, Transport } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayDevice, deviceText, hostDevice, type FcDevice } from '../fabric/devices';
import { commonSpeed } from '../network/link';
import { fabricRoutes } from '../fabric/routes';
import { memberForms, zoneBook, type ZoneBook } from '../fabric/zoning';
import { isidOf, reinstated } from '../iscsi/isid';
import { nameServerUp, seesByIsns } from '../iscsi/isns';
import { disabledRefusal, loginRefusal, nameRefusal, type LoginReason, type LoginStatus } from '../iscsi/login';
import { asksForAddresses, portalsOf, portalTexts, targetsOf, targetText } from '../iscsi/target';
import { diagnose } from '../naming/diagnose';
import { formatWwn } from '../naming/wwn';
import { bindingFailure, bindingWords, type BindingFailure } from '../network/binding';
import { networkFinder, reach, waysOut, type ReachFailure } from '../network/reach';
import { connectRefusal, subsystemsOf, type ConnectStatus } from '../nvme/connect';
import { wasTold } from './told';

/** Why an initiator port and a target port that should meet do not. */
export type MissingReason =
  | ReachFailure
  | BindingFailure
  | LoginReason
  | 'controller-down'
  | 'port-role-off'
  | 'nqn-not-allowed'
  | 'controller-limit'
  | 'session-reinstated'
  | 'initiator-not-logged-in'
  | 'target-not-logged-in'
  | 'array-port-down'
  | 'switch-down'
  | 'no-isl-route'
  | 'not-zoned';

/** An initiator port of the host that is logged in at a port of the array. */
export interface Session {
  transport: Transport;
  interface: string;
  port: string;
  controller: string;
  /** The network, or the fabric, between them. */
  network: string | null;
  /** The iSCSI target, where it is not its array's main one: what mappings name that go by it. */
  target: string | null;
  /** Of an NVMe controller. */
  subsystem: string | null;
}

/** A pair that should meet and does not. */
export interface MissingSession {
  transport: Transport;
  interface: string;
  port: string;
  controller: string;
  network: string | null;
  target: string | null;
  subsystem: string | null;
  reason: MissingReason;
  status?: LoginStatus | ConnectStatus;
  message: string;
}

export interface Sessions {
  up: Session[];
  missing: MissingSession[];
  /**
   * Pairs that nothing was made to let meet: Fibre Channel ports without a common zone, IP ends without a common subnet or route. They are missed
   * only where a mapping has nothing better ({@link leastWanted}), and worked out when they are asked for.
   */
  readonly apart: readonly MissingSession[];
  /** Fibre Channel interfaces that have such pairs. */
  readonly loose: readonly string[];
}

/** Sessions while they are gathered. */
class Gathered implements Sessions {
  readonly up: Session[] = [];
  readonly missing: MissingSession[] = [];
  readonly loose: string[] = [];
  readonly later: (() => readonly MissingSession[])[] = [];
  private worked: readonly MissingSession[] | null = null;
  get apart(): readonly MissingSession[] {
    return (this.worked ??= this.later.flatMap((work) => work()));
  }
}

/** One way to each controller is the least that is wanted: of each interface's pairs the first to each controller, by the order they come in. */
export function leastWanted(apart: readonly MissingSession[]): MissingSession[] {
  const seen = new Set<string>();
  return apart.filter(({ interface: from, controller }) => {
    const key = `${from} ${controller}`;
    if (seen.has(key)) return false;
    seen.add(key);
    return true;
  });
}

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
  'mtu-black-hole': 'the network drops frames as large as both ends send: raise its MTU or lower theirs',
};

/** Why a port has no fabric login: it is down, or it shares no speed with its switch. */
const noLoginWords = (device: FcDevice, name: string): string =>
  `${name} has no fabric login${device.switch && commonSpeed(device.speed, device.switch.speed) === null ? `: its ${device.speed} Gb/s and those of switch ${device.switch.name} share no speed` : ''}`;

const fcEnd = (initiator: FcDevice, door: Door): Session => ({
  transport: 'fc',
  interface: initiator.id,
  port: door.port.id,
  controller: door.controller.id,
  network: initiator.fabric,
  target: null,
  subsystem: null,
});
const fcGap = (initiator: FcDevice, door: Door, [reason, why]: [MissingReason, string]): MissingSession => ({
  ...fcEnd(initiator, door),
  reason,
  message: `${initiator.name} to ${door.port.name}: ${why}`,
});

/** Why a host is not let in. */
interface Refused {
  reason: MissingReason;
  message: string;
  status?: LoginStatus | ConnectStatus;
}

/** What a host asks for over IP: a target or a subsystem, and whether it is let in from an interface that reaches it. */
interface Service {
  role: 'iscsi' | 'nvme-tcp';
  target: string | null;
  subsystem: string | null;
  /** A target that answers nobody. */
  closed: Refused | null;
  refused: (from: HostInterface) => Refused | null;
}

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
  'target',
]);

const books = new WeakMap<EstateView, { stamp: number; book: (host: string, array: string) => Sessions }>();

/**
 * {@link openBook}, kept as long as nothing of an estate has moved that decides about sessions. A preview that leaves all that alone reads the
 * book of the estate under it.
 */
export function sessionBook(view: EstateView): (host: string, array: string) => Sessions {
  // Where a target takes so many sessions and no more, it counts who has something to log in for.
  const limited = [...view.table('target').values()].some((target) => target.sessionLimit !== null);
  const deciding: readonly Kind[] = limited ? [...pathKinds, 'mapping'] : [...pathKinds];
  let root = view;
  while (root.below && !deciding.some((kind) => root.revision(kind) > 0)) root = root.below;
  let stamp = 0;
  for (const kind of deciding) stamp += root.revision(kind);
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

  /** Who a port says it is, where nobody of that name is on record for the host. */
  const stranger = (wwpn: string, { host, names }: ReturnType<typeof guests>): string => {
    const known = [...names].filter((name) => /^[0-9a-f]{16}$/.test(name));
    const found = diagnose(
      wwpn,
      'port',
      known.map((name) => ({ name, role: 'port' as const, owner: host.name })),
    );
    return `${formatWwn(wwpn)} logs in, ${found.is === 'near-miss' ? `on record is ${formatWwn(found.known.name)}: ${found.distance} ${found.distance === 1 ? 'digit differs' : 'digits differ'}` : `and is not on record for ${host.name}`}`;
  };

  /** What stands between two Fibre Channel ports, the hop nearest the drives first; null where they meet. */
  const fabricStop = (
    initiator: FcDevice,
    door: Door,
    zoned: boolean,
    guest: ReturnType<typeof guests>,
  ): [MissingReason, string] | null => {
    const target = door.device!;
    if (!door.controller.up) return ['controller-down', `controller ${door.controller.name} is down`];
    if (door.port.state === 'down') return ['array-port-down', 'the array port is down'];
    if (!initiator.up) return ['initiator-not-logged-in', noLoginWords(initiator, deviceText(initiator))];
    if (!target.up) return ['target-not-logged-in', noLoginWords(target, door.port.name)];
    for (const { switch: at } of [target, initiator])
      if (at?.state === 'down') return ['switch-down', `switch ${at.name} is down`];
    if (routes.hops(initiator.switch!.id, target.switch!.id) === null)
      return ['no-isl-route', `no link leads from ${initiator.switch!.name} to ${target.switch!.name}`];
    if (!zoned) return ['not-zoned', 'they share no active zone'];
    return guest.names.has(initiator.wwpn) ? null : ['initiator-unknown', stranger(initiator.wwpn, guest)];
  };

  const unzonedGaps = (
    initiator: FcDevice,
    unzoned: readonly Door[],
    guest: ReturnType<typeof guests>,
  ): MissingSession[] =>
    unzoned
      .flatMap((door) => {
        const stop = fabricStop(initiator, door, false, guest);
        return stop ? [fcGap(initiator, door, stop)] : [];
      })
      .sort(byPort);

  const overFabric = (host: string, array: string, result: Gathered): void => {
    const guest = guests(host);
    for (const initiator of guest.fc) {
      if (initiator.fabric === null) continue;
      const book = books(initiator.fabric);
      const partners = book.partners(initiator);
      const unzoned: Door[] = [];
      let meets = false;
      for (const door of doorsIn(`${array} ${initiator.fabric}`)) {
        const zoned =
          partners === null ? book.mayTalk(initiator, door.device!) : door.forms.some((form) => partners.has(form));
        if (!zoned) {
          unzoned.push(door);
          continue;
        }
        meets = true;
        const stop = fabricStop(initiator, door, true, guest);
        if (stop) result.missing.push(fcGap(initiator, door, stop));
        else result.up.push(fcEnd(initiator, door));
      }
      if (unzoned.length > 0) {
        result.loose.push(initiator.id);
        result.later.push(() => unzonedGaps(initiator, unzoned, guest));
        if (!meets) result.missing.push(...leastWanted(unzonedGaps(initiator, unzoned, guest)));
      }
    }
  };

  const portName = (id: string): string => view.table('port').get(id)?.name ?? '';
  const byPort = (a: { port: string }, b: { port: string }): number => (portName(a.port) < portName(b.port) ? -1 : 1);

  /** What stands between an interface and a port, apart from who the host is, the hop nearest the drives first; null where they meet. */
  const between = (
    from: HostInterface,
    door: Door,
    role: 'iscsi' | 'nvme-tcp',
    closed: Refused | null,
  ): { reason: MissingReason; why: string; status?: LoginStatus; whole?: true } | null => {
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
    const met = reach(networkAt, from, door.port);
    if (!met.ok && met.reason.startsWith('interface-')) return { reason: met.reason, why: reachWords[met.reason] };
    const unfit = from.bound ? bindingFailure(from) : null;
    if (unfit) return { reason: unfit, why: bindingWords[unfit] };
    return met.ok ? null : { reason: met.reason, why: reachWords[met.reason] };
  };

  /** Which interfaces of the host sessions to the port leave by. */
  const leavers = (ethernet: readonly HostInterface[], door: Door): readonly HostInterface[] => {
    const { bound, ways } = waysOut(networkAt, ethernet, door.port);
    if (bound) return ways;
    const picked = ways.find((from) => from.state === 'up') ?? ways[0];
    return picked ? [picked] : [];
  };

  /** Ends between which nothing was set up: from each bound interface, else from the first that is up. */
  const strangers = (ethernet: readonly HostInterface[]): HostInterface[] => {
    const bound = ethernet.filter((from) => from.bound);
    const first = ethernet.find((from) => from.state === 'up') ?? ethernet[0];
    return bound.length > 0 ? bound : first ? [first] : [];
  };

  /** Meets every portal over IP; `refused` is why the host would not be let in where they reach each other. */
  const overIp = (
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
    const gapOf = (from: HostInterface, door: Door, stop: NonNullable<ReturnType<typeof between>>): MissingSession => ({
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

  const mayLogIn = (guest: Host, array: string, target?: string): boolean =>
    guest.autoLogin || wasTold(view, guest, array, target);

  const targets = remembered((array) =>
    targetsOf(view, array).map((target) => {
      const portals = portalsOf(view, target);
      const at = new Set(portals.map(({ port }) => port.id));
      return { target, portals, doors: doors(array).filter((door) => at.has(door.port.id) || mayServe(target, door)) };
    }),
  );
  type Listening = ReturnType<typeof targets>[number];

  /** How a host meets a target, whatever others take of its sessions. */
  const meetTarget = (host: string, listening: Listening): Sessions => {
    const { target, portals, doors: all } = listening;
    const result = new Gathered();
    const { host: guest, ethernet } = guests(host);
    if (ethernet.length === 0) return result;
    const isns = guest.discovery === 'isns' && guest.presents !== null;
    let offering = all;
    let hidden: Refused | null = null;
    if (isns) {
      const seen =
        nameServerUp(view) && target.isns
          ? seesByIsns(view, guest.presents!, target.iqn, portalTexts(portals))
          : { visible: false, portals: null, wouldHelp: [], domains: [] };
      const { portals: offered } = seen;
      if (offered) {
        const shown = new Set(
          portals
            .filter((portal) => portalTexts([portal]).some((text) => offered.includes(text)))
            .map(({ port }) => port.id),
        );
        offering = offering.filter((door) => shown.has(door.port.id));
      }
      if (!seen.visible)
        hidden = {
          reason: 'not-discovered',
          message: nameServerUp(view)
            ? `No enabled domain set holds ${guest.name} and ${targetText(view, target)}${seen.domains[0] ? `: domain ${seen.domains[0]} does, and ${seen.wouldHelp[0] ? `its set ${seen.wouldHelp[0]} is off` : 'is in no set'}` : ''}.`
            : 'The name server does not answer.',
        };
    }
    if (!hidden && !mayLogIn(guest, target.array, target.id))
      hidden = {
        reason: 'not-logged-in',
        message: `${guest.name} was not told to log in at ${targetText(view, target)}.`,
      };
    const ask = (from?: HostInterface): Refused | null =>
      nameRefusal(view, guest, target, from) ?? hidden ?? loginRefusal(view, guest, target, from);
    const alike = asksForAddresses(target) ? null : { answer: ask() };
    overIp(
      offering,
      ethernet,
      {
        role: 'iscsi',
        target: target.main ? null : target.id,
        subsystem: null,
        closed: disabledRefusal(view, target),
        refused: (from) => (alike ? alike.answer : ask(from)),
      },
      result,
    );
    return ethernet.some((row) => row.isid !== null) ? pushedOut(result, ethernet, listening) : result;
  };

  /** Interfaces that bear one ISID push each other's sessions out (RFC 7143 §6.3.5, session reinstatement). */
  const pushedOut = (met: Gathered, ethernet: readonly HostInterface[], { target, portals }: Listening): Gathered => {
    const groups = new Map(portals.map(({ port, group }) => [port.id, group]));
    const isids = new Map(ethernet.map((row) => [row.id, isidOf(row)]));
    const sessions = met.up.map((session) => ({
      session,
      from: session.interface,
      group: groups.get(session.port) ?? 0,
      isid: isids.get(session.interface) ?? '',
    }));
    const out = reinstated(sessions);
    const result = new Gathered();
    result.missing.push(...met.missing);
    result.later.push(() => met.apart);
    for (const one of sessions)
      if (out.has(one))
        result.missing.push({
          ...one.session,
          reason: 'session-reinstated',
          message: `A later login at ${targetText(view, target)} with the same ISID, 0x${one.isid}, takes the place of this session`,
        });
      else result.up.push(one.session);
    return result;
  };

  /** Sessions that a target with too few gives each host, by name; null where it takes all. */
  const taken = remembered((id): { by: Map<string, number> | null } => {
    const target = view.table('target').get(id)!;
    if (target.sessionLimit === null) return { by: null };
    const listening = targets(target.array).find((one) => one.target.id === id)!;
    const shows = (mapping: { target: string | null; subsystem: string | null; volume: string }): boolean =>
      mapping.subsystem === null &&
      mapping.target === (target.main ? null : id) &&
      view.table('volume').get(mapping.volume)?.array === target.array;
    const asking = [...view.table('host').values()].filter(
      (host) =>
        wasTold(view, host, target.array, id) ||
        (host.autoLogin && view.table('mapping').by('host', host.id).some(shows)),
    );
    return { by: shareOut(asking, target.sessionLimit, (host) => meetTarget(host, listening).up.length) };
  });

  const overIscsi = (host: string, array: string, result: Gathered): void => {
    for (const listening of targets(array)) {
      const { target } = listening;
      const met = meetTarget(host, listening);
      // A host that has nothing to log in for is not counted, and gets no session where the last ones are given to others.
      const most = taken(target.id).by === null ? met.up.length : (taken(target.id).by!.get(host) ?? 0);
      result.up.push(...met.up.slice(0, most));
      result.missing.push(
        ...met.missing,
        ...met.up.slice(most).map((session) => ({
          ...session,
          reason: 'session-limit' as const,
          status: '0302' as const,
          message: `Out of resources (0302): ${targetText(view, target)} has all of its ${target.sessionLimit} sessions`,
        })),
      );
      result.later.push(() => met.apart);
    }
  };

  /** How a host meets a subsystem, whatever others take of its controllers. */
  const meetSubsystem = (host: string, subsystem: Subsystem): Sessions => {
    const { host: guest, ethernet } = guests(host);
    const result = new Gathered();
    if (ethernet.length === 0) return result;
    const refusal = connectRefusal(guest, subsystem);
    const refused =
      refusal?.reason === 'no-initiator' || mayLogIn(guest, subsystem.array)
        ? refusal
        : {
            reason: 'not-logged-in' as const,
            message: `${guest.name} was not told to connect to ${subsystem.name}.`,
          };
    const portals = doors(subsystem.array).filter(
      (door) => door.port.kind === 'ethernet' && (subsystem.ports === null || subsystem.ports.includes(door.port.id)),
    );
    overIp(
      portals,
      ethernet,
      { role: 'nvme-tcp', target: null, subsystem: subsystem.id, closed: null, refused: () => refused },
      result,
    );
    return result;
  };

  /** Controllers that a subsystem with too few gives each host, by name; null where it has enough for all. */
  const given = remembered((id): { by: Map<string, number> | null } => {
    const subsystem = view.table('subsystem').get(id)!;
    const asking = [...view.table('host').values()].filter(
      (host) => connectRefusal(host, subsystem) === null && mayLogIn(host, subsystem.array),
    );
    const most = asking.reduce((sum, host) => sum + guests(host.id).ethernet.length, 0);
    if (most * doors(subsystem.array).length <= subsystem.controllerLimit) return { by: null };
    return { by: shareOut(asking, subsystem.controllerLimit, (host) => meetSubsystem(host, subsystem).up.length) };
  });

  const overNvme = (host: string, array: string, result: Gathered): void => {
    for (const subsystem of subsystems(array)) {
      const met = meetSubsystem(host, subsystem);
      const { up, missing } = met;
      const most = given(subsystem.id).by?.get(host) ?? up.length;
      result.up.push(...up.slice(0, most));
      result.missing.push(
        ...missing,
        ...up.slice(most).map((session) => ({
          ...session,
          reason: 'controller-limit' as const,
          status: '81h' as const,
          message: `Controller busy (81h): ${subsystem.name} has all of its ${subsystem.controllerLimit} controllers connected`,
        })),
      );
      result.later.push(() => met.apart);
    }
  };

  return (host, array) => {
    const result = new Gathered();
    overFabric(host, array, result);
    overIscsi(host, array, result);
    if (subsystems(array).length > 0) overNvme(host, array, result);
    return result;
  };
}

/** What a limit leaves each host, the first by name served first. */
function shareOut(asking: readonly Host[], limit: number, wants: (host: string) => number): Map<string, number> {
  let left = limit;
  const by = new Map<string, number>();
  for (const { id } of [...asking].sort((a, b) => (a.name < b.name ? -1 : 1))) {
    const given = Math.min(left, wants(id));
    by.set(id, given);
    left -= given;
  }
  return by;
}

/** Whether a port would belong to a target if it served iSCSI: who logs in there is told that it does not. */
const mayServe = (target: Target, { port }: Door): boolean =>
  port.kind === 'ethernet' && (target.portals === null || target.portals.some((portal) => portal.port === port.id));

function remembered<T>(work: (key: string) => T): (key: string) => T {
  const known = new Map<string, T>();
  return (key) => {
    let value = known.get(key);
    if (value === undefined) known.set(key, (value = work(key)));
    return value;
  };
}
