import type { Isl } from '../estate/entities';
import type { EstateView } from '../estate/estate';

/** Beyond so many inter-switch links on the way a host waits too long; beyond the second number it is refused. */
export const HOPS_WARNED = 2;
export const MOST_HOPS = 7;

/** Ways between switches over links that are up. */
export interface Routes {
  /** Inter-switch links on the shortest way, 0 on one switch; null where none leads there. */
  hops(from: string, to: string): number | null;
  /** Switches and links that every way between the two uses, the two switches included. Sorted. */
  cuts(from: string, to: string): readonly string[];
  /** Links on some shortest way; equal ways share the load. */
  shortest(from: string, to: string): Isl[];
}

/** Reads the switches and links that are up; `without` are treated as down. */
export function fabricRoutes(view: EstateView, without: ReadonlySet<string> = new Set()): Routes {
  const neighbours = new Map<string, { to: string; isl: Isl }[]>();
  const up = (id: string) => view.table('switch').get(id)?.state === 'up' && !without.has(id);
  for (const row of view.table('switch').values()) if (up(row.id)) neighbours.set(row.id, []);
  for (const isl of view.table('isl').values()) {
    if (isl.state === 'down' || without.has(isl.id) || !up(isl.a) || !up(isl.b)) continue;
    neighbours.get(isl.a)!.push({ to: isl.b, isl });
    neighbours.get(isl.b)!.push({ to: isl.a, isl });
  }
  const distances = new Map<string, Map<string, number>>();
  const from = (start: string, barred = ''): Map<string, number> => {
    const key = `${start} ${barred}`;
    const known = distances.get(key);
    if (known) return known;
    const found = new Map<string, number>();
    if (neighbours.has(start) && start !== barred) found.set(start, 0);
    let edge = [...found.keys()];
    for (let hops = 1; edge.length > 0; hops++) {
      const next: string[] = [];
      for (const at of edge)
        for (const { to, isl } of neighbours.get(at)!)
          if (!found.has(to) && to !== barred && isl.id !== barred) {
            found.set(to, hops);
            next.push(to);
          }
      edge = next;
    }
    distances.set(key, found);
    return found;
  };
  const shortWays = new Map<string, Isl[]>();
  const shortest = (a: string, b: string): Isl[] => {
    const key = `${a} ${b}`;
    let known = shortWays.get(key);
    if (!known) shortWays.set(key, (known = shortestOf(a, b)));
    return known;
  };
  const shortestOf = (a: string, b: string): Isl[] => {
    const whole = from(a).get(b);
    if (whole === undefined || whole === 0) return [];
    const found = new Map<string, Isl>();
    for (const [at, links] of neighbours)
      for (const { to, isl } of links) {
        const here = from(a).get(at);
        const left = from(b).get(to);
        if (here !== undefined && left !== undefined && here + 1 + left === whole) found.set(isl.id, isl);
      }
    return [...found.values()];
  };
  const known = new Map<string, readonly string[]>();
  return {
    hops: (a, b) => from(a).get(b) ?? null,
    shortest,
    cuts(a, b) {
      const key = a < b ? `${a} ${b}` : `${b} ${a}`;
      let cuts = known.get(key);
      if (!cuts) {
        // What every way uses lies on the shortest ones as well: only those are tried.
        const links = shortest(a, b);
        const tried = [...new Set(links.flatMap((isl) => [isl.id, isl.a, isl.b]))].filter((id) => id !== a && id !== b);
        cuts = [...new Set([a, b, ...tried.filter((id) => !from(a, id).has(b))])].sort();
        known.set(key, cuts);
      }
      return cuts;
    },
  };
}
