import { mappingsOf } from '../copies/legs';
import type { Mapping } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { interfaceOf } from '../estate/relations';
import { wayOf } from '../attach/paths';
import { criticalBook, type CriticalBook, type Nexus } from './critical';
import { adapterId, componentsOf, type Component } from './components';

/** What ends every path of a host to a volume. */
export interface Spofs {
  /** `no-path` where nothing serves the volume now: then nothing is left to fail. */
  state: 'ok' | 'no-path';
  /** Could be mended by design: a second card, switch, controller. */
  design: string[];
  /** Goes with the volume living in one array at one site. */
  inherent: string[];
}

const none: Spofs = { state: 'no-path', design: [], inherent: [] };

/** The ids that all lists hold, sorted as they are. */
export const shared = (lists: readonly (readonly string[])[]): string[] =>
  lists.length === 0 ? [] : lists[0]!.filter((id) => lists.every((list) => list.includes(id)));

/** Paths that differ from others only in whose ports they leave by: hosts that are wired alike fail alike. */
interface Shape {
  key: string;
  /** The host's own components, in the order in which the paths name them. */
  own: readonly string[];
}

function shapeOf(view: EstateView, paths: readonly Nexus[]): Shape {
  const own = new Map<string, number>();
  const placeOf = (id: string): number => {
    const known = own.get(id);
    if (known !== undefined) return known;
    own.set(id, own.size);
    return own.size - 1;
  };
  let key = '';
  for (const path of paths) {
    const row = interfaceOf(view, path);
    const card = row.adapter === '' || row.host === null ? -1 : placeOf(adapterId(row.host, row.adapter));
    const net = row.kind === 'ethernet' ? (row.addresses[0]?.ip ?? '') : row.switch;
    key += `${placeOf(path.interface)},${card},${net},${path.port},${path.network};`;
  }
  return { key, own: [...own.keys()] };
}

/** The same ids for another host of the same shape. */
function translated(ids: readonly string[], from: Shape, to: Shape): string[] {
  if (from.own === to.own) return [...ids];
  return ids.map((id) => {
    const place = from.own.indexOf(id);
    return place < 0 ? id : to.own[place]!;
  });
}

/**
 * Single points of failure of every mapping asked for: the intersection of what each usable path cannot do without. Exact, since a path dies
 * under one component alone just when that component is critical for it. Volumes that go by the same ports, and hosts that are wired alike,
 * are worked out once.
 */
export function spofFinder(view: EstateView, book: CriticalBook = criticalBook(view)): (mapping: Mapping) => Spofs {
  const finder = book.finder;
  const known = new Map<string, Spofs>();
  const shapes = new Map<string, { shape: Shape; all: string[] }>();
  return (mapping) => {
    // Of a stretched volume, those of both legs that serve: what one leg cannot do without, the other can.
    const ways = mappingsOf(view, mapping.host, mapping.volume).filter((way) => finder.count(way).usable > 0);
    if (ways.length === 0) return none;
    const key = ways.map((way) => wayOf(view, way)).join(' | ');
    let found = known.get(key);
    if (!found) {
      const paths = ways.flatMap((way) => book.usable(way));
      const shape = shapeOf(view, paths);
      let like = shapes.get(shape.key);
      if (!like) {
        const asleep = ways.flatMap((way) => book.asleep(way));
        const all = shared(paths.map((nexus) => book.of(nexus)!)).filter(
          (id) => !asleep.some((nexus) => book.lives(nexus, [id])),
        );
        shapes.set(shape.key, (like = { shape, all }));
      }
      const all = translated(like.all, like.shape, shape).sort();
      const inherent = all.filter((id) => view.table('array').get(id) || view.table('site').get(id));
      known.set(key, (found = { state: 'ok', design: all.filter((id) => !inherent.includes(id)), inherent }));
    }
    const shelves = ways.length > 1 ? [] : book.enclosures(ways[0]!.volume);
    return shelves.length === 0 ? found : { ...found, design: [...found.design, ...shelves] };
  };
}

