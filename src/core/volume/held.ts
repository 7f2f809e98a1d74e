import type { ByteRun, ExtentRun } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { joined, within, type Runs } from '../content/runs';

/** What a list of extent runs comes to. */
export interface Held {
  /** Runs of the volume's extent numbers, ascending. */
  numbers: Runs;
  /** Extents in all; more than the numbers have where one is held twice. */
  count: number;
  raidGroups: ReadonlySet<string>;
}

/** Lists so short are worked out as fast as they are looked up. */
const SHORT = 16;
/** Lists of rows are never changed in place: a list that is there again means the same. */
const known = new WeakMap<readonly ExtentRun[], Held>();

function worked(runs: readonly ExtentRun[]): Held {
  const raidGroups = new Set<string>();
  const numbers: ByteRun[] = [];
  let count = 0;
  let last: ByteRun | null = null;
  let inOrder = true;
  for (const { at, count: length, raidGroup } of runs) {
    count += length;
    raidGroups.add(raidGroup);
    if (last === null || at > last[1]) numbers.push((last = [at, at + length]));
    else if (at >= last[0]) last[1] = Math.max(last[1], at + length);
    else {
      inOrder = false;
      numbers.push((last = [at, at + length]));
    }
  }
  return { numbers: inOrder ? numbers : joined(numbers), count, raidGroups };
}

/** What runs of one volume, or of what its copies keep, come to. */
export function heldOf(runs: readonly ExtentRun[]): Held {
  if (runs.length <= SHORT) return worked(runs);
  let held = known.get(runs);
  if (!held) known.set(runs, (held = worked(runs)));
  return held;
}

/** Which extents of a volume it holds, by their numbers; of those from `low` to `high` alone where only they matter. */
export function heldNumbers(view: EstateView, volume: string, low = 0, high = Infinity): Runs {
  const { numbers } = heldOf(view.table('extent').by('volume', volume));
  return low === 0 && high === Infinity ? numbers : within(numbers, low, high);
}
