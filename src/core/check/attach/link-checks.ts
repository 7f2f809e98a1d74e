import type { FcDevice } from '../../fabric/devices';
import { commonSpeed, creditsNeeded, roundTripMs } from '../../network/link';
import { FAN_IN_LIMIT, ISL_RATIO_LIMIT } from '../../fabric/load';
import { HOPS_WARNED } from '../../fabric/routes';
import { formatRate } from '../../units/rate';
import { OVERCOMMIT_ERROR, OVERCOMMIT_WARNED, UTILISATION_ERROR, UTILISATION_WARNED } from '../../attach/port-load';
import type { EstateView } from '../../estate/estate';
import { arrayOf } from '../../estate/relations';
import { offer, type Check, type CheckContext, type Found } from '../finding';
import { aboutHost } from './context';

/** Milliseconds a round trip between sites may take. */
const ROUND_TRIP_WARNED = 5;
const ROUND_TRIP_ERROR = 10;

const about = (view: EstateView, port: { id: string; name: string; array: string }) => ({
  kind: 'port' as const,
  id: port.id,
  name: `${arrayOf(view, port).name} ${port.name}`,
});
const percent = (share: number): string => `${Math.round(share * 100)} %`;

/** Where the next host would be better off. */
const better = ({ attach }: CheckContext, array: string): string => {
  const names = attach().better(array);
  return names.length > 0 ? ` The next host is best put on ${names.join(', ')}.` : '';
};

/** The farthest two ports that may talk to each other, by a measure of the way between them. */
function farthest(
  { attach }: CheckContext,
  measure: (initiator: FcDevice, target: FcDevice) => number,
): Map<string, { initiator: FcDevice; target: FcDevice; value: number }> {
  const found = new Map<string, { initiator: FcDevice; target: FcDevice; value: number }>();
  for (const { initiator, target } of attach().talkers().pairs) {
    if (!initiator.owner) continue;
    const value = measure(initiator, target);
    if (value > (found.get(initiator.owner)?.value ?? 0)) found.set(initiator.owner, { initiator, target, value });
  }
  return found;
}