/** Two components that together end every path, and neither alone. */
export type Pair = readonly [string, string];

/**
 * Minimal pairs of failures for a mapping. One of the two kills the first path, or lies on a shortest way of it; with that one gone, whatever all
 * remaining paths need makes a pair. A pair is left out where a part of one of the two would do.
 */
export function pairFinder(
  view: EstateView,
  components: ReadonlyMap<string, Component> = componentsOf(view),
  book: CriticalBook = criticalBook(view),
): (mapping: Mapping) => Pair[] {
  const spofs = spofFinder(view, book);
  const within = childrenOf(components);
  const known = new Map<string, Pair[]>();
  const shapes = new Map<string, { shape: Shape; pairs: Pair[] }>();
  return (mapping) => {
    const alone = spofs(mapping);
    if (alone.state === 'no-path') return [];
    const ways = mappingsOf(view, mapping.host, mapping.volume).filter((way) => book.finder.count(way).usable > 0);
    const key = ways.map((way) => wayOf(view, way)).join(' | ');
    let found = known.get(key);
    if (!found) {
      // Enclosures kill by themselves or, in twos, the group: those pairs are the group's, not the paths'.
      const paths = ways.flatMap((way) => book.usable(way));
      const shape = shapeOf(view, paths);
      let like = shapes.get(shape.key);
      if (!like) {
        const single = new Set([...alone.design, ...alone.inherent]);
        shapes.set(
          shape.key,
          (like = {
            shape,
            pairs: pairsOf(
              paths,
              ways.flatMap((way) => book.asleep(way)),
              book,
              single,
              within,
            ),
          }),
        );
      }
      const { shape: first, pairs } = like;
      known.set(
        key,
        (found = pairs
          .map((pair) => translated(pair, first, shape).sort() as unknown as Pair)
          .sort((x, y) => (x.join(' ') < y.join(' ') ? -1 : 1))),
      );
    }
    return found;
  };
}

function childrenOf(components: ReadonlyMap<string, Component>): (id: string) => readonly string[] {
  const children = new Map<string, string[]>();
  for (const one of components.values())
    for (const parent of one.within) {
      const list = children.get(parent);
      if (list) list.push(one.id);
      else children.set(parent, [one.id]);
    }
  return (id) => children.get(id) ?? [];
}

function pairsOf(
  paths: readonly Nexus[],
  asleep: readonly Nexus[],
  book: CriticalBook,
  single: ReadonlySet<string>,
  within: (id: string) => readonly string[],
): Pair[] {
  const first = paths[0]!;
  const candidates = [...new Set([...book.of(first)!, ...book.ways(first)])].filter((id) => !single.has(id));
  const pairs = new Map<string, Pair>();
  const left = new Map<string, (readonly string[])[]>();
  /** What each path still needs once a component has failed; paths that died with it are left out. */
  const after = (id: string): (readonly string[])[] => {
    let found = left.get(id);
    if (!found) left.set(id, (found = paths.flatMap((path) => [book.of(path, id)].filter((need) => need !== null))));
    return found;
  };
  const cut = (a: string, b: string): boolean =>
    after(a).every((need) => need.includes(b)) && !asleep.some((nexus) => book.lives(nexus, [a, b]));
  for (const a of candidates)
    for (const b of shared(after(a))) {
      if (single.has(b) || a === b || !cut(a, b)) continue;
      const pair: Pair = a < b ? [a, b] : [b, a];
      pairs.set(pair.join(' '), pair);
    }
  const byPart = (whole: string, other: string): boolean =>
    within(whole).some((part) => part !== other && !single.has(part) && cut(part, other));
  return [...pairs.values()]
    .filter(([a, b]) => !byPart(a, b) && !byPart(b, a))
    .sort((x, y) => (x.join(' ') < y.join(' ') ? -1 : 1));
}
