import type { Host, HostInterface, Port } from '../../estate/entities';
import type { EstateView } from '../../estate/estate';
import { controllerOf } from '../../estate/relations';
import { arrayDevice, hostDevice, type FcDevice } from '../../fabric/devices';
import { memberForms } from '../../fabric/zoning';
import { networksOf, type Networks } from '../../network/reach';
import { wasTold } from '../told';
import { byCodePoint } from '../../units/order';

/** A port of an array, with what every host asks of it. */
export interface Door {
  port: Port;
  network: string | null;
  controller: { id: string; name: string; up: boolean };
  /** Where it ends in a fabric, and how zones may name it there. */
  device: FcDevice | null;
  forms: readonly string[];
}

/** A host with the ends it has, and the names on record for it. */
export interface Guest {
  host: Host;
  names: ReadonlySet<string>;
  ethernet: readonly HostInterface[];
  fc: readonly FcDevice[];
}

/** What is asked of every pair of ports, looked up once an estate. */
export interface Surroundings {
  view: EstateView;
  networks: Networks;
  /** Ports of an array, by id. */
  doors: (array: string) => Door[];
  guests: (host: string) => Guest;
  /** By the name of the port. */
  byPort: (a: { port: string }, b: { port: string }) => number;
  mayLogIn: (guest: Host, array: string, target?: string) => boolean;
}

const byId = (a: { id: string }, b: { id: string }) => byCodePoint(a.id, b.id);

/** Works something out once for each key. */
export function remembered<T>(work: (key: string) => T): (key: string) => T {
  const known = new Map<string, T>();
  return (key) => {
    let value = known.get(key);
    if (value === undefined) known.set(key, (value = work(key)));
    return value;
  };
}

export function surroundings(view: EstateView): Surroundings {
  const networks = networksOf(view);
  const doors = remembered((array): Door[] =>
    view
      .table('port')
      .by('array', array)
      .filter((port) => port.kind === 'fc' || port.addresses.length > 0)
      .sort(byId)
      .map((port) => {
        const controller = controllerOf(view, port);
        const device = arrayDevice(view, port);
        return {
          port,
          network: device ? device.fabric : (networks.at(port.addresses[0]!)?.id ?? null),
          controller: { id: controller.id, name: controller.name, up: controller.state === 'up' },
          device,
          forms: device ? memberForms(device) : [],
        };
      }),
  );
  const guests = remembered((id): Guest => {
    const all = [...view.table('interface').by('host', id)].sort(byId);
    return {
      host: view.table('host').get(id)!,
      names: new Set(
        view
          .table('initiator')
          .by('host', id)
          .map((row) => row.name),
      ),
      ethernet: all.filter((row) => row.kind === 'ethernet'),
      fc: all.flatMap((row) => hostDevice(view, row) ?? []),
    };
  });
  const portName = (id: string): string => view.table('port').get(id)?.name ?? '';
  return {
    view,
    networks,
    doors,
    guests,
    byPort: (a, b) => (portName(a.port) < portName(b.port) ? -1 : 1),
    mayLogIn: (guest, array, target) => guest.autoLogin || wasTold(view, guest, array, target),
  };
}
