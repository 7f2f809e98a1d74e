import type { ExtentRun, Volume } from './entities';
import { heldBy, heldWith, heldWithout, type Held } from './held';

/** Runs of extents `[start, end)` that nobody holds, ascending; the last one has no end. */
type FreeRuns = { start: number; end: number }[];

/** Under which holder the extents are counted that copies of a volume keep apart. */
export const copiesHolder = (volume: string): string => `copies of ${volume}`;

const holderOf = ({ volume, store, copies }: ExtentRun): string => volume ?? store ?? copiesHolder(copies!);

/** Of so many runs at most it is worked out as fast as it is looked up what they come to. */
const FEW_RUNS = 16;

/** Extents were given out that somebody holds already. */
export class ExtentTaken extends Error {
  override readonly name = 'ExtentTaken';

  /** Told by name: a process may hold more than one copy of this class. */
  static is(error: unknown): error is ExtentTaken {
    return error instanceof Error && error.name === 'ExtentTaken';
  }

  constructor(readonly run: ExtentRun) {
    super(`Extents ${run.start} to ${run.start + run.count - 1} of ${run.raidGroup} are taken twice.`);
  }
}

/**
 * What pools have given out and promised: which extents of each RAID group are taken, kept up to date with every extent row that comes and goes.
 * A fork shares everything with its parent until it changes a group, so that a preview costs as much as it touches.
 */
export class Occupancy {
  private readonly free = new Map<string, FreeRuns>();
  private readonly usedByGroup = new Map<string, number>();
  /** By volume, by the pool whose reduced store it is, or by the volume whose copies it keeps. */
  private readonly usedByHolder = new Map<string, number>();
  private readonly promisedByPool = new Map<string, number>();
  /** What holders have that were asked for, kept up to date from then on. */
  private readonly heldByHolder = new Map<string, Held>();
  /** Holders that changed here, of which nothing is known any more. */
  private readonly unknown = new Set<string>();

  constructor(private readonly parent: Occupancy | null = null) {}

  fork(): Occupancy {
    return new Occupancy(this);
  }

  /** Extents of the group that are held. */
  used(raidGroup: string): number {
    return this.usedByGroup.get(raidGroup) ?? this.parent?.used(raidGroup) ?? 0;
  }

  /** Behind the last extent of the group that is held; 0 where none is. */
  end(raidGroup: string): number {
    return this.runs(raidGroup).at(-1)!.start;
  }

  /** Extents a volume holds (or the reduced store of a pool, by the pool's id; or copies, by {@link copiesHolder}), over all groups. */
  allocated(holder: string): number {
    return this.usedByHolder.get(holder) ?? this.parent?.allocated(holder) ?? 0;
  }

  /** What a holder has; `runs` are its extents. Where they are many they are looked at once. */
  held(holder: string, runs: () => readonly ExtentRun[]): Held {
    const known = this.heldByHolder.get(holder);
    if (known) return known;
    // What did not change here is known below, for everybody.
    if (this.parent && !this.unknown.has(holder)) return this.parent.held(holder, runs);
    const list = runs();
    const held = heldBy(list);
    if (list.length > FEW_RUNS) {
      this.heldByHolder.set(holder, held);
      this.unknown.delete(holder);
    }
    return held;
  }

  private knownOf(holder: string): Held | undefined {
    if (this.unknown.has(holder)) return undefined;
    return this.heldByHolder.get(holder) ?? this.parent?.knownOf(holder);
  }

  private becomes(holder: string, how: (held: Held, run: ExtentRun) => Held | null, run: ExtentRun): void {
    const known = this.knownOf(holder);
    const after = known ? how(known, run) : null;
    if (after) this.heldByHolder.set(holder, after);
    else {
      this.heldByHolder.delete(holder);
      if (this.parent) this.unknown.add(holder);
    }
  }

  /** Sizes of the pool's volumes together, in bytes. */
  promised(pool: string): number {
    return this.promisedByPool.get(pool) ?? this.parent?.promised(pool) ?? 0;
  }

  /** A volume that comes (1) or goes (-1). What is retired and only kept is promised to nobody. */
  promise(volume: Volume, sign: 1 | -1): void {
    if (volume.deletedAt !== null) return;
    this.promisedByPool.set(volume.pool, this.promised(volume.pool) + sign * volume.size);
  }

  /** The first `wanted` free extents of a group of `capacity` extents, as runs; fewer where it is full. */
  firstFree(raidGroup: string, wanted: number, capacity: number): { start: number; count: number }[] {
    const found: { start: number; count: number }[] = [];
    let missing = wanted;
    for (const run of this.runs(raidGroup)) {
      if (missing <= 0 || run.start >= capacity) break;
      const count = Math.min(missing, Math.min(run.end, capacity) - run.start);
      found.push({ start: run.start, count });
      missing -= count;
    }
    return found;
  }

  /** @throws ExtentTaken where an extent is held already: a defect, since plans only use free extents. */
  add(run: ExtentRun): void {
    const runs = this.ownRuns(run.raidGroup);
    const end = run.start + run.count;
    const index = lastStartingAtOrBefore(runs, run.start);
    const hole = runs[index];
    if (!hole || hole.end < end) throw new ExtentTaken(run);
    const rest: FreeRuns = [];
    if (hole.start < run.start) rest.push({ start: hole.start, end: run.start });
    if (end < hole.end) rest.push({ start: end, end: hole.end });
    runs.splice(index, 1, ...rest);
    this.usedByGroup.set(run.raidGroup, this.used(run.raidGroup) + run.count);
    const holder = holderOf(run);
    this.usedByHolder.set(holder, this.allocated(holder) + run.count);
    this.becomes(holder, heldWith, run);
  }

  remove(run: ExtentRun): void {
    const runs = this.ownRuns(run.raidGroup);
    const back = { start: run.start, end: run.start + run.count };
    const before = lastStartingAtOrBefore(runs, run.start);
    let at = before + 1;
    let replaced = 0;
    const left = runs[before];
    if (left && left.end === back.start) {
      back.start = left.start;
      at = before;
      replaced = 1;
    }
    const right = runs[at + replaced];
    if (right && right.start === back.end) {
      back.end = right.end;
      replaced += 1;
    }
    runs.splice(at, replaced, back);
    this.usedByGroup.set(run.raidGroup, this.used(run.raidGroup) - run.count);
    const holder = holderOf(run);
    this.usedByHolder.set(holder, this.allocated(holder) - run.count);
    this.becomes(holder, heldWithout, run);
  }

  private runs(raidGroup: string): FreeRuns {
    return this.free.get(raidGroup) ?? this.parent?.runs(raidGroup) ?? [{ start: 0, end: Infinity }];
  }

  private ownRuns(raidGroup: string): FreeRuns {
    let own = this.free.get(raidGroup);
    if (!own) this.free.set(raidGroup, (own = this.runs(raidGroup).map((run) => ({ ...run }))));
    return own;
  }
}

function lastStartingAtOrBefore(runs: FreeRuns, start: number): number {
  let low = 0;
  let high = runs.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (runs[middle]!.start <= start) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}
