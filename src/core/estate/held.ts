import type { ByteRun, ExtentRun } from './entities';
import { bytesIn, joined } from './runs';

/** What a volume, a reduced store or the copies of a volume hold of extents. Never changed in place. */
export interface Held {
  /** Runs of extent numbers, ascending. */
  readonly numbers: readonly ByteRun[];
  /** How many they are. */
  readonly different: number;
  /** Extents in all; more than that where one is held twice. */
  readonly count: number;
  /** Extents by the RAID group that they lie in. */
  readonly groups: ReadonlyMap<string, number>;
}

/** What runs of extents come to. */
export function heldBy(runs: readonly ExtentRun[]): Held {
  const groups = new Map<string, number>();
  const all: [number, number][] = [];
  let count = 0;
  for (const { at, count: length, raidGroup } of runs) {
    count += length;
    groups.set(raidGroup, (groups.get(raidGroup) ?? 0) + length);
    const last = all.at(-1);
    if (last && at >= last[0] && at <= last[1]) last[1] = Math.max(last[1], at + length);
    else all.push([at, at + length]);
  }
  const numbers = joined(all);
  return { numbers, different: bytesIn(numbers), count, groups };
}

/** First run that ends at a number or behind it. */
function firstEndingAt(numbers: readonly ByteRun[], at: number): number {
  let [low, high] = [0, numbers.length];
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (numbers[middle]![1] < at) low = middle + 1;
    else high = middle;
  }
  return low;
}

const inGroups = (groups: ReadonlyMap<string, number>, { raidGroup }: ExtentRun, more: number): Map<string, number> => {
  const all = new Map(groups);
  const left = (all.get(raidGroup) ?? 0) + more;
  if (left === 0) all.delete(raidGroup);
  else all.set(raidGroup, left);
  return all;
};

/** The same with one run more; null where that would be held twice, or something is already. */
export function heldWith({ numbers, different, count, groups }: Held, run: ExtentRun): Held | null {
  const [from, to] = [run.at, run.at + run.count];
  const k = firstEndingAt(numbers, from);
  const follows = numbers[k]?.[1] === from;
  const next = follows ? k + 1 : k;
  if (count !== different || (numbers[next]?.[0] ?? Infinity) < to) return null;
  const leads = numbers[next]?.[0] === to;
  const whole: ByteRun = [follows ? numbers[k]![0] : from, leads ? numbers[next]![1] : to];
  return {
    numbers: [...numbers.slice(0, k), whole, ...numbers.slice(leads ? next + 1 : next)],
    different: different + run.count,
    count: count + run.count,
    groups: inGroups(groups, run, run.count),
  };
}

/** The same with one run less; null where that is not held once. */
export function heldWithout({ numbers, different, count, groups }: Held, run: ExtentRun): Held | null {
  const [from, to] = [run.at, run.at + run.count];
  const k = firstEndingAt(numbers, from + 1);
  const around = numbers[k];
  if (count !== different || !around || around[0] > from || around[1] < to) return null;
  const rest: ByteRun[] = [];
  if (around[0] < from) rest.push([around[0], from]);
  if (to < around[1]) rest.push([to, around[1]]);
  return {
    numbers: [...numbers.slice(0, k), ...rest, ...numbers.slice(k + 1)],
    different: different - run.count,
    count: count - run.count,
    groups: inGroups(groups, run, -run.count),
  };
}
