import { STEADY, STEADY_LATENCY } from './choices';
import type { Listener, VolumeFigures } from './figures';
import type { Flat } from './flat';
import type { LoadModel } from './shape';
import type { Waits } from './waits';

/** By volume: what is so now. Rates are I/O a second, `queued` operations that wait. */
export interface Rates {
  asked: Float64Array;
  allowed: Float64Array;
  served: Float64Array;
  refused: Float64Array;
  queued: Float64Array;
  boundBy: Int32Array;
  limited: Uint8Array;
}

/**
 * What volumes ask and get, gathered into stretches in which their figures stay about the same; a listener is told of each. Within one, rates may
 * move a little: their sums stay exact.
 */
export class Stretches {
  private readonly begun: Float64Array;
  /** Of each read hit, read miss and write: shares of all, which the model gives. */
  private readonly shares: VolumeFigures['shares'][];
  // What the stretch under way began with.
  private readonly hit: Float64Array;
  private readonly miss: Float64Array;
  private readonly write: Float64Array;
  private readonly asked: Float64Array;
  private readonly served: Float64Array;
  private readonly queued: Float64Array;
  private readonly boundBy: Int32Array;
  private readonly limited: Uint8Array;
  private readonly variances: VolumeFigures['variances'][];
  /** Rates and latency that hold since a slot, not yet in the sums; and the sums, rates times slots. */
  private readonly held: Record<'asked' | 'allowed' | 'served' | 'refused' | 'queued' | 'latency', Float64Array>;
  private readonly since: Float64Array;
  private readonly sums: Record<'asked' | 'allowed' | 'served' | 'refused' | 'latency', Float64Array>;
  private readonly most: Record<'served' | 'queued' | 'latency', Float64Array>;

  constructor(
    private readonly model: LoadModel,
    private readonly flat: Flat,
    private readonly now: Rates,
    private readonly waits: Waits,
    slot: number,
  ) {
    const byVolume = () => new Float64Array(model.volumes.length);
    const flows = () => ({ asked: byVolume(), allowed: byVolume(), served: byVolume(), refused: byVolume() });
    this.begun = byVolume().fill(slot);
    this.since = byVolume().fill(slot);
    [this.hit, this.miss, this.write, this.served, this.queued] = [
      byVolume(),
      byVolume(),
      byVolume(),
      byVolume(),
      byVolume(),
    ];
    this.asked = byVolume().fill(-1);
    this.boundBy = new Int32Array(model.volumes.length).fill(-1);
    this.limited = new Uint8Array(model.volumes.length);
    this.variances = model.volumes.map(() => [0, 0, 0]);
    this.sums = { ...flows(), latency: byVolume() };
    this.held = { ...flows(), queued: byVolume(), latency: byVolume() };
    this.most = { served: byVolume(), queued: byVolume(), latency: byVolume() };
    this.shares = model.volumes.map(({ reads, writes, hit }) => {
      const total = reads + writes || 1;
      return [(reads * hit) / total, (reads * (1 - hit)) / total, writes / total];
    });
  }

  /** Whether a volume asks and gets what it did, and nothing waits. */
  asBefore(v: number): boolean {
    const { now, held } = this;
    return (
      held.asked[v] === now.asked[v] &&
      held.served[v] === now.served[v] &&
      held.refused[v] === now.refused[v] &&
      now.queued[v] === 0 &&
      this.queued[v] === 0
    );
  }

  /** Goes on with the stretch of a volume's figures, or tells it and begins another where they have moved. */
  tell(v: number, slot: number, listener: Listener): void {
    const { now, held } = this;
    this.look(v, slot, listener);
    this.settle(v, slot);
    held.asked[v] = now.asked[v]!;
    held.allowed[v] = now.allowed[v]!;
    held.served[v] = now.served[v]!;
    held.refused[v] = now.refused[v]!;
    held.queued[v] = now.queued[v]!;
  }

