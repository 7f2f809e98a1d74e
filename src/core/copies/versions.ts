/**
 * Epochs count up; the copy `e` closes epoch `e`. A version of some bytes that was born in epoch b and overwritten in epoch d (null while it
 * lives) is seen by the copies b … d − 1; one with b = d by none (protect.md D).
 */
export interface Version {
  born: number;
  died: number | null;
  bytes: number;
}

export interface SnapshotSpace {
  liveBytes: number;
  /** Dead, and seen by at least one copy that is kept. */
  snapshotBytes: number;
  /** By copy: what it alone sees, and what its deletion would give back. They do not add up to the whole: others are shared. */
  uniqueBytes: Map<number, number>;
  usedBytes: number;
}

/** The index of the first of ascending numbers that is at least `value`. */
export function firstFrom(ascending: readonly number[], value: number): number {
  let low = 0;
  let high = ascending.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (ascending[middle]! < value) low = middle + 1;
    else high = middle;
  }
  return low;
}

export const ascendingOnce = (numbers: Iterable<number>): number[] => [...new Set(numbers)].sort((a, b) => a - b);

/** What the kept copies of a volume hold, together and each alone. */
export function snapshotSpace({
  snapshots,
  versions,
}: {
  snapshots: readonly number[];
  versions: readonly Version[];
}): SnapshotSpace {
  const kept = ascendingOnce(snapshots);
  const uniqueBytes = new Map(kept.map((epoch) => [epoch, 0]));
  let liveBytes = 0;
  let snapshotBytes = 0;
  for (const { born, died, bytes } of versions) {
    if (died === null) {
      liveBytes += bytes;
      continue;
    }
    const first = firstFrom(kept, born);
    const seenBy = firstFrom(kept, died) - first;
    if (seenBy > 0) snapshotBytes += bytes;
    if (seenBy === 1) uniqueBytes.set(kept[first]!, uniqueBytes.get(kept[first]!)! + bytes);
  }
  return { liveBytes, snapshotBytes, uniqueBytes, usedBytes: liveBytes + snapshotBytes };
}

export interface Reclaimable {
  epoch: number;
  /** What retention says of it. */
  verdict: 'keep' | 'held' | 'delete';
  protected?: boolean;
}

export interface ReclaimPlan {
  delete: number[];
  freedBytes: number;
  shortfallBytes: number;
}

/**
 * Which copies go to give back so many bytes: those that retention deletes, oldest first, and with leave (`early`) those it keeps, but for the
 * newest `minKeep` of them. What is held or protected is neither touched nor counted.
 */
export function planReclaim({
  needBytes,
  snapshots,
  versions,
  early = false,
  minKeep = 1,
}: {
  needBytes: number;
  snapshots: readonly Reclaimable[];
  versions: readonly Version[];
  early?: boolean;
  minKeep?: number;
}): ReclaimPlan {
  const oldestFirst = [...snapshots].sort((a, b) => a.epoch - b.epoch);
  const free = (verdict: Reclaimable['verdict']) =>
    oldestFirst.filter((one) => one.verdict === verdict && !one.protected).map((one) => one.epoch);
  const keepers = free('keep');
  const order = [...free('delete'), ...(early ? keepers.slice(0, Math.max(0, keepers.length - minKeep)) : [])];
  const left = new Set(snapshots.map((one) => one.epoch));
  const used = () => snapshotSpace({ snapshots: [...left], versions }).usedBytes;
  const before = used();
  const gone: number[] = [];
  let freedBytes = 0;
  for (const epoch of order) {
    if (freedBytes >= needBytes) break;
    left.delete(epoch);
    gone.push(epoch);
    freedBytes = before - used();
  }
  return { delete: gone, freedBytes, shortfallBytes: Math.max(0, needBytes - freedBytes) };
}

export interface RestoreEffect {
  /** What comes back. */
  restoredBytes: number;
  /** What is written since, and goes from the volume. */
  droppedBytes: number;
  freedBytes: number;
  usedAfterBytes: number;
}

/** What going back to a copy brings back and drops; a safety copy keeps what is dropped (protect.md F). */
export function restoreEffect({
  snapshots,
  versions,
  snapshot,
  safety,
}: {
  snapshots: readonly number[];
  versions: readonly Version[];
  snapshot: number;
  safety: boolean;
}): RestoreEffect {
  const newest = Math.max(-Infinity, ...snapshots);
  const found: RestoreEffect = { restoredBytes: 0, droppedBytes: 0, freedBytes: 0, usedAfterBytes: 0 };
  for (const { born, died, bytes } of versions) {
    if (died !== null && born <= snapshot && died > snapshot) found.restoredBytes += bytes;
    if (died !== null || born <= snapshot) continue;
    found.droppedBytes += bytes;
    if (!safety && newest < born) found.freedBytes += bytes;
  }
  found.usedAfterBytes = snapshotSpace({ snapshots, versions }).usedBytes - found.freedBytes;
  return found;
}
