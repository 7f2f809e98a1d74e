import type { ArrayRow, Fabric, Host } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { switchOf } from '../estate/relations';
import { deviceByWwpn, type FcDevice } from '../fabric/devices';
import { byName } from '../operation/draft';

/** Ports of a host that are in a fabric. */
export const hostPorts = (view: EstateView, host: Host, fabric: Fabric): FcDevice[] =>
  view
    .table('interface')
    .by('host', host.id)
    .flatMap((row) => (row.wwpn ? (deviceByWwpn(view, row.wwpn) ?? []) : []))
    .filter((device) => device.fabric === fabric.id)
    .sort(byName);

/** Ports of the array in the fabric: those named, else one of each controller, the one with the fewest initiators. */
export function targetPorts(
  view: EstateView,
  array: ArrayRow,
  fabric: Fabric,
  named: readonly string[] | undefined,
): FcDevice[] {
  const here = view
    .table('port')
    .by('array', array.id)
    .filter((port) => port.kind === 'fc' && port.switch !== null && switchOf(view, port)?.fabric === fabric.id)
    .sort(byName);
  const chosen = named ? here.filter((port) => named.includes(port.id)) : [];
  if (!named) {
    const fanIn = (wwpn: string): number =>
      new Set(
        view
          .table('activeZone')
          .by('member', `${fabric.id} wwpn:${wwpn}`)
          .map((zone) => zone.id),
      ).size;
    for (const controller of new Set(here.map((port) => port.controller)))
      chosen.push(
        here
          .filter((port) => port.controller === controller && port.state === 'up')
          .sort((a, b) => fanIn(a.wwpn!) - fanIn(b.wwpn!) || byName(a, b))[0] ??
          here.find((port) => port.controller === controller)!,
      );
  }
  return chosen.flatMap((port) => deviceByWwpn(view, port.wwpn!) ?? []);
}
