import type { HostInterface, Mapping } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, interfaceOf, portOf, volumeOf } from '../estate/relations';
import { Overlay } from '../estate/estate';
import { changed } from '../estate/effects';
import { carries, pathFinder, type PathFinder } from '../attach/paths';
import { fabricRoutes, type Routes } from '../fabric/routes';
import { meetings, networksOf, waysOut } from '../network/reach';
import { groupHealth } from '../raid/health';
import { groupsUnder } from '../volume/health';
import { adapterId } from './components';

/** Two ports that are logged in at each other: what a path rests on, whatever the volume. */
export interface Nexus {
  interface: string;
  port: string;
  network: string | null;
}

/** What paths cannot do without. */
export interface CriticalBook {
  finder: PathFinder;
  /**
   * Components whose failure ends the nexus, sorted; null where it is dead already once `without` has failed. Where the host bound no interface a
   * nexus is the way to its port by whichever routing picks then.
   */
  of(nexus: Nexus, without?: string): readonly string[] | null;
  /** What the nexus goes over as it is: one of it is in every joint cut. */
  ways(nexus: Nexus): readonly string[];
  /** Whether the nexus is there once all of `failed` have failed. */
  lives(nexus: Nexus, failed: readonly string[]): boolean;
  /** Nexuses that are not there now, and could come up where another failure makes routing pick another interface. */
  asleep(mapping: Mapping): readonly Nexus[];
  /** Enclosures whose failure loses a RAID group under the volume. */
  enclosures(volume: string): readonly string[];
  /** Nexuses by which a mapping serves I/O now. */
  usable(mapping: Mapping): readonly Nexus[];
}