  /** Tells the stretch and begins another where latency or anything else has moved; the rates that hold go on. */
  look(v: number, slot: number, listener: Listener): void {
    const { now } = this;
    const volume = this.model.volumes[v]!;
    const { start, resource, readWaits, writeWaits, mediaStart, media, mediaShare } = this.flat;
    const { mean } = this.waits;
    let waitRead = 0;
    let waitWrite = 0;
    let waitMiss = 0;
    const end = start[v + 1]!;
    for (let u = start[v]!; u < end; u++) {
      const wait = mean[resource[u]!]!;
      waitRead += readWaits[u]! * wait;
      waitWrite += writeWaits[u]! * wait;
    }
    for (let m = mediaStart[v]!; m < mediaStart[v + 1]!; m++) waitMiss += mediaShare[m]! * mean[media[m]!]!;
    const behind = this.behind(v);
    const hit = volume.readS + waitRead + behind;
    const miss = hit + volume.missS + waitMiss;
    const write = volume.writeS + waitWrite + behind;
    const [hits, misses, writes] = this.shares[v]!;
    const latency = hits * hit + misses * miss + writes * write;
    if (latency !== this.held.latency[v]) {
      this.settle(v, slot);
      this.held.latency[v] = latency;
    }
    const moved =
      this.boundBy[v] !== now.boundBy[v] ||
      this.limited[v] !== now.limited[v] ||
      far(this.asked[v]!, now.asked[v]!) ||
      far(this.served[v]!, now.served[v]!) ||
      far(this.queued[v]!, now.queued[v]!) ||
      otherBucket(this.hit[v]!, hit) ||
      otherBucket(this.miss[v]!, miss) ||
      otherBucket(this.write[v]!, write);
    if (!moved) return;
    this.flush(v, slot, listener);
    this.hit[v] = hit;
    this.miss[v] = miss;
    this.write[v] = write;
    this.variances[v] = this.variancesOf(v, behind);
    this.asked[v] = now.asked[v]!;
    this.served[v] = now.served[v]!;
    this.queued[v] = now.queued[v]!;
    this.boundBy[v] = now.boundBy[v]!;
    this.limited[v] = now.limited[v]!;
  }

  /** Tells what was so until a slot; another stretch begins there, with the same figures. */
  flush(v: number, until: number, listener: Listener): void {
    this.settle(v, until);
    const { sums, most, begun } = this;
    const slots = until - begun[v]!;
    if (slots > 0) {
      const shares = this.shares[v]!;
      const means = [this.hit[v]!, this.miss[v]!, this.write[v]!] as const;
      const served = sums.served[v]! / slots;
      listener.volume(v, begun[v]!, until, {
        asked: sums.asked[v]! / slots,
        allowed: sums.allowed[v]! / slots,
        served,
        most: most.served[v]!,
        refused: sums.refused[v]! / slots,
        queue: most.queued[v]!,
        shares,
        means,
        variances: this.variances[v]!,
        latency: sums.served[v]! > 0 ? sums.latency[v]! / sums.served[v]! : this.held.latency[v]!,
        mostLatency: most.latency[v]!,
        bytesPerS: served * this.model.volumes[v]!.ioBytes,
        boundBy: this.boundBy[v]!,
        limited: this.limited[v] === 1,
      });
    }
    sums.asked[v] = sums.allowed[v] = sums.served[v] = sums.refused[v] = sums.latency[v] = 0;
    most.served[v] = most.queued[v] = most.latency[v] = 0;
    begun[v] = until;
  }

  /** Adds the rates that hold since a slot to the sums. */
  private settle(v: number, until: number): void {
    const slots = until - this.since[v]!;
    this.since[v] = until;
    if (slots <= 0) return;
    const { held, sums, most } = this;
    sums.asked[v]! += held.asked[v]! * slots;
    sums.allowed[v]! += held.allowed[v]! * slots;
    sums.served[v]! += held.served[v]! * slots;
    sums.refused[v]! += held.refused[v]! * slots;
    if (held.served[v]! > most.served[v]!) most.served[v] = held.served[v]!;
    if (held.served[v]! > 0) {
      sums.latency[v]! += held.served[v]! * held.latency[v]! * slots;
      if (held.latency[v]! > most.latency[v]!) most.latency[v] = held.latency[v]!;
    }
    if (held.queued[v]! > most.queued[v]!) most.queued[v] = held.queued[v]!;
  }

  /** Little's law where more waits than the queues of the array say: what waits at hosts over what is done, seconds. */
  private behind(v: number): number {
    const [served, queue] = [this.now.served[v]!, this.now.queued[v]!];
    return served === 0 || queue === 0 ? 0 : queue / served;
  }

  private variancesOf(v: number, behind: number): VolumeFigures['variances'] {
    const volume = this.model.volumes[v]!;
    const { start, resource, readWaits, writeWaits, mediaStart, media, mediaShare } = this.flat;
    const { variance } = this.waits;
    let [varRead, varWrite, varMiss] = [0, 0, 0];
    for (let u = start[v]!; u < start[v + 1]!; u++) {
      varRead += readWaits[u]! * variance[resource[u]!]!;
      varWrite += writeWaits[u]! * variance[resource[u]!]!;
    }
    for (let m = mediaStart[v]!; m < mediaStart[v + 1]!; m++) varMiss += mediaShare[m]! * variance[media[m]!]!;
    const spread = behind * behind;
    return [
      volume.readS ** 2 + varRead + spread,
      volume.readS ** 2 + volume.missS ** 2 + varRead + varMiss + spread,
      volume.writeS ** 2 + varWrite + spread,
    ];
  }
}

/** Whether a figure has moved by more than what is taken as unmoved. */
const far = (x: number, y: number): boolean => Math.abs(x - y) > STEADY * Math.max(x, 1e-9);

/** Whether a latency has moved so far that it lies otherwise in a histogram. */
const otherBucket = (x: number, y: number): boolean => Math.abs(x - y) > STEADY_LATENCY * Math.max(x, 1e-9);
