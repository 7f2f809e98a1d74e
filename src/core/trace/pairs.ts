import type { EstateView } from '../estate/estate';
import { arrayOf, interfaceOf, portOf } from '../estate/relations';
import type { Path, Paths } from '../attach/paths';
import { hopNumber } from './hop';
import { reasons } from './reasons';

/** A pair of ports, and how far it gets. */
export interface TracePair {
  from: string;
  to: string;
  via: string;
  state: Path['state'] | 'missing';
  /** The hop it breaks at; null where it holds. */
  breaksAt: number | null;
  says: string;
}

/** Networks and fabrics over which a mapping holds, and those over which it should and does not, by name. */
export interface Legs {
  holding: string[];
  broken: string[];
}

export const networkName = (view: EstateView, id: string | null): string =>
  id ? (view.table('fabric').get(id)?.name ?? view.table('network').get(id)?.name ?? '') : '';

/** Networks and fabrics over which the mapping is reached, and those over which it should be and is not. */
export function waysOf(view: EstateView, paths: Paths): Legs {
  const holding = new Set(paths.found.flatMap((path) => (path.state === 'unavailable' ? [] : (path.network ?? []))));
  const broken = new Set(paths.missing.flatMap(({ network }) => (network && !holding.has(network) ? network : [])));
  const names = (ids: Set<string>) => [...ids].map((id) => networkName(view, id)).sort();
  return { holding: names(holding), broken: names(broken) };
}

/** The names of both ends; where ports of several arrays are listed, each behind its array. */
function endNames(view: EstateView, end: { interface: string; port: string }, several: boolean): [string, string] {
  const port = portOf(view, end);
  return [interfaceOf(view, end).name, several ? `${arrayOf(view, port).name} ${port.name}` : port.name];
}

export function pairsOf(view: EstateView, paths: Paths): TracePair[] {
  const arrays = new Set([...paths.found, ...paths.missing].map((one) => portOf(view, one)?.array));
  const several = arrays.size > 1;
  const words = {
    optimized: 'carries I/O',
    'non-optimized': 'waits in reserve',
    transitioning: 'holds I/O for a moment',
    unavailable: 'serves nothing',
  };
  return [
    ...paths.found.map((path): TracePair => {
      const [from, to] = endNames(view, path, several);
      return {
        from,
        to,
        via: networkName(view, path.network),
        state: path.state,
        breaksAt: path.state === 'unavailable' ? hopNumber('LUN') : null,
        says: words[path.state],
      };
    }),
    ...paths.missing.map((gap): TracePair => {
      const [from, to] = endNames(view, gap, several);
      const at = hopNumber(reasons[gap.reason].hop);
      return {
        from,
        to,
        via: networkName(view, gap.network),
        state: 'missing',
        breaksAt: at,
        says: `breaks at hop ${at}`,
      };
    }),
  ].sort((a, b) => (`${a.from} ${a.to}` < `${b.from} ${b.to}` ? -1 : 1));
}
