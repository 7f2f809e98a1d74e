import type { Host } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { families } from './families';

/** LUNs by which the host sees volumes of the array through any of the ports (null: all ports), with the volume's id. */
export function takenLuns(
  view: EstateView,
  host: string,
  array: string,
  ports: readonly string[] | null,
): Map<number, string> {
  const taken = new Map<number, string>();
  for (const mapping of view.table('mapping').by('host', host)) {
    const volume = view.table('volume').get(mapping.volume)!;
    if (volume.array !== array) continue;
    const meets = ports === null || mapping.ports === null || mapping.ports.some((port) => ports.includes(port));
    if (meets) taken.set(mapping.lun, volume.id);
  }
  return taken;
}

/** The least LUN from `from` on that is free in every view of the host, or null where its family addresses no more. */
export function nextFreeLun(
  view: EstateView,
  host: Host,
  array: string,
  ports: readonly string[] | null,
  from = 0,
): number | null {
  const taken = takenLuns(view, host.id, array, ports);
  let lun = from;
  while (taken.has(lun)) lun += 1;
  return lun <= families[host.os].maxLun ? lun : null;
}
