import type { Host, Subsystem, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { volumeOf } from '../estate/relations';
import { families } from './families';

/** LUNs by which the host sees volumes of the array by one target (null: the main one) through any of the ports (null: all), with the volume's id. */
export function takenLuns(
  view: EstateView,
  host: string,
  array: string,
  ports: readonly string[] | null,
  target: string | null = null,
): Map<number, string> {
  const taken = new Map<number, string>();
  for (const mapping of view.table('mapping').by('host', host)) {
    const volume = volumeOf(view, mapping);
    if (volume.array !== array || mapping.subsystem !== null || mapping.target !== target) continue;
    const meets = ports === null || mapping.ports === null || mapping.ports.some((port) => ports.includes(port));
    if (meets) taken.set(mapping.lun, volume.id);
  }
  return taken;
}

/** The least LUN from `from` on that is free in every view of every host, or null where one of their families addresses no more. */
export function nextFreeLun(
  view: EstateView,
  hosts: Host | readonly Host[],
  array: string,
  ports: readonly string[] | null,
  from = 0,
  target: string | null = null,
): number | null {
  const all = Array.isArray(hosts) ? (hosts as readonly Host[]) : [hosts as Host];
  const taken = all.map((host) => takenLuns(view, host.id, array, ports, target));
  let lun = from;
  while (taken.some((one) => one.has(lun))) lun += 1;
  return lun <= maxLun(all) ? lun : null;
}

/** The highest LUN that all of the hosts address. */
export const maxLun = (hosts: readonly Host[]): number => Math.min(...hosts.map((host) => families[host.os].maxLun));

/** Namespace IDs of a subsystem with their volumes: one number names one namespace at every controller (NVM Express Base). */
export function takenNamespaces(view: EstateView, subsystem: string): Map<number, string> {
  return new Map(
    view
      .table('mapping')
      .by('subsystem', subsystem)
      .map((mapping) => [mapping.lun, mapping.volume]),
  );
}

/** The ID a volume has in the subsystem already, else the least from 1 on that is free. */
export function namespaceIdFor(view: EstateView, subsystem: Subsystem, volume: Volume): number {
  const taken = takenNamespaces(view, subsystem.id);
  for (const [id, held] of taken) if (held === volume.id) return id;
  let id = 1;
  while (taken.has(id)) id += 1;
  return id;
}
