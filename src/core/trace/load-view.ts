import type { EstateView } from '../estate/estate';
import { nextPorts, portLoads } from '../attach/port-load';
import { FAN_IN_LIMIT, talkers, trunkLoads } from '../fabric/load';
import { creditShare, creditsNeeded } from '../network/link';
import { byName } from '../operation/draft';

/** What an array port carries and is asked for. */
export interface PortLoadLine {
  array: string;
  port: string;
  role: string;
  where: string;
  initiators: number;
  hosts: number;
  luns: number;
  demand: number;
  limit: number;
  overcommit: number;
  safeDepth: number;
  rate: number;
  capacity: number;
  utilisation: number;
  /** The same once the busier of the two fabrics or networks beside it is lost. */
  survivor: number;
  /** A good place for the next host. */
  next: boolean;
}

export interface TrunkLine {
  between: string;
  links: string[];
  crossing: number;
  carries: number;
  ratio: number;
}

export interface CreditLine {
  link: string;
  km: number;
  speed: number;
  credits: number;
  needed: number;
  /** Of the line rate these credits allow, 0 to 1. */
  share: number;
}

export interface LoadView {
  fanIn: number;
  ports: PortLoadLine[];
  trunks: TrunkLine[];
  credits: CreditLine[];
}

export function loadView(view: EstateView): LoadView {
  const loads = portLoads(view);
  const lost = [...view.table('fabric').values(), ...view.table('network').values()].map((row) =>
    portLoads(view, undefined, row.id),
  );
  const next = new Set(
    [...view.table('array').values()].flatMap((array) => nextPorts(view, array.id, loads).map((port) => port.id)),
  );
  const where = (id: string | null, port: number) => (id ? `${view.table('switch').get(id)?.name} port ${port}` : '');
  return {
    fanIn: FAN_IN_LIMIT,
    ports: [...view.table('array').values()].sort(byName).flatMap((array) =>
      [...view.table('port').by('array', array.id)].sort(byName).flatMap((port): PortLoadLine[] => {
        const load = loads.get(port.id);
        if (!load) return [];
        const { initiators, hosts, luns, demand, limit, overcommit, safeDepth, rate, capacity, utilisation } = load;
        return [
          {
            array: array.name,
            port: port.name,
            role: port.role,
            where: where(port.switch, port.switchPort) || port.addresses.map((one) => one.ip).join(', '),
            initiators,
            hosts,
            luns,
            demand,
            limit,
            overcommit,
            safeDepth,
            rate,
            capacity,
            utilisation,
            survivor: Math.max(...lost.map((one) => one.get(port.id)?.utilisation ?? 0), utilisation),
            next: next.has(port.id),
          },
        ];
      }),
    ),
    trunks: trunkLoads(view, talkers(view)).map((trunk) => ({
      between: `${trunk.a.name} to ${trunk.b.name}`,
      links: trunk.links.map((isl) => `${isl.name}${isl.state === 'down' ? ' (down)' : ''}`),
      crossing: trunk.crossing,
      carries: trunk.carries,
      ratio: trunk.ratio,
    })),
    credits: [...view.table('isl').values()].sort(byName).map((isl) => ({
      link: isl.name,
      km: isl.km,
      speed: isl.speed,
      credits: isl.credits,
      needed: creditsNeeded(isl.km, isl.speed),
      share: creditShare(isl.credits, isl.km, isl.speed),
    })),
  };
}
