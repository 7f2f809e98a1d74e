import type { HostInterface, Port, Switch } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, controllerOf, hostOf, switchOf } from '../estate/relations';
import { commonSpeed } from '../network/link';

/** An end of a Fibre Channel cable: a port of a host or of an array, with what the switches know of it. */
export interface FcDevice {
  id: string;
  wwpn: string;
  wwnn: string | null;
  role: 'initiator' | 'target';
  /** Its host or array; null where it belongs to no host yet. */
  owner: string | null;
  ownerName: string;
  name: string;
  speed: number;
  fabric: string | null;
  switch: Switch | null;
  switchPort: number;
  /** The port itself, for an array port its controller, and the link: it comes up where both ends share a speed. */
  up: boolean;
}

/** Fabric address: domain, area (the switch's port), port (FC-FS). */
export const fcid = (device: Pick<FcDevice, 'switch' | 'switchPort'>): string =>
  device.switch ? `${hex(device.switch.domain)}${hex(device.switchPort)}00` : '';
const hex = (number: number): string => number.toString(16).padStart(2, '0');

/** Whether a link to the switch finds a speed; one that ends nowhere has none to find. */
const agrees = (speed: number, at: Switch | null): boolean => at === null || commonSpeed(speed, at.speed) !== null;

export function hostDevice(view: EstateView, row: HostInterface): FcDevice | null {
  if (row.kind !== 'fc' || row.wwpn === null) return null;
  const found = row.switch ? (switchOf(view, row) ?? null) : null;
  return {
    id: row.id,
    wwpn: row.wwpn,
    wwnn: row.wwnn,
    role: 'initiator',
    owner: row.host,
    ownerName: row.host ? (hostOf(view, row)?.name ?? '') : '',
    name: row.name,
    speed: row.speed,
    fabric: found?.fabric ?? null,
    switch: found,
    switchPort: row.switchPort,
    up: row.state === 'up' && agrees(row.speed, found),
  };
}

export function arrayDevice(view: EstateView, port: Port): FcDevice | null {
  if (port.kind !== 'fc' || port.wwpn === null) return null;
  const array = arrayOf(view, port);
  const found = port.switch ? (switchOf(view, port) ?? null) : null;
  return {
    id: port.id,
    wwpn: port.wwpn,
    wwnn: array?.wwnn ?? null,
    role: 'target',
    owner: port.array,
    ownerName: array?.name ?? '',
    name: port.name,
    speed: port.speed,
    fabric: found?.fabric ?? null,
    switch: found,
    switchPort: port.switchPort,
    up:
      port.state === 'up' && port.role === 'fc' && agrees(port.speed, found) && controllerOf(view, port).state === 'up',
  };
}

/** Whether it has done fabric login: it is up, and so is the switch its cable ends at (FC-LS FLOGI, FC-GS registration). */
export const loggedIn = (device: FcDevice): boolean => device.up && device.switch?.state === 'up';

/** Every Fibre Channel port there is, initiators first, by name. */
export function fcDevices(view: EstateView): FcDevice[] {
  const found: FcDevice[] = [];
  for (const row of view.table('interface').values()) {
    const device = row.kind === 'fc' ? hostDevice(view, row) : null;
    if (device) found.push(device);
  }
  for (const row of view.table('port').values()) {
    const device = row.kind === 'fc' ? arrayDevice(view, row) : null;
    if (device) found.push(device);
  }
  return found;
}

export function deviceByWwpn(view: EstateView, wwpn: string): FcDevice | null {
  const row = view.table('interface').by('wwpn', wwpn)[0];
  if (row) return hostDevice(view, row);
  const port = view.table('port').by('wwpn', wwpn)[0];
  return port ? arrayDevice(view, port) : null;
}

/** `cargo-db-1 hba0`, or the port name where it is nobody's yet. */
export const deviceText = (device: FcDevice): string =>
  device.ownerName ? `${device.ownerName} ${device.name}` : device.name;

/** Devices a member stands for: that port, all ports of that node, or whatever is plugged in at that place of the fabric. */
export function devicesOf(
  view: EstateView,
  fabric: string,
  member: string,
  all: () => readonly FcDevice[],
): FcDevice[] {
  const value = member.slice(5);
  if (member.startsWith('wwpn:')) {
    const device = deviceByWwpn(view, value);
    return device && device.fabric === fabric ? [device] : [];
  }
  if (member.startsWith('wwnn:')) return all().filter((device) => device.fabric === fabric && device.wwnn === value);
  const [domain, port] = value.split(',').map(Number);
  return all().filter(
    (device) => device.fabric === fabric && device.switch?.domain === domain && device.switchPort === port,
  );
}
