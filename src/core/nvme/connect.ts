import type { ArrayRow, Host, Subsystem } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { nearMiss } from '../naming/nearness';
import { familyOf, type Family } from '../network/address';
import { listensAt } from '../network/portal';

/** Status of a refused Connect command (NVMe over Fabrics): 81h busy, 84h invalid host. */
export type ConnectStatus = '81h' | '84h';

export interface ConnectRefusal {
  reason: 'no-initiator' | 'nqn-not-allowed' | 'controller-limit';
  status: ConnectStatus;
  message: string;
}

/** Whether the subsystem lets the host connect: NQNs are compared byte by byte (NVM Express Base). Null where it does. */
export function connectRefusal(host: Host, subsystem: Subsystem): ConnectRefusal | null {
  if (host.nqn === null)
    return { reason: 'no-initiator', status: '84h', message: `${host.name} presents no host NQN.` };
  if (subsystem.allowAny || subsystem.allowed.includes(host.nqn)) return null;
  const otherCase = subsystem.allowed.find((nqn) => nqn.toLowerCase() === host.nqn!.toLowerCase());
  const near = otherCase ? null : nearMiss(host.nqn, subsystem.allowed);
  const nearly = near
    ? `${near.known} is on its list: ${near.distance === 1 ? 'one letter differs' : 'two letters differ'}, at position ${near.position}.`
    : 'it is not on its list.';
  const hint = otherCase ? `${otherCase} is on its list; capitals count.` : nearly;
  return {
    reason: 'nqn-not-allowed',
    status: '84h',
    message: `Connect invalid host (84h): ${host.nqn} asks ${subsystem.name}; ${hint}`,
  };
}

export const subsystemsOf = (view: EstateView, array: string): Subsystem[] =>
  [...view.table('subsystem').by('array', array)].sort((a, b) => (a.id < b.id ? -1 : 1));

/** Ports a subsystem is offered at: those it names, else all NVMe/TCP ports of its array. */
export const offeredAt = (subsystem: Subsystem, port: { id: string; role: string }): boolean =>
  port.role === 'nvme-tcp' && (subsystem.ports === null || subsystem.ports.includes(port.id));

export const DISCOVERY_PORT = 8009;

/** An entry of the discovery log page (70h), as a host reads it. */
export interface DiscoveryEntry {
  subsystem: string;
  nqn: string;
  transport: 'TCP';
  /** Address family of the entry, ADRFAM 1 or 2. */
  family: Family;
  address: string;
  service: number;
  portId: number;
  /** FFFFh: a controller is made for each connection. */
  controllerId: 'FFFFh';
}

/** The discovery log an array gives a host: only what the host may connect to. */
export function discoveryLog(view: EstateView, host: Host, array: ArrayRow): DiscoveryEntry[] {
  const ports = [...view.table('port').by('array', array.id)].sort((a, b) => (a.name < b.name ? -1 : 1));
  return subsystemsOf(view, array.id)
    .filter((subsystem) => connectRefusal(host, subsystem) === null)
    .flatMap((subsystem) =>
      ports
        .filter((port) => offeredAt(subsystem, port) && port.state === 'up')
        .flatMap((port) =>
          port.addresses.map((address) => ({
            subsystem: subsystem.name,
            nqn: subsystem.nqn,
            transport: 'TCP' as const,
            family: familyOf(address.ip),
            address: address.ip,
            service: listensAt(port),
            portId: ports.indexOf(port) + 1,
            controllerId: 'FFFFh' as const,
          })),
        ),
    );
}
