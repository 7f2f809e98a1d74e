import type { EstateView } from '../estate/estate';
import { trace } from './trace';

/** At which hop a chain breaks, and why; null where it holds. */
export function firstBreak(view: EstateView, host: string, volume: string): [number, string | null] | null {
  const named = <T extends { name: string }>(rows: Iterable<T>, name: string) =>
    [...rows].find((row) => row.name === name)!;
  const found = trace(
    view,
    named(view.table('host').values(), host),
    named(view.table('volume').values(), volume),
  ).hops.find((hop) => hop.state === 'fail');
  return found ? [found.number, found.reason] : null;
}
