import type { Subsystem } from '../../estate/entities';
import { connectRefusal, subsystemsOf } from '../../nvme/connect';
import type { IpMeetings } from './over-ip';
import { Gathered, type Sessions } from './session';
import { shareOut } from './share-out';
import { remembered, type Surroundings } from './surroundings';

/** How a host meets the subsystems of an array. */
export function nvmeMeetings({ view, doors, guests, mayLogIn }: Surroundings, overIp: IpMeetings) {
  const subsystems = remembered((array) => subsystemsOf(view, array));

  /** How a host meets a subsystem, whatever others take of its controllers. */
  const meetSubsystem = (host: string, subsystem: Subsystem): Sessions => {
    const { host: guest, ethernet } = guests(host);
    const result = new Gathered();
    if (ethernet.length === 0) return result;
    const refusal = connectRefusal(guest, subsystem);
    const refused =
      refusal?.reason === 'no-initiator' || mayLogIn(guest, subsystem.array)
        ? refusal
        : {
            reason: 'not-logged-in' as const,
            message: `${guest.name} was not told to connect to ${subsystem.name}.`,
          };
    const portals = doors(subsystem.array).filter(
      (door) => door.port.kind === 'ethernet' && (subsystem.ports === null || subsystem.ports.includes(door.port.id)),
    );
    overIp(
      portals,
      ethernet,
      { role: 'nvme-tcp', target: null, subsystem: subsystem.id, closed: null, refused: () => refused },
      result,
    );
    return result;
  };

  /** Controllers that a subsystem with too few gives each host, by name; null where it has enough for all. */
  const given = remembered((id): { by: Map<string, number> | null } => {
    const subsystem = view.table('subsystem').get(id)!;
    const asking = [...view.table('host').values()].filter(
      (host) => connectRefusal(host, subsystem) === null && mayLogIn(host, subsystem.array),
    );
    const most = asking.reduce((sum, host) => sum + guests(host.id).ethernet.length, 0);
    if (most * doors(subsystem.array).length <= subsystem.controllerLimit) return { by: null };
    return { by: shareOut(asking, subsystem.controllerLimit, (host) => meetSubsystem(host, subsystem).up.length) };
  });

  return (host: string, array: string, result: Gathered): void => {
    for (const subsystem of subsystems(array)) {
      const met = meetSubsystem(host, subsystem);
      const { up, missing } = met;
      const most = given(subsystem.id).by?.get(host) ?? up.length;
      result.up.push(...up.slice(0, most));
      result.missing.push(
        ...missing,
        ...up.slice(most).map((session) => ({
          ...session,
          reason: 'controller-limit' as const,
          status: '81h' as const,
          message: `Controller busy (81h): ${subsystem.name} has all of its ${subsystem.controllerLimit} controllers connected`,
        })),
      );
      result.later.push(() => met.apart);
    }
  };
}
