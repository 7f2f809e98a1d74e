import type { Simulation } from '../qos/simulate';
import { mmc } from '../load/queue';
import { oneSlot } from './one-slot';
import type { LoadModel } from './shape';

/** Servers beyond this are taken as fewer, faster ones: it makes next to no difference to who waits. */
const MOST_SERVERS = 64;

/** The resource at which a volume waits most at a moment, as a queue of its own to be simulated I/O by I/O. */
export interface QueueOf {
  resource: string;
  simulation: Omit<Simulation, 'ios' | 'seed'>;
  /** How often an I/O of each volume comes to this resource. */
  visits: Record<string, number>;
  /** What the closed form says of it: seconds of a response on the mean and at the 95th percentile; null where it is saturated. */
  closed: { meanS: number; p95S: number } | null;
}

/** `limit` holds back one of its users, I/O of its own a second. */
export function asQueue(
  model: LoadModel,
  slot: number,
  victim: string,
  limit: { volume: string; iops: number } | null,
): QueueOf | null {
  const index = model.volumes.findIndex(({ id }) => id === victim);
  if (index < 0) return null;
  const { volumes, used } = oneSlot(model, slot);
  const uses = model.volumes[index]!.uses;
  const { boundBy } = volumes[index]!;
  const busiest = [...uses].sort((a, b) => {
    const rho = (r: number) => used[r]! / model.resources[r]!.capacity;
    return rho(b.resource) - rho(a.resource);
  })[0];
  const resource = boundBy >= 0 ? boundBy : busiest?.resource;
  if (resource === undefined) return null;
  const { capacity, servers: all, name } = model.resources[resource]!;
  const servers = Math.min(all, MOST_SERVERS);
  let [arrivals, work] = [0, 0];
  const visitsOf: Record<string, number> = {};
  const users = model.volumes.flatMap((one, k) => {
    const use = one.uses.find((candidate) => candidate.resource === resource);
    const total = one.reads + one.writes;
    if (!use || total === 0) return [];
    const visits = (one.reads * use.readVisits + one.writes * use.writeVisits) / total;
    const units = (one.reads * use.read + one.writes * use.write) / total;
    const perS = volumes[k]!.asked * visits;
    if (visits <= 0 || perS <= 0) return [];
    const meanS = (units / visits / capacity) * servers;
    const held = limit?.volume === one.id ? limit.iops * visits : null;
    const goes = held === null ? perS : Math.min(perS, held);
    arrivals += goes;
    work += goes * meanS;
    visitsOf[one.id] = visits;
    return [
      {
        id: one.id,
        arrivals: { perS, scv: 1 },
        service: { meanS, scv: 1 },
        weight: 1,
        ...(held === null ? {} : { limit: { ratePerS: held, depth: servers } }),
      },
    ];
  });
  const answer =
    arrivals > 0 ? mmc({ arrivalsPerS: arrivals, serviceS: work / arrivals, servers, percentiles: [95] }) : null;
  return {
    resource: name,
    visits: visitsOf,
    // Hardware serves as it comes; floors and weights are for where somebody has set them.
    simulation: { volumes: users, servers, maxWaitS: 1, order: 'arrival' },
    closed: !answer || answer.saturated ? null : { meanS: answer.responseS, p95S: answer['responseP95']! },
  };
}
