import type { EstateView } from '../estate/estate';
import type { Held } from '../estate/held';
import { copiesHolder } from '../estate/occupancy';
import { within, type Runs } from '../estate/runs';

/** What a volume holds of extents itself. */
export const heldOf = (view: EstateView, volume: string): Held =>
  view.occupancy.held(volume, () => view.table('extent').by('volume', volume));

/** What is held for what copies of a volume keep apart. */
export const heldForCopies = (view: EstateView, volume: string): Held =>
  view.occupancy.held(copiesHolder(volume), () => view.table('extent').by('copies', volume));

/** Which extents of a volume it holds, by their numbers; of those from `low` to `high` alone where only they matter. */
export function heldNumbers(view: EstateView, volume: string, low = 0, high = Infinity): Runs {
  const { numbers } = heldOf(view, volume);
  return low === 0 && high === Infinity ? numbers : within(numbers, low, high);
}