/** Looks up what is asked of every path once: routes a removed component, ends a port, groups an enclosure. */
export function criticalBook(view: EstateView): CriticalBook {
  const finder = pathFinder(view);
  const switches = [...view.table('switch').values()];
  const siteOf = new Map(switches.map((row) => [row.id, row.site]));
  const carriers = [...view.table('siteLink').values()].filter(({ isls }) => isls.length > 0);
  const isNode = new Set([
    ...siteOf.keys(),
    ...siteOf.values(),
    ...carriers.map(({ id }) => id),
    ...[...view.table('isl').values()].map((isl) => isl.id),
  ]);
  const networks = networksOf(view);
  const fabricOf = new Map(switches.map((row) => [row.id, row.fabric]));
  for (const isl of view.table('isl').values()) fabricOf.set(isl.id, fabricOf.get(isl.a) ?? '');
  /** Whether a node can lie on ways of the fabric at all; a site and a link between sites may. */
  const touches = (node: string, fabric: string | null): boolean => (fabricOf.get(node) ?? fabric) === fabric;

  const routesWithout = new Map<string, Routes>();
  const routes = (without: readonly string[]): Routes => {
    const key = without.join(' ');
    let found = routesWithout.get(key);
    if (!found) routesWithout.set(key, (found = fabricRoutes(view, new Set(without.flatMap(parts)))));
    return found;
  };
  /** A site takes its switches along, a link between sites the inter-switch links that run over it. */
  const parts = (id: string): readonly string[] => {
    const line = carriers.find((row) => row.id === id);
    if (line) return line.isls;
    const there = switches.filter((row) => row.site === id).map((row) => row.id);
    return there.length > 0 ? there : [id];
  };
  const takers = [...new Set(siteOf.values()), ...carriers.map(({ id }) => id)];

  const ways = new Map<string, readonly string[] | null>();
  /** What every way between two switches uses once `without` has failed; null where none is left. */
  const wayBetween = (a: string, b: string, without: string): readonly string[] | null => {
    const key = `${a < b ? `${a} ${b}` : `${b} ${a}`} ${without}`;
    let found = ways.get(key);
    if (found === undefined) {
      const given = without === '' ? [] : [without];
      const here = routes(given);
      found =
        here.hops(a, b) === null
          ? null
          : [
              ...here.cuts(a, b),
              ...takers.filter((one) => one !== without && routes([...given, one]).hops(a, b) === null),
            ];
      ways.set(key, found);
    }
    return found;
  };

  const ends = new Map<string, readonly string[]>();
  const portEnd = (id: string): readonly string[] => {
    let found = ends.get(id);
    if (!found) {
      const port = view.table('port').get(id)!;
      ends.set(id, (found = [id, port.controller, port.array, arrayOf(view, port).site]));
    }
    return found;
  };
  const cardOf = (row: HostInterface): readonly string[] =>
    row.adapter === '' || row.host === null ? [] : [adapterId(row.host, row.adapter)];
  const hostEnd = (id: string): readonly string[] => {
    let found = ends.get(id);
    if (!found) ends.set(id, (found = [id, ...cardOf(view.table('interface').get(id)!)]));
    return found;
  };

  const meets = new Map<string, readonly (readonly string[])[]>();
  /** For each two addresses by which an interface and a port meet: their networks, with the sites of these and a link between sites. */
  const metBy = (from: HostInterface, port: string): readonly (readonly string[])[] => {
    const key = `${from.id} ${port}`;
    let found = meets.get(key);
    if (!found)
      meets.set(
        key,
        (found = meetings(networks, from, view.table('port').get(port)!).map((met) => [
          ...new Set([...met.networks.flatMap(({ id, site }) => [id, site]), ...(met.line ? [met.line.id] : [])]),
        ])),
      );
    return found;
  };
  const outs = new Map<string, ReturnType<typeof waysOut>>();
  const out = (host: string, port: string): ReturnType<typeof waysOut> => {
    const key = `${host} ${port}`;
    let found = outs.get(key);
    if (!found) {
      const ethernet = view
        .table('interface')
        .by('host', host)
        .filter((row) => row.kind === 'ethernet');
      outs.set(key, (found = waysOut(networks, ethernet, view.table('port').get(port)!)));
    }
    return found;
  };
  /** The interface by which an IP nexus goes once components have failed, and the networks it can then use; null where it is dead. */
  const ipWay = (
    nexus: Nexus,
    failed: readonly string[],
  ): { from: HostInterface; networks: readonly (readonly string[])[] } | null => {
    const row = interfaceOf(view, nexus);
    const { bound, ways } = out(row.host ?? '', nexus.port);
    const stands = (from: HostInterface) => from.state === 'up' && !hostEnd(from.id).some((id) => failed.includes(id));
    const from = bound ? (stands(row) ? row : undefined) : ways.find(stands);
    if (!from || portEnd(nexus.port).some((id) => failed.includes(id))) return null;
    const networks = metBy(from, nexus.port).filter((met) => !met.some((id) => failed.includes(id)));
    return networks.length === 0 ? null : { from, networks };
  };
  const ofIp = (nexus: Nexus, without: readonly string[]): readonly string[] | null => {
    const way = ipWay(nexus, without);
    if (!way) return null;
    const needs = way.networks[0]!.filter((id) => way.networks.every((met) => met.includes(id)));
    // An interface that fails lets routing pick the next: it is needed only where that does not do.
    const own = hostEnd(way.from.id).filter((id) => ipWay(nexus, [...without, id]) === null);
    return sorted([...own, ...portEnd(nexus.port), ...needs]);
  };

  const known = new Map<string, readonly string[] | null>();
  const isFc = (nexus: Nexus): boolean => interfaceOf(view, nexus).kind === 'fc';
  const of = (nexus: Nexus, without = ''): readonly string[] | null => {
    const fc = isFc(nexus);
    // What is no part of a fabric changes no way: the nexus is dead or as before.
    const removed = !fc || (isNode.has(without) && touches(without, nexus.network)) ? without : '';
    const key = `${nexus.interface} ${nexus.port} ${removed}`;
    let found = known.get(key);
    if (found === undefined) {
      if (fc) {
        const from = interfaceOf(view, nexus);
        const to = portOf(view, nexus);
        const way = wayBetween(from.switch!, to.switch!, removed);
        found = way && sorted([...hostEnd(from.id), ...portEnd(to.id), ...way]);
      } else found = ofIp(nexus, without === '' ? [] : [without]);
      known.set(key, found);
    }
    return found === null || (without !== '' && found.includes(without)) ? null : found;
  };

  const fatal = fatalEnclosures(view);
  const groupSets = new Map<string, readonly string[]>();
  const pools = new Map<string, readonly string[] | null>();
  /** Enclosures that all groups of a pool alike cannot lose; null where the groups differ. */
  const ofPool = (pool: string): readonly string[] | null => {
    let found = pools.get(pool);
    if (found === undefined) {
      const sets = view
        .table('raidGroup')
        .by('pool', pool)
        .map((group) => sorted(fatal.get(group.id) ?? []));
      found = sets.every((set) => set.join() === sets[0]!.join()) ? (sets[0] ?? []) : null;
      pools.set(pool, found);
    }
    return found;
  };
  return {
    finder,
    of,
    ways(nexus) {
      const from = interfaceOf(view, nexus);
      if (from.kind !== 'fc') return sorted([...hostEnd(from.id), ...(metBy(from, nexus.port)[0] ?? [])]);
      const to = portOf(view, nexus);
      const links = routes([]).shortest(from.switch!, to.switch!);
      const on = links.flatMap((isl) => [isl.id, isl.a, isl.b]);
      return sorted([
        ...on,
        ...on.flatMap((id) => siteOf.get(id) ?? []),
        ...carriers.filter(({ isls }) => isls.some((id) => on.includes(id))).map(({ id }) => id),
      ]);
    },
    lives(nexus, failed) {
      if (!isFc(nexus)) return ipWay(nexus, failed) !== null;
      const [first = '', ...rest] = failed;
      const needs = of(nexus, first);
      if (needs === null || rest.some((id) => needs.includes(id))) return false;
      return rest.length < 2 || failed.every((id) => of(nexus, id) !== null);
    },
    asleep(mapping) {
      const { array } = volumeOf(view, mapping);
      const { up, missing } = finder.sessions(mapping.host, array);
      // Only what the network holds back can wake up, and only where routing chooses.
      return missing.filter(
        (gap) =>
          gap.transport !== 'fc' &&
          sleeping.has(gap.reason) &&
          carries(mapping, gap) &&
          up.some((session) => session.transport === gap.transport) &&
          !out(mapping.host, gap.port).bound,
      );
    },
    enclosures(id) {
      if (fatal.size === 0) return [];
      const volume = view.table('volume').get(id)!;
      const whole = ofPool(volume.pool);
      // Where every group of the pool rests on the same enclosures, it does not matter which of them hold the volume.
      if (whole !== null) return whole;
      const groups = groupsUnder(view, volume);
      const key = groups.join(' ');
      let found = groupSets.get(key);
      if (!found) groupSets.set(key, (found = sorted(groups.flatMap((group) => fatal.get(group) ?? []))));
      return found;
    },
    usable: (mapping) => (finder.count(mapping).usable === 0 ? [] : finder.paths(mapping).found),
  };
}

const sleeping: ReadonlySet<string> = new Set([
  'network-down',
  'line-down',
  'mtu-black-hole',
  'vlan-mismatch',
  'prefix-mismatch',
  'no-route',
]);

const sorted = (ids: readonly string[]): string[] => [...new Set(ids)].sort();

/** For each RAID group the enclosures it cannot lose. */
function fatalEnclosures(view: EstateView): Map<string, string[]> {
  const found = new Map<string, string[]>();
  for (const enclosure of view.table('enclosure').values()) {
    if (enclosure.state === 'down') continue;
    const groups = new Set(
      view
        .table('drive')
        .by('enclosure', enclosure.id)
        .flatMap((drive) => drive.raidGroup ?? []),
    );
    if (groups.size === 0) continue;
    const overlay = new Overlay(view);
    overlay.apply([changed('enclosure', enclosure, { state: 'down' })]);
    for (const id of groups) {
      const group = view.table('raidGroup').get(id)!;
      if (groupHealth(overlay, group).state === 'lost') found.set(id, [...(found.get(id) ?? []), enclosure.id]);
    }
  }
  return found;
}
