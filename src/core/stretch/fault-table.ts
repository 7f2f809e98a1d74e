import { atRest, decisionOf, pairAfter, type Decision, type SiteResult } from './decide';
import { failed, healthyPair, isUp, parts, siteNames, type Pair, type Part, type SiteName } from './state';

/** Both sites after one or two failures. */
export interface FaultCell {
  /** Null where that part is down already. */
  then: Part | 'nothing';
  /** Null where it cannot happen: the part is down already. */
  states: Record<SiteName, SiteResult> | null;
  /** The site that takes over alone, so that hosts get no answer for a while; null where nothing pauses. */
  takesOver: SiteName | null;
  /** Nobody goes on. */
  stopped: boolean;
  why: Decision['why'] | null;
}

export interface FaultRow {
  /** What stands at the beginning: as it is now, whole, or whole and then without this part. */
  first: 'now' | 'whole' | Part;
  cells: FaultCell[];
}

function cellOf(before: Pair, then: FaultCell['then']): FaultCell {
  if (then !== 'nothing' && !isUp(before, then))
    return { then, states: null, takesOver: null, stopped: false, why: null };
  const after = then === 'nothing' ? before : atRest(failed(before, then)).pair;
  const [was, is] = [decisionOf(before), decisionOf(after)];
  const alone = siteNames.find((site) => is[site] === 'SOLO' && was[site] === 'BOTH');
  return {
    then,
    states: { A: is.A, B: is.B },
    takesOver: alone ?? null,
    stopped: is.serving.length === 0,
    why: is.why,
  };
}

const rowOf = (first: FaultRow['first'], pair: Pair): FaultRow => ({
  first,
  cells: (['nothing', ...parts] as const).map((then) => cellOf(pair, then)),
});

/** Whether a pair stands at both sites with its witness in agreement, so that it decides as a healthy one. */
const isWhole = (pair: Pair): boolean =>
  parts.every((part) => isUp(pair, part)) && siteNames.every((site) => decisionOf(pair)[site] === 'BOTH');

/**
 * Which failure, who goes on: as the pair is now, and after each first failure of a whole one has come to rest. Worked out by the protocol
 * itself (protect.md L).
 */
export function faultTable(now: Pair): FaultRow[] {
  const whole = healthyPair(now.preferred);
  const after = (part: Part): Pair => {
    const found = pairAfter(whole, [{ fail: [part] }]);
    if (!found.ok) throw new Error(found.message);
    return found.value;
  };
  return [
    rowOf('now', now),
    ...(isWhole(now) ? [] : [rowOf('whole', whole)]),
    ...parts.map((part) => withPause(rowOf(part, after(part)), whole, part)),
  ];
}

/** The first failure itself may have paused hosts: the first cell of its row says so. */
function withPause(row: FaultRow, whole: Pair, part: Part): FaultRow {
  const [first, ...rest] = row.cells;
  return { ...row, cells: [{ ...first!, takesOver: cellOf(whole, part).takesOver }, ...rest] };
}

/** Ordered pairs of failures of a whole pair, and how many of them leave nobody. */
export function orderedPairs(preferred: SiteName): { all: number; stopped: number; withoutSite: number } {
  const rows = faultTable(healthyPair(preferred)).filter(({ first }) => first !== 'now' && first !== 'whole');
  const cells = rows.flatMap(({ first, cells: all }) =>
    all.filter(({ then, states }) => then !== 'nothing' && states !== null).map((cell) => ({ first, cell })),
  );
  const stopped = cells.filter(({ cell }) => cell.stopped);
  const isSite = (part: string) => part === 'A' || part === 'B';
  return {
    all: cells.length,
    stopped: stopped.length,
    withoutSite: stopped.filter(({ first, cell }) => !isSite(first) && !isSite(cell.then)).length,
  };
}
