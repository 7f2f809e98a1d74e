import { legsOf } from '../copies/legs';
import type { HostDevice } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { interfaceOf, portOf } from '../estate/relations';
import type { Inquiry } from '../operation/inquiry';
import { subjectOf } from '../operation/refusal';
import { pathFinder } from './paths';

export type PathWeight = HostDevice['weights'][number];

/** The heaviest that a path may be. */
const MOST_WEIGHT = 255;

/** `eth0 a4 50` */
export const weightText = (view: EstateView, { interface: from, port, weight }: PathWeight): string =>
  `${view.table('interface').get(from)?.name ?? from} ${view.table('port').get(port)?.name ?? port} ${weight}`;

/** The two ends that a device's paths may have: interfaces of its host, and ports that its mapping goes by. */
function endsOfDevice(view: EstateView, device: HostDevice) {
  const arrays = legsOf(view, device.volume).flatMap((id) => view.table('volume').get(id)?.array ?? []);
  return {
    interfaces: view.table('interface').by('host', device.host),
    ports: arrays.flatMap((array) => view.table('port').by('array', array)),
  };
}

/** Reads lines of INTERFACE PORT WEIGHT; what is no path of the device, or named twice, is refused. */
export function readWeights(
  view: EstateView,
  asks: Inquiry,
  device: HostDevice,
  lines: readonly string[],
): PathWeight[] {
  const { interfaces, ports } = endsOfDevice(view, device);
  const weights: PathWeight[] = [];
  const refuse = (code: string, message: string, mend: string) =>
    asks.refuse({ code, field: 'weights', subject: subjectOf('hostDevice', device), message, mend });
  for (const line of lines) {
    const [from, to, text, ...rest] = line.trim().split(/\s+/);
    const weight = Number(text);
    if (!from || !to || !text || rest.length > 0 || !/^\d+$/.test(text) || weight > MOST_WEIGHT) {
      refuse(
        'weight-unreadable',
        `"${line}" is not read.`,
        `Write interface, port and a weight from 0 to ${MOST_WEIGHT}, such as ${interfaces[0]?.name ?? 'eth0'} ${ports[0]?.name ?? 'a1'} 50.`,
      );
      continue;
    }
    const [end, port] = [interfaces.find((row) => row.name === from), ports.find((row) => row.name === to)];
    if (!end || !port) {
      refuse(
        'path-unknown',
        `${device.name} has no path from ${from} to ${to}.`,
        `Its host has ${interfaces.map((row) => row.name).join(', ')}; the array has ${ports.map((row) => row.name).join(', ')}.`,
      );
      continue;
    }
    if (weights.some((one) => one.interface === end.id && one.port === port.id)) {
      refuse('weight-twice', `${from} to ${to} is named twice.`, 'Leave one of them out.');
      continue;
    }
    weights.push({ interface: end.id, port: port.id, weight });
  }
  return weights;
}

/** Which paths there are to be weighed, and whether weights count at all. */
export function weightHint(view: EstateView, device: HostDevice, failover: boolean): string {
  if (!failover) return 'They count where it spreads by failover.';
  const { found } = pathFinder(view).of(device);
  const name = (path: { interface: string; port: string }) =>
    `${interfaceOf(view, path).name} ${portOf(view, path).name}`;
  return found.length === 0
    ? 'No path leads to it now.'
    : `Paths: ${found.map(name).join(', ')}. Of equal access the heavier is used.`;
}
