import { commonSpeed } from '../../network/link';
import { deviceText, type FcDevice } from '../../fabric/devices';
import { fabricRoutes } from '../../fabric/routes';
import { zoneBook, type ZoneBook } from '../../fabric/zoning';
import { diagnose } from '../../naming/diagnose';
import { formatWwn } from '../../naming/wwn';
import { leastWanted, type Gathered, type MissingReason, type MissingSession, type Session } from './session';
import { remembered, type Door, type Guest, type Surroundings } from './surroundings';

/** Why a port has no fabric login: it is down, or it shares no speed with its switch. */
const noLoginWords = (device: FcDevice, name: string): string =>
  `${name} has no fabric login${device.switch && commonSpeed(device.speed, device.switch.speed) === null ? `: its ${device.speed} Gb/s and those of switch ${device.switch.name} share no speed` : ''}`;

const fcEnd = (initiator: FcDevice, door: Door): Session => ({
  transport: 'fc',
  interface: initiator.id,
  port: door.port.id,
  controller: door.controller.id,
  network: initiator.fabric,
  target: null,
  subsystem: null,
});
const fcGap = (initiator: FcDevice, door: Door, [reason, why]: [MissingReason, string]): MissingSession => ({
  ...fcEnd(initiator, door),
  reason,
  message: `${initiator.name} to ${door.port.name}: ${why}`,
});

/** Who a port says it is, where nobody of that name is on record for the host. */
const stranger = (wwpn: string, { host, names }: Guest): string => {
  const known = [...names].filter((name) => /^[0-9a-f]{16}$/.test(name));
  const found = diagnose(
    wwpn,
    'port',
    known.map((name) => ({ name, role: 'port' as const, owner: host.name })),
  );
  return `${formatWwn(wwpn)} logs in, ${found.is === 'near-miss' ? `on record is ${formatWwn(found.known.name)}: ${found.distance} ${found.distance === 1 ? 'digit differs' : 'digits differ'}` : `and is not on record for ${host.name}`}`;
};

/** How a host meets an array over Fibre Channel: every pair of ports of one fabric. */
export function fabricMeetings({ view, doors, guests, byPort }: Surroundings) {
  const routes = fabricRoutes(view);
  const books = remembered((fabric): ZoneBook => zoneBook(view, fabric));
  const doorsIn = remembered((key): Door[] => {
    const [array = '', fabric] = key.split(' ');
    return doors(array).filter((door) => door.device?.fabric === fabric);
  });

  /** What stands between two Fibre Channel ports, the hop nearest the drives first; null where they meet. */
  const fabricStop = (
    initiator: FcDevice,
    door: Door,
    zoned: boolean,
    guest: Guest,
  ): [MissingReason, string] | null => {
    const target = door.device!;
    if (!door.controller.up) return ['controller-down', `controller ${door.controller.name} is down`];
    if (door.port.state === 'down') return ['array-port-down', 'the array port is down'];
    if (!initiator.up) return ['initiator-not-logged-in', noLoginWords(initiator, deviceText(initiator))];
    if (!target.up) return ['target-not-logged-in', noLoginWords(target, door.port.name)];
    for (const { switch: at } of [target, initiator])
      if (at?.state === 'down') return ['switch-down', `switch ${at.name} is down`];
    if (routes.hops(initiator.switch!.id, target.switch!.id) === null)
      return ['no-isl-route', `no link leads from ${initiator.switch!.name} to ${target.switch!.name}`];
    if (!zoned) return ['not-zoned', 'they share no active zone'];
    return guest.names.has(initiator.wwpn) ? null : ['initiator-unknown', stranger(initiator.wwpn, guest)];
  };

  const unzonedGaps = (initiator: FcDevice, unzoned: readonly Door[], guest: Guest): MissingSession[] =>
    unzoned
      .flatMap((door) => {
        const stop = fabricStop(initiator, door, false, guest);
        return stop ? [fcGap(initiator, door, stop)] : [];
      })
      .sort(byPort);

  return (host: string, array: string, result: Gathered): void => {
    const guest = guests(host);
    for (const initiator of guest.fc) {
      if (initiator.fabric === null) continue;
      const book = books(initiator.fabric);
      const partners = book.partners(initiator);
      const unzoned: Door[] = [];
      let meets = false;
      for (const door of doorsIn(`${array} ${initiator.fabric}`)) {
        const zoned =
          partners === null ? book.mayTalk(initiator, door.device!) : door.forms.some((form) => partners.has(form));
        if (!zoned) {
          unzoned.push(door);
          continue;
        }
        meets = true;
        const stop = fabricStop(initiator, door, true, guest);
        if (stop) result.missing.push(fcGap(initiator, door, stop));
        else result.up.push(fcEnd(initiator, door));
      }
      if (unzoned.length > 0) {
        result.loose.push(initiator.id);
        result.later.push(() => unzonedGaps(initiator, unzoned, guest));
        if (!meets) result.missing.push(...leastWanted(unzonedGaps(initiator, unzoned, guest)));
      }
    }
  };
}
