import type { HostInterface, Port } from '../../estate/entities';
import type { EstateView } from '../../estate/estate';
import { arrayOf } from '../../estate/relations';
import { bindingFailure, bindingWords, activeUplinks } from '../../network/binding';
import { echoPayload, familyOf, inside } from '../../network/address';
import { networksOf, reach, waysOut, type ReachFailure } from '../../network/reach';
import { reachWords } from '../../attach/sessions';
import { offer, type Check, type CheckContext, type Found } from '../finding';
import { aboutHost, type Pairing } from './context';
import { someOf } from '../../units/counted';

const hostName = (view: EstateView, row: HostInterface): string => view.table('host').get(row.host ?? '')?.name ?? '';
const subject = (view: EstateView, row: HostInterface) => ({
  kind: 'interface' as const,
  id: row.id,
  name: `${hostName(view, row)} ${row.name}`,
});
const setUp = (view: EstateView, row: HostInterface) =>
  offer('Set up the interface', 'interface.configure', { host: hostName(view, row), interface: row.name });

const ethernetOf = (view: EstateView, host: string): HostInterface[] =>
  view
    .table('interface')
    .by('host', host)
    .filter((row) => row.kind === 'ethernet');

/** Ports that serve the pairing over IP. */
function portals(view: EstateView, { array, mappings }: Pairing): Port[] {
  const roles = new Set<string>(mappings.map((mapping) => (mapping.subsystem ? 'nvme-tcp' : 'iscsi')));
  return view
    .table('port')
    .by('array', array.id)
    .filter((port) => roles.has(port.role) && port.addresses.length > 0);
}

/** Every interface and portal that share a subnet, or that should. */
function* meetings(view: EstateView, { attach }: CheckContext) {
  const networks = networksOf(view);
  const seen = new Set<string>();
  for (const pairing of attach().pairings())
    for (const port of portals(view, pairing))
      for (const row of ethernetOf(view, pairing.host.id)) {
        const key = `${row.id} ${port.id}`;
        if (seen.has(key)) continue;
        seen.add(key);
        const near = row.addresses.some((a) => port.addresses.some((b) => inside(b.ip, a) || inside(a.ip, b)));
        if (near) yield { pairing, row, port, met: reach(networks, row, port), networks };
      }
}

/** One finding an interface for those whose meeting with a portal fails in one way. */
const failing = (
  id: string,
  title: string,
  reason: ReachFailure,
  says: (row: HostInterface, port: Port, view: EstateView) => string,
  advice: string,
): Check => ({
  id,
  severity: 'error',
  title,
  *find(view, context) {
    const told = new Set<string>();
    for (const { row, port, met } of meetings(view, context)) {
      yield null;
      if (met.ok || met.reason !== reason || told.has(row.id)) continue;
      told.add(row.id);
      yield { subject: subject(view, row), says: says(row, port, view), advice, mend: setUp(view, row) };
    }
  },
});

