/**
 * Optimal string alignment distance: insert, delete, substitute and swap of neighbours each cost 1.
 * Counts in full; names are at most 223 characters.
 */
export function editDistance(a: string, b: string): number {
  let beforeLast: number[] = [];
  let last = Array.from({ length: b.length + 1 }, (_, j) => j);
  for (let i = 1; i <= a.length; i++) {
    const row = [i];
    for (let j = 1; j <= b.length; j++) {
      const cost = a[i - 1] === b[j - 1] ? 0 : 1;
      let best = Math.min(last[j]! + 1, row[j - 1]! + 1, last[j - 1]! + cost);
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1])
        best = Math.min(best, beforeLast[j - 2]! + 1);
      row.push(best);
    }
    beforeLast = last;
    last = row;
  }
  return last[b.length]!;
}

export interface NearMiss {
  known: string;
  distance: number;
  /** 1-based position of the first difference. */
  position: number;
}

/** The known name that lies within two slips of the given one: the nearest, ties by name. Null where it is known or nothing is near. */
export function nearMiss(given: string, known: readonly string[]): NearMiss | null {
  let best: NearMiss | null = null;
  for (const name of [...known].sort()) {
    if (name === given) return null;
    if (Math.abs(name.length - given.length) > 2) continue;
    const distance = editDistance(given, name);
    if (distance <= 2 && (!best || distance < best.distance)) {
      let position = 0;
      while (given[position] === name[position]) position += 1;
      best = { known: name, distance, position: position + 1 };
    }
  }
  return best;
}
