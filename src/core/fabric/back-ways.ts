import type { Port } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayDevice, loggedIn, type FcDevice } from './devices';
import { fabricRoutes, MOST_HOPS } from './routes';
import { zoneBook } from './zoning';

/** A port of an array that works as an initiator, and the port of the outside array that it reaches. */
export interface BackWay {
  from: Port;
  to: Port;
}

const loggedInPorts = (view: EstateView, array: string): { port: Port; device: FcDevice }[] =>
  view
    .table('port')
    .by('array', array)
    .flatMap((port) => {
      const device = arrayDevice(view, port);
      return device && device.fabric !== null && loggedIn(device) ? [{ port, device }] : [];
    });

/**
 * Ways of an array to an outside one behind it: pairs of ports that are logged in to the same fabric, that a zone joins, and between whose switches
 * a route leads. An outside array shows its LUNs to every array it is zoned with.
 */
export function backWays(view: EstateView, array: string, outside: string): BackWay[] {
  const targets = loggedInPorts(view, outside);
  if (targets.length === 0) return [];
  const routes = fabricRoutes(view);
  const books = new Map<string, ReturnType<typeof zoneBook>>();
  const book = (fabric: string) => {
    let known = books.get(fabric);
    if (!known) books.set(fabric, (known = zoneBook(view, fabric)));
    return known;
  };
  return loggedInPorts(view, array).flatMap((from) =>
    targets.flatMap((to) => {
      const fabric = from.device.fabric!;
      if (to.device.fabric !== fabric || !book(fabric).mayTalk(from.device, to.device)) return [];
      const hops = routes.hops(from.device.switch!.id, to.device.switch!.id);
      return hops !== null && hops <= MOST_HOPS ? [{ from: from.port, to: to.port }] : [];
    }),
  );
}
