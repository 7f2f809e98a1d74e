import type { Port } from '../estate/entities';
import type { EstateView } from '../estate/estate';

/** TCP ports by which targets are found unless another is set (RFC 7143, NVMe/TCP transport). */
export const ISCSI_PORT = 3260;
export const NVME_PORT = 4420;

/** The TCP port an array port listens at. */
export const listensAt = (port: Pick<Port, 'role' | 'tcpPort'>): number =>
  port.tcpPort ?? (port.role === 'nvme-tcp' ? NVME_PORT : ISCSI_PORT);

/** An address with a TCP port behind it, IPv6 in brackets: `10.40.1.11:3260`, `[2001:db8::11]:3260`. */
export function splitPortal(text: string): { ip: string; tcp: number | null } {
  const trimmed = text.trim().replace(/\/.*$/, '');
  const bracketed = /^\[(.*)\](?::(\d+))?$/.exec(trimmed);
  if (bracketed) return { ip: bracketed[1]!.toLowerCase(), tcp: bracketed[2] ? Number(bracketed[2]) : null };
  const [ip = '', tcp, ...rest] = trimmed.split(':');
  return rest.length > 0 ? { ip: trimmed.toLowerCase(), tcp: null } : { ip, tcp: tcp ? Number(tcp) : null };
}

/** The array port that listens at an address, with or without a TCP port behind it. */
export const lookUpAddress = (view: EstateView, text: string): Port | undefined =>
  view
    .table('port')
    .by('ip', splitPortal(text).ip)
    .find((port) => port.role !== 'none');
