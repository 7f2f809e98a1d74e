import { FULL, LEAST_WAIT_S, STEADY } from './choices';
import type { Listener } from './figures';
import type { Behind } from './behind';
import type { Flat } from './flat';
import { SLACK } from './share-out';
import type { LoadModel } from './shape';
import { chanceToWait } from './wait-chance';

/** What is used of each resource, and how long it makes wait. A listener is told how much was used from when to when. */
export class Waits {
  /** Seconds, and their square. */
  readonly mean: Float64Array;
  readonly variance: Float64Array;
  private readonly used: Float64Array;
  /** Visits a second. */
  private readonly count: Float64Array;
  private readonly usedSince: Float64Array;
  private readonly usedThen: Float64Array;
  /** The waits by which volumes were told last. */
  private readonly meanThen: Float64Array;

  constructor(
    private readonly model: LoadModel,
    private readonly flat: Flat,
    private readonly behind: Behind,
    slot: number,
  ) {
    const byResource = () => new Float64Array(model.resources.length);
    [this.mean, this.variance, this.used, this.count] = [byResource(), byResource(), byResource(), byResource()];
    this.meanThen = byResource().fill(-1);
    this.usedThen = byResource().fill(-1);
    this.usedSince = byResource().fill(slot);
  }

  /** Adds up what is done anew. */
  gather(volumes: readonly number[], resources: readonly number[], served: Float64Array): void {
    for (const r of resources) {
      this.used[r] = this.behind.beside[r]!;
      this.count[r] = 0;
    }
    for (const v of volumes) if (served[v]! !== 0) this.add(v, served[v]!);
  }

  /** A volume does so much more, or less, than before. */
  add(v: number, rate: number): void {
    const { start, resource, units, visits } = this.flat;
    const end = start[v + 1]!;
    for (let u = start[v]!; u < end; u++) {
      const r = resource[u]!;
      this.used[r]! += rate * units[u]!;
      this.count[r]! += rate * visits[u]!;
    }
  }

  /** Whether a resource would have to do more than it can. */
  full(resources: readonly number[]): boolean {
    for (const r of resources) if (this.used[r]! > this.model.resources[r]!.capacity * (1 + SLACK)) return true;
    return false;
  }

  /** Works the waits out. Whether any has moved so far that latency may have. */
  settle(resources: readonly number[], slot: number, listener: Listener): boolean {
    let moved = false;
    for (const r of resources) {
      const { capacity, servers } = this.model.resources[r]!;
      const used = this.used[r]!;
      const { beside, after } = this.behind;
      const rho = Math.min(FULL, used / capacity);
      const perVisit = this.count[r]! > 0 ? ((used - beside[r]!) / this.count[r]! / capacity) * servers : 0;
      const chance = chanceToWait(rho, servers);
      const g = perVisit / (servers * (1 - rho));
      const mean = chance * g;
      this.mean[r] = mean;
      this.variance[r] = chance * (2 - chance) * g * g;
      if (Math.abs(mean - this.meanThen[r]!) > (STEADY / 4) * (Math.abs(this.meanThen[r]!) + LEAST_WAIT_S))
        moved = true;
      const all = after[r] === 0 ? used : Math.max(used, Math.min(capacity, used + after[r]!));
      if (this.usedThen[r]! >= 0 && Math.abs(all - this.usedThen[r]!) <= 1e-9 * capacity) continue;
      this.flush(r, slot, listener);
      this.usedThen[r] = all;
    }
    if (moved) for (const r of resources) this.meanThen[r] = this.mean[r]!;
    return moved;
  }

  flush(r: number, until: number, listener: Listener): void {
    if (this.usedSince[r]! < until && this.usedThen[r]! >= 0)
      listener.resource(r, this.usedSince[r]!, until, this.usedThen[r]!);
    this.usedSince[r] = until;
  }
}
