import type { OperationDocument } from '@/core/change/registry';
import { formatWwn } from '@/core/naming/wwn';
import { serverWwpn } from './hardware';

/** A server with a card of two ports on both fabrics. */
export const server = (name: string, os: string, site: string, cluster?: string): OperationDocument => ({
  do: 'host.create',
  name,
  os,
  site,
  ...(cluster ? { cluster } : {}),
  initiators: ['hba0', 'hba1'].map((port) => formatWwn(serverWwpn(name, port))),
});
/** Both ports of a server are zoned with some ports of an array. */
export const join = (host: string, array: string, a: string[], b: string[]): OperationDocument[] => [
  { do: 'zoning.join', fabric: 'A', host, array, ports: a },
  { do: 'zoning.join', fabric: 'B', host, array, ports: b },
];
export const inUse = (host: string, device: string, fileSystem: string, mountPoint: string): OperationDocument[] => [
  { do: 'host.rescan', host },
  { do: 'host-device.format', host, device, fileSystem, mountPoint },
];
