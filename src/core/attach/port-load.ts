import type { Mapping, Port } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { hostOf, interfaceOf, portOf, switchOf } from '../estate/relations';
import { capacityOf } from '../network/link';
import { linesUnder, networksOf } from '../network/reach';
import { fabricRoutes } from '../fabric/routes';
import { byName } from '../operation/draft';
import { pathFinder, wayOf, type PathFinder } from './paths';
import { whole, type InParts } from '../units/in-parts';
import { deviceShares } from './selector';

/** Limits that are warned about, and the share of a port from which on it is too busy. */
export const OVERCOMMIT_WARNED = 1;
export const OVERCOMMIT_ERROR = 4;
export const UTILISATION_WARNED = 0.7;
export const UTILISATION_ERROR = 0.9;

/** Rows that are gone through in one go. */
const ROWS_A_PART = 500;

/** What hosts ask of an array port. */
export interface PortLoad {
  port: Port;
  /** Host ports that use it, and the hosts they belong to. */
  initiators: number;
  hosts: number;
  /** LUNs reached through it, summed over those host ports. */
  luns: number;
  /** Commands that may be outstanding at a time, against what the port takes. */
  demand: number;
  limit: number;
  overcommit: number;
  /** Depth a LUN with which the port cannot be overrun; at least 1. */
  safeDepth: number;
  /** Bytes a second that are written through it, and what it carries. */
  rate: number;
  capacity: number;
  utilisation: number;
}

/**
 * Demand on every port that serves: Σ over host ports of min(adapter's limit, Σ over LUNs of the depth a LUN); overcommit is demand over the
 * port's command limit; the safe depth is ⌊limit ÷ Σ LUNs⌋. Rates follow the shares that path selectors give.
 * `lost` leaves out a fabric or network, whose load the others then carry.
 */
export const portLoads = (
  view: EstateView,
  finder: PathFinder = pathFinder(view),
  lost: string | null = null,
): Map<string, PortLoad> => whole(portLoadsInParts(view, finder, lost));

/** The same some mappings at a time. */
export function* portLoadsInParts(
  view: EstateView,
  finder: PathFinder,
  lost: string | null = null,
): InParts<Map<string, PortLoad>> {
  const loads = new Map<string, PortLoad>();
  for (const port of view.table('port').values())
    if (port.role !== 'none')
      loads.set(port.id, {
        port,
        initiators: 0,
        hosts: 0,
        luns: 0,
        demand: 0,
        limit: port.commandLimit,
        overcommit: 0,
        safeDepth: port.commandLimit,
        rate: 0,
        capacity: capacityOf(port),
        utilisation: 0,
      });
  const ways = new Map<string, { mapping: Mapping; count: number }>();
  let seen = 0;
  for (const mapping of view.table('mapping').values()) {
    if (++seen % ROWS_A_PART === 0) yield;
    const key = wayOf(view, mapping);
    const known = ways.get(key);
    if (known) known.count += 1;
    else ways.set(key, { mapping, count: 1 });
  }
  const reached = new Map<string, { port: string; host: string; luns: number }>();
  for (const { mapping, count } of ways.values()) {
    yield;
    for (const path of finder.paths(mapping).found) {
      if (path.network === lost) continue;
      const key = `${path.interface} ${path.port}`;
      const known = reached.get(key);
      if (known) known.luns += count;
      else reached.set(key, { port: path.port, host: mapping.host, luns: count });
    }
  }
  const guests = new Map<string, Set<string>>();
  for (const { port, host: id, luns } of reached.values()) {
    const load = loads.get(port)!;
    const host = view.table('host').get(id)!;
    load.initiators += 1;
    load.luns += luns;
    load.demand += Math.min(host.commandLimit, luns * host.queueDepth);
    const known = guests.get(port) ?? new Set<string>();
    guests.set(port, known.add(id));
  }
  const rates = yield* trafficRatesInParts(view, finder, lost);
  for (const [id, load] of loads) {
    load.hosts = guests.get(id)?.size ?? 0;
    load.rate = rates.get(id) ?? 0;
    load.overcommit = load.demand / load.limit;
    load.safeDepth = Math.max(1, Math.floor(load.limit / Math.max(1, load.luns)));
    load.utilisation = load.rate / load.capacity;
  }
  return loads;
}

/**
 * Bytes a second that hosts write, by array port, host port and inter-switch link, and what networks add to the links between sites that carry
 * them: each device's rate in the shares its selector gives. Equal ways share evenly.
 */
export const trafficRates = (
  view: EstateView,
  finder: PathFinder = pathFinder(view),
  lost: string | null = null,
): Map<string, number> => whole(trafficRatesInParts(view, finder, lost));

/** The same some devices at a time. */
export function* trafficRatesInParts(
  view: EstateView,
  finder: PathFinder,
  lost: string | null,
): InParts<Map<string, number>> {
  const rates = new Map<string, number>();
  const add = (id: string, rate: number) => rates.set(id, (rates.get(id) ?? 0) + rate);
  const routes = fabricRoutes(view);
  const networks = networksOf(view);
  for (const device of view.table('hostDevice').values()) {
    if (device.writeRate === 0) continue;
    yield;
    const paths = finder.of(device).found.filter((path) => path.network !== lost);
    const shares = deviceShares(paths, hostOf(view, device), device);
    paths.forEach((path, k) => {
      const rate = shares[k]! * device.writeRate;
      if (rate === 0) return;
      add(path.port, rate);
      add(path.interface, rate);
      const [initiator, port] = [interfaceOf(view, path), portOf(view, path)];
      if (initiator.kind === 'ethernet') {
        const lines = linesUnder(networks, initiator, port);
        for (const line of lines) add(line.id, rate / lines.length);
      }
      const [from, to] = [initiator.switch, port.switch];
      if (!from || !to || from === to) return;
      const links = routes.shortest(from, to);
      for (const isl of links) add(isl.id, (rate * (routes.hops(from, to) ?? 0)) / links.length);
    });
  }
  return rates;
}

/** For the next host: of each fabric or network and controller of an array the port with the least demand. */
export function nextPorts(view: EstateView, array: string, loads: ReadonlyMap<string, PortLoad>): Port[] {
  const groups = new Map<string, Port>();
  const of = (port: Port) => loads.get(port.id)!;
  for (const port of [...view.table('port').by('array', array)].sort(byName)) {
    if (port.role === 'none' || port.state === 'down' || !loads.has(port.id)) continue;
    const at = port.switch ? switchOf(view, port)?.fabric : port.addresses[0]?.ip.replace(/\.\d+$/, '');
    if (!at) continue;
    const key = `${port.role} ${at} ${port.controller}`;
    const best = groups.get(key);
    if (
      !best ||
      of(port).overcommit < of(best).overcommit ||
      (of(port).overcommit === of(best).overcommit && of(port).initiators < of(best).initiators)
    )
      groups.set(key, port);
  }
  return [...groups.values()];
}