export const linkChecks: Check[] = [
  {
    id: 'fan-in-high',
    severity: 'warning',
    title: 'Target ports with many initiators',
    *find(view, context) {
      const fanIn = new Map<string, Set<string>>();
      for (const { initiator, target } of context.attach().talkers().pairs)
        fanIn.set(target.id, (fanIn.get(target.id) ?? new Set<string>()).add(initiator.id));
      for (const [id, initiators] of fanIn) {
        yield null;
        if (initiators.size <= FAN_IN_LIMIT) continue;
        const port = view.table('port').get(id)!;
        yield {
          subject: about(view, port),
          says: `${initiators.size} initiators may talk to ${port.name}; ${FAN_IN_LIMIT} are wise.`,
          advice: `Spread them.${better(context, port.array)}`,
          mend: null,
        };
      }
    },
  },
  {
    id: 'isl-oversubscribed',
    severity: 'warning',
    title: 'Links that are oversubscribed',
    *find(view, { attach }) {
      for (const trunk of attach().trunks())
        if (trunk.ratio > ISL_RATIO_LIMIT)
          yield {
            subject: { kind: 'switch', id: trunk.a.id, name: `${trunk.a.name} to ${trunk.b.name}` },
            says: `${trunk.a.name} to ${trunk.b.name}: ${trunk.crossing} Gb/s of edge ports cross ${trunk.carries} Gb/s, ${trunk.ratio.toFixed(1)}:1.`,
            advice: 'Add a link.',
            mend: null,
          };
    },
  },
  {
    id: 'isl-single',
    severity: 'warning',
    title: 'Switches joined by one link',
    *find(view, { attach }) {
      const { routes } = attach().talkers();
      for (const trunk of attach().trunks()) {
        yield null;
        const [up, ...more] = trunk.links.filter((isl) => isl.state === 'up');
        if (!up || more.length > 0 || !routes.cuts(trunk.a.id, trunk.b.id).includes(up.id)) continue;
        yield {
          subject: { kind: 'isl', id: up.id, name: up.name },
          says: `${up.name} is the only way between ${trunk.a.name} and ${trunk.b.name}.`,
          advice: trunk.links.length > 1 ? 'Bring the other link up again.' : 'Lay a second link.',
          mend: null,
        };
      }
    },
  },
  {
    id: 'hops-too-many',
    severity: 'warning',
    title: 'Long ways through the fabric',
    *find(view, context) {
      const { routes } = context.attach().talkers();
      const hops = (i: FcDevice, t: FcDevice) => routes.hops(i.switch!.id, t.switch!.id) ?? 0;
      for (const [id, { initiator, target, value }] of farthest(context, hops))
        if (value > HOPS_WARNED)
          yield {
            subject: aboutHost(view.table('host').get(id)!),
            says: `${initiator.ownerName} ${initiator.name} is ${value} hops from ${target.ownerName} ${target.name}.`,
            advice: 'Move one of the two ports nearer.',
            mend: null,
          };
    },
  },
  {
    id: 'credits-too-few',
    severity: 'error',
    title: 'Links with too few credits',
    *find(view) {
      for (const isl of view.table('isl').values()) {
        yield null;
        const needed = creditsNeeded(isl.km, isl.speed);
        if (isl.state === 'up' && isl.credits < needed)
          yield {
            subject: { kind: 'isl', id: isl.id, name: isl.name },
            says: `${isl.name} needs ${needed} credits for ${isl.km} km at ${isl.speed} Gb/s, has ${isl.credits}.`,
            advice: 'Assign more credits at both ends.',
            mend: null,
          };
      }
    },
  },
  {
    id: 'speed-none-common',
    severity: 'error',
    title: 'Cables whose ends share no speed',
    *find(view, { attach }) {
      for (const device of attach().talkers().devices)
        if (device.switch && commonSpeed(device.speed, device.switch.speed) === null)
          yield {
            subject: {
              kind: device.role === 'target' ? 'port' : 'interface',
              id: device.id,
              name: `${device.ownerName} ${device.name}`,
            },
            says: `${device.ownerName} ${device.name} runs ${device.speed} Gb/s, ${device.switch.name} ${device.switch.speed} Gb/s: no speed is common.`,
            advice: 'Change the transceiver at one end.',
            mend: null,
          };
    },
  },
  {
    id: 'speed-reduced',
    severity: 'warning',
    title: 'Links below their speed',
    *find(view) {
      for (const isl of view.table('isl').values()) {
        yield null;
        const ends = [isl.a, isl.b].map((id) => view.table('switch').get(id)?.speed ?? isl.speed);
        if (isl.state === 'up' && isl.speed < Math.min(...ends))
          yield {
            subject: { kind: 'isl', id: isl.id, name: isl.name },
            says: `${isl.name} runs at ${isl.speed} Gb/s; both ends can do ${Math.min(...ends)} Gb/s.`,
            advice: 'Change its transceivers.',
            mend: null,
          };
      }
    },
  },
  {
    id: 'queue-overcommit',
    severity: 'warning',
    title: 'Ports asked for more commands than they take',
    *find(view, context) {
      for (const load of context.attach().loads().values())
        if (load.overcommit > OVERCOMMIT_WARNED)
          yield {
            ...(load.overcommit > OVERCOMMIT_ERROR ? { severity: 'error' as const } : {}),
            subject: about(view, load.port),
            says: `${load.port.name}: ${load.demand} commands may be outstanding, it takes ${load.limit} (${load.overcommit.toFixed(1)} times).`,
            advice: `A queue depth of ${load.safeDepth} a LUN cannot overrun it.${better(context, load.port.array)}`,
            mend: busiest(context, load.port.id, load.safeDepth),
          };
    },
  },
  {
    id: 'queue-safe-depth-impossible',
    severity: 'warning',
    title: 'Ports with more LUNs than commands',
    *find(view, context) {
      for (const load of context.attach().loads().values())
        if (load.luns > load.limit)
          yield {
            subject: about(view, load.port),
            says: `${load.port.name} shows ${load.luns} LUNs to its initiators and takes ${load.limit} commands: no queue depth is safe, not even 1.`,
            advice: `Map fewer volumes through it.${better(context, load.port.array)}`,
            mend: null,
          };
    },
  },
  {
    id: 'port-load-high',
    severity: 'warning',
    title: 'Ports that are busy',
    *find(view, context) {
      for (const load of context.attach().loads().values())
        if (load.utilisation >= UTILISATION_WARNED)
          yield {
            ...(load.utilisation >= UTILISATION_ERROR ? { severity: 'error' as const } : {}),
            subject: about(view, load.port),
            says: `${load.port.name} carries ${formatRate(load.rate)} of ${formatRate(load.capacity)}, ${percent(load.utilisation)}.`,
            advice: `Spread its hosts.${better(context, load.port.array)}`,
            mend: null,
          };
    },
  },
  {
    id: 'distance-latency',
    severity: 'warning',
    title: 'Storage far away',
    *find(view, context) {
      const { routes } = context.attach().talkers();
      const km = (i: FcDevice, t: FcDevice): number => {
        const hops = routes.hops(i.switch!.id, t.switch!.id) ?? 0;
        // Equal ways run beside each other: as many links as there are hops, the longest of them.
        return [...routes.shortest(i.switch!.id, t.switch!.id)]
          .sort((a, b) => b.km - a.km)
          .slice(0, hops)
          .reduce((sum, isl) => sum + isl.km, 0);
      };
      for (const [id, { initiator, target, value }] of farthest(context, km)) {
        yield null;
        const ms = roundTripMs(value);
        if (ms > ROUND_TRIP_WARNED)
          yield {
            ...(ms > ROUND_TRIP_ERROR ? { severity: 'error' as const } : {}),
            subject: aboutHost(view.table('host').get(id)!),
            says: `${value} km between ${initiator.ownerName} and ${target.ownerName} ${target.name} add ${ms.toFixed(1)} ms to every round trip.`,
            advice: 'Keep a copy nearer to the host.',
            mend: null,
          };
      }
    },
  },
  {
    id: 'survivor-overload',
    severity: 'warning',
    title: 'Too little left after losing a fabric',
    *find(view, { attach }) {
      for (const fabric of view.table('fabric').values())
        for (const load of attach().loads(fabric.id).values())
          if (
            load.utilisation > UTILISATION_ERROR &&
            (attach().loads().get(load.port.id)?.utilisation ?? 0) <= UTILISATION_ERROR
          )
            yield {
              subject: about(view, load.port),
              says: `Without fabric ${fabric.name}, ${load.port.name} would carry ${percent(load.utilisation)} of what it can.`,
              advice: 'Add ports, or spread the hosts.',
              mend: null,
            } satisfies Found;
    },
  },
];

/** The host with the deepest queues at a port is the one to change. */
function busiest({ attach }: CheckContext, port: string, depth: number) {
  const host = attach().busiest().get(port);
  return host ? offer('Set a lower depth', 'host.configure', { host: host.name, queueDepth: String(depth) }) : null;
}