export const networkChecks: Check[] = [
  {
    id: 'bound-interface-useless',
    severity: 'warning',
    title: 'Bound interfaces that reach no portal',
    *find(view, context) {
      const networks = networksOf(view);
      const useful = new Set<string>();
      const bound = new Map<string, HostInterface>();
      for (const pairing of context.attach().pairings())
        for (const row of ethernetOf(view, pairing.host.id)) {
          yield null;
          if (!row.bound) continue;
          bound.set(row.id, row);
          for (const port of portals(view, pairing))
            if (waysOut(networks, [row], port).ways.length > 0) useful.add(row.id);
        }
      for (const row of bound.values())
        if (!useful.has(row.id))
          yield {
            subject: subject(view, row),
            says: `${row.name} of ${hostName(view, row)} is bound, and lies in no subnet of a portal it should reach: no session leaves by it.`,
            advice: 'Give it an address in the subnet of a portal, or a gateway and a route.',
            mend: setUp(view, row),
          };
    },
  },
  {
    id: 'portal-unreachable',
    severity: 'error',
    title: 'Portals no host reaches',
    *find(view, { attach }) {
      const networks = networksOf(view);
      const doors = new Map<string, { port: Port; reached: boolean; why: ReachFailure | null }>();
      for (const pairing of attach().pairings()) {
        yield null;
        const rows = ethernetOf(view, pairing.host.id);
        if (rows.length === 0) continue;
        for (const port of portals(view, pairing)) {
          const door = doors.get(port.id) ?? { port, reached: false, why: null };
          doors.set(port.id, door);
          for (const row of rows) {
            const met = reach(networks, row, port);
            if (met.ok) door.reached = true;
            else door.why ??= met.reason;
          }
        }
      }
      for (const { port, reached, why } of doors.values()) {
        yield null;
        // A portal that is down is told by the check of ports.
        if (reached || port.state === 'down' || why === null) continue;
        const array = arrayOf(view, port).name;
        yield {
          subject: { kind: 'port', id: port.id, name: `${array} ${port.name}` },
          says: `No host reaches ${array} ${port.name} (${port.addresses.map((one) => one.ip).join(', ')}): ${reachWords[why]}.`,
          advice: 'Look at VLAN, subnet and route.',
          mend: offer('Set up the port', 'port.configure', { array, port: port.name }),
        };
      }
    },
  },
  failing(
    'vlan-mismatch',
    'VLANs that differ',
    'vlan-mismatch',
    (row, port, view) =>
      `${hostName(view, row)} ${row.name} is on VLAN ${row.vlan ?? 'of its network'}, portal ${port.name} on ${port.vlan ?? 'that of its network'}.`,
    'Set one VLAN at both.',
  ),
  {
    id: 'mtu-black-hole',
    severity: 'error',
    title: 'Networks that drop large frames',
    *find(view, context) {
      const told = new Set<string>();
      for (const { row, port, met, networks } of meetings(view, context)) {
        yield null;
        const network = port.addresses.map((address) => networks.at(address)).find(Boolean);
        if (met.ok || met.reason !== 'mtu-black-hole' || !network || told.has(row.id)) continue;
        told.add(row.id);
        yield {
          subject: subject(view, row),
          says: `Frames of ${Math.min(row.mtu, port.mtu)} bytes from ${hostName(view, row)} ${row.name} are dropped by ${network.name} (${network.mtu}): logins work, and an unfragmented echo of ${echoPayload(Math.min(row.mtu, port.mtu), familyOf(port.addresses[0]!.ip))} bytes does not pass.`,
          advice: 'Raise the network’s MTU, or lower the ends.',
          mend: offer(`Lower it to ${network.mtu}`, 'interface.configure', {
            host: hostName(view, row),
            interface: row.name,
            mtu: String(network.mtu),
          }),
        };
      }
    },
  },
  {
    id: 'mtu-differs',
    severity: 'warning',
    title: 'Frame sizes that differ',
    *find(view, context) {
      const told = new Set<string>();
      for (const { row, port, met } of meetings(view, context)) {
        yield null;
        if (!met.ok || row.mtu === port.mtu || told.has(row.id)) continue;
        told.add(row.id);
        yield {
          subject: subject(view, row),
          says: `${hostName(view, row)} ${row.name} has MTU ${row.mtu}, portal ${port.name} ${port.mtu}: it works at ${met.mtu}.`,
          advice: 'Make them equal.',
          mend: offer(`Set ${port.mtu}`, 'interface.configure', {
            host: hostName(view, row),
            interface: row.name,
            mtu: String(port.mtu),
          }),
        };
      }
    },
  },
  {
    id: 'binding-uplinks',
    severity: 'error',
    title: 'Bound interfaces without one active uplink',
    *find(view) {
      for (const row of view.table('interface').values()) {
        yield null;
        const why = row.bound ? bindingFailure(row) : null;
        if (why)
          yield {
            subject: subject(view, row),
            says: `${hostName(view, row)} ${row.name} has ${activeUplinks(row).length} active uplinks, must be 1: ${bindingWords[why]}.`,
            advice: 'Leave just one uplink active.',
            mend: setUp(view, row),
          };
      }
    },
  },
  {
    id: 'one-interface-used',
    severity: 'warning',
    title: 'Interfaces that stay idle',
    *find(view, { attach }) {
      for (const { host, sessions, array } of attach().pairings()) {
        yield null;
        const used = new Set(
          sessions.up.filter((session) => session.transport === 'iscsi').map((session) => session.interface),
        );
        if (used.size === 0) continue;
        const rows = ethernetOf(view, host.id).filter((row) => row.state === 'up' && row.addresses.length > 0);
        const [first] = rows.filter((row) => used.has(row.id));
        const idle = rows.filter(
          (row) =>
            !used.has(row.id) &&
            !row.bound &&
            rows.some(
              (one) => used.has(one.id) && one.addresses.some((a) => row.addresses.some((b) => inside(b.ip, a))),
            ),
        );
        if (!first || idle.length === 0) continue;
        yield {
          subject: aboutHost(host),
          says: `All sessions of ${host.name} in that subnet leave by ${first.name}; ${someOf(idle.map((row) => row.name))} ${idle.length === 1 ? 'stays' : 'stay'} idle towards ${array.name}.`,
          advice: 'Bind them to iSCSI.',
          mend: offer(`Bind ${idle[0]!.name}`, 'interface.configure', {
            host: host.name,
            interface: idle[0]!.name,
            bound: true,
          }),
        } satisfies Found;
      }
    },
  },
];
