import type { Mapping } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { Overlay } from '../estate/estate';
import { changed } from '../estate/effects';
import { pathFinder, type PathFinder } from '../attach/paths';
import { fabricRoutes, type Routes } from '../fabric/routes';
import { networkFinder } from '../network/reach';
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
  /** Components whose failure ends the nexus, sorted; null where it is dead already once `without` has failed. */
  of(nexus: Nexus, without?: string): readonly string[] | null;
  /** Switches, links and their sites on some shortest way of the nexus: one of them is in every joint cut. */
  ways(nexus: Nexus): readonly string[];
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
  const isNode = new Set([
    ...siteOf.keys(),
    ...siteOf.values(),
    ...[...view.table('isl').values()].map((isl) => isl.id),
  ]);
  const networkAt = networkFinder(view);
  const fabricOf = new Map(switches.map((row) => [row.id, row.fabric]));
  for (const isl of view.table('isl').values()) fabricOf.set(isl.id, fabricOf.get(isl.a) ?? '');
  /** Whether a node can lie on ways of the fabric at all; a site may. */
  const touches = (node: string, fabric: string | null): boolean => (fabricOf.get(node) ?? fabric) === fabric;

  const routesWithout = new Map<string, Routes>();
  const routes = (without: readonly string[]): Routes => {
    const key = without.join(' ');
    let found = routesWithout.get(key);
    if (!found) routesWithout.set(key, (found = fabricRoutes(view, new Set(without.flatMap(parts)))));
    return found;
  };
  /** A site takes its switches along. */
  const parts = (id: string): string[] => {
    const there = switches.filter((row) => row.site === id).map((row) => row.id);
    return there.length > 0 ? there : [id];
  };
  const sites = [...new Set(siteOf.values())];

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
              ...sites.filter((site) => site !== without && routes([...given, site]).hops(a, b) === null),
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
      ends.set(id, (found = [id, port.controller, port.array, view.table('array').get(port.array)!.site]));
    }
    return found;
  };
  const hostEnd = (id: string): readonly string[] => {
    let found = ends.get(id);
    if (!found) {
      const row = view.table('interface').get(id)!;
      const card = row.adapter === '' || row.host === null ? [] : [adapterId(row.host, row.adapter)];
      const own = row.kind === 'ethernet' && row.addresses[0] ? networkAt(row.addresses[0]) : undefined;
      ends.set(id, (found = [id, ...card, ...(own ? [own.id, own.site] : [])]));
    }
    return found;
  };

  const known = new Map<string, readonly string[] | null>();
  const of = (nexus: Nexus, without = ''): readonly string[] | null => {
    // What is no part of a fabric changes no way: the nexus is dead or as before.
    const removed = isNode.has(without) && touches(without, nexus.network) ? without : '';
    const key = `${nexus.interface} ${nexus.port} ${removed}`;
    let found = known.get(key);
    if (found === undefined) {
      const from = view.table('interface').get(nexus.interface)!;
      const to = view.table('port').get(nexus.port)!;
      const both = [...hostEnd(from.id), ...portEnd(to.id)];
      if (from.kind === 'fc') {
        const way = wayBetween(from.switch!, to.switch!, removed);
        found = way && sorted([...both, ...way]);
      } else {
        const network = nexus.network ? view.table('network').get(nexus.network) : undefined;
        found = sorted([...both, ...(network ? [network.id, network.site] : [])]);
      }
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
      const from = view.table('interface').get(nexus.interface)!;
      const to = view.table('port').get(nexus.port)!;
      if (from.kind !== 'fc') return [];
      const links = routes([]).shortest(from.switch!, to.switch!);
      const on = links.flatMap((isl) => [isl.id, isl.a, isl.b]);
      return sorted([...on, ...on.flatMap((id) => siteOf.get(id) ?? [])]);
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
