import { HOUR } from '../units/duration';
import { FULL, LEAST_WAIT_S, PATIENCE_S, SLOT, SLOT_S, SLOTS_AN_HOUR, STEADY } from './choices';
import { flattened, type Flat } from './flat';
import { Held } from './held';
import { burstAt, busyAt } from './profile';
import { shareOut } from './share-out';
import type { LoadModel } from './shape';
import type { WeekShape } from '../kinds/activity';
import { chanceToWait } from './wait-chance';

/** What a volume asked and got while nothing changed. Rates are I/O a second, times seconds. */
export interface VolumeFigures {
  /** What applications asked; what limits let through; what was done; what applications gave up. */
  asked: number;
  allowed: number;
  served: number;
  /** The greatest of its slots. */
  most: number;
  refused: number;
  /** Operations that waited at the most. */
  queue: number;
  /** Shares of what is done: answered from the cache, from media, written. Mean seconds and variance of each. */
  shares: [number, number, number];
  means: [number, number, number];
  variances: [number, number, number];
  /** Mean over the three. */
  latency: number;
  bytesPerS: number;
  /** The resource that keeps it from more, or -1. */
  boundBy: number;
  /** A limit holds it back. */
  limited: boolean;
}

/** Told what was so from one slot to another; slots are five seconds since 1970. */
export interface Listener {
  volume(index: number, from: number, to: number, figures: VolumeFigures): void;
  resource(index: number, from: number, to: number, used: number): void;
}

/** What is carried from slot to slot: operations that wait, and operations saved up, by id. */
export interface CourseState {
  queued: Record<string, number>;
  tokens: Record<string, number>;
}

interface Part {
  volumes: number[];
  resources: number[];
}

/** The load of a model as time goes on, slot by slot where something moves and in one go where nothing does. */
export class Course {
  private readonly parts: Part[];
  private readonly flat: Flat;
  private readonly held: Held;
  private readonly busy = new Map<WeekShape, number>();
  private busyHour = -1;
  // By volume: what is so now, and since when.
  private readonly queued: Float64Array;
  private readonly asked: Float64Array;
  private readonly allowed: Float64Array;
  private readonly served: Float64Array;
  private readonly refused: Float64Array;
  private readonly hit: Float64Array;
  private readonly miss: Float64Array;
  private readonly write: Float64Array;
  private readonly boundBy: Int32Array;
  private readonly limited: Uint8Array;
  private readonly burstUntil: Float64Array;
  private readonly burstOn: Uint8Array;
  /** Hour for which what it asks is known. */
  private readonly askedIn: Float64Array;
  /** What the stretch under way began with, since when, and its sums: rates may move a little within one. */
  private readonly told: VolumeFigures[];
  /** What of it decides whether another begins, by volume. */
  private readonly waited: Float64Array;
  private readonly toldAsked: Float64Array;
  private readonly toldServed: Float64Array;
  private readonly toldBy: Int32Array;
  private readonly toldLimited: Uint8Array;
  private readonly begun: Float64Array;
  private readonly sums: Record<'asked' | 'allowed' | 'served' | 'refused', Float64Array>;
  private readonly most: Record<'served' | 'queued', Float64Array>;
  /** Rates that hold since a slot, not yet in the sums, and what waited. */
  private readonly rates: Record<'asked' | 'allowed' | 'served' | 'refused' | 'queued', Float64Array>;
  private readonly ratesSince: Float64Array;
  // By resource.
  private readonly used: Float64Array;
  private readonly usedSince: Float64Array;
  private readonly usedThen: Float64Array;
  private readonly count: Float64Array;
  private readonly background: Float64Array;
  private readonly wait: Float64Array;
  private readonly waitVariance: Float64Array;
  /** The waits by which volumes were told last. */
  private readonly waitThen: Float64Array;

  constructor(
    readonly model: LoadModel,
    public slot: number,
    state: CourseState = { queued: {}, tokens: {} },
  ) {
    const [V, R] = [model.volumes.length, model.resources.length];
    const byVolume = () => new Float64Array(V);
    const byResource = () => new Float64Array(R);
    this.flat = flattened(model);
    this.queued = Float64Array.from(model.volumes, ({ id }) => state.queued[id] ?? 0);
    this.held = new Held(model, state.tokens);
    [this.asked, this.allowed, this.served, this.refused] = [byVolume(), byVolume(), byVolume(), byVolume()];
    [this.hit, this.miss, this.write] = [byVolume(), byVolume(), byVolume()];
    this.boundBy = new Int32Array(V).fill(-1);
    this.limited = new Uint8Array(V);
    this.burstUntil = new Float64Array(V).fill(-1);
    this.burstOn = new Uint8Array(V);
    this.askedIn = new Float64Array(V).fill(-1);
    this.told = Array.from({ length: V }, () => blank());
    [this.waited, this.toldServed] = [byVolume(), byVolume()];
    this.toldAsked = byVolume().fill(-1);
    this.toldBy = new Int32Array(V).fill(-1);
    this.toldLimited = new Uint8Array(V);
    this.begun = new Float64Array(V).fill(slot);
    const flows = () => ({ asked: byVolume(), allowed: byVolume(), served: byVolume(), refused: byVolume() });
    this.sums = flows();
    this.most = { served: byVolume(), queued: byVolume() };
    this.rates = { ...flows(), queued: byVolume() };
    this.ratesSince = byVolume().fill(slot);
    [this.used, this.count, this.background] = [byResource(), byResource(), byResource()];
    [this.wait, this.waitVariance] = [byResource(), byResource()];
    this.waitThen = byResource().fill(-1);
    this.usedSince = byResource().fill(slot);
    this.usedThen = byResource().fill(-1);
    for (const { resource, perS } of model.background) this.background[resource]! += perS;
    this.parts = partsOf(model);
  }

  /** What waits and what is saved up, of those that have any. */
  state(): CourseState {
    const queued: Record<string, number> = {};
    this.model.volumes.forEach(({ id }, k) => {
      if (this.queued[k]! > 0) queued[id] = this.queued[k]!;
    });
    return { queued, tokens: this.held.state() };
  }

  /** Goes on to a slot, and tells all that was so until then. */
  run(until: number, listener: Listener): void {
    for (let from = this.slot; from < until;) {
      const most = Math.min(until, (Math.floor(from / SLOTS_AN_HOUR) + 1) * SLOTS_AN_HOUR);
      for (const part of this.parts) {
        for (let slot = from; slot < most;) slot = this.step(part, slot, most, listener);
        for (const v of part.volumes) this.flush(v, most, listener);
        for (const r of part.resources) this.flushResource(r, most, listener);
      }
      from = most;
    }
    this.slot = until;
  }

  private flush(v: number, until: number, listener: Listener): void {
    this.settle(v, until);
    const slots = until - this.begun[v]!;
    if (slots > 0) {
      const told = this.told[v]!;
      const { asked, allowed, served, refused } = this.sums;
      const perS = served[v]! / slots;
      const bytesPerS = perS * this.model.volumes[v]!.ioBytes;
      listener.volume(v, this.begun[v]!, until, {
        ...told,
        asked: asked[v]! / slots,
        allowed: allowed[v]! / slots,
        served: perS,
        refused: refused[v]! / slots,
        most: this.most.served[v]!,
        queue: this.most.queued[v]!,
        bytesPerS,
      });
    }
    const { sums, most } = this;
    sums.asked[v] = sums.allowed[v] = sums.served[v] = sums.refused[v] = 0;
    most.served[v] = most.queued[v] = 0;
    this.begun[v] = until;
  }

  /** Adds the rates that hold since a slot to the sums. */
  private settle(v: number, until: number): void {
    const slots = until - this.ratesSince[v]!;
    this.ratesSince[v] = until;
    if (slots <= 0) return;
    const { rates, sums, most } = this;
    sums.asked[v]! += rates.asked[v]! * slots;
    sums.allowed[v]! += rates.allowed[v]! * slots;
    sums.served[v]! += rates.served[v]! * slots;
    sums.refused[v]! += rates.refused[v]! * slots;
    if (rates.served[v]! > most.served[v]!) most.served[v] = rates.served[v]!;
    if (rates.queued[v]! > most.queued[v]!) most.queued[v] = rates.queued[v]!;
  }

  private flushResource(r: number, until: number, listener: Listener): void {
    if (this.usedSince[r]! < until && this.usedThen[r]! >= 0)
      listener.resource(r, this.usedSince[r]!, until, this.usedThen[r]!);
    this.usedSince[r] = until;
  }

  private busyNow(week: WeekShape, slot: number): number {
    const hour = Math.floor(slot / SLOTS_AN_HOUR);
    if (hour !== this.busyHour) {
      this.busyHour = hour;
      this.busy.clear();
    }
    let known = this.busy.get(week);
    if (known === undefined) this.busy.set(week, (known = busyAt(week, slot * SLOT)));
    return known;
  }

  /** One stretch in which nothing of a part changes, up to `most`; the slot at which it ends. */
  private step(part: Part, slot: number, most: number, listener: Listener): number {
    const { burstUntil, askedIn, asked, queued, allowed, limited } = this;
    const hour = Math.floor(slot / SLOTS_AN_HOUR);
    let next = most;
    let waiting = false;
    for (const v of part.volumes) {
      if (slot >= burstUntil[v]! || askedIn[v] !== hour) this.ask(v, slot, hour);
      if (burstUntil[v]! < next) next = burstUntil[v]!;
      if (queued[v]! > 0) waiting = true;
      // What waited comes first; what limits and resources then let through.
      allowed[v] = asked[v]! + queued[v]! / SLOT_S;
      limited[v] = 0;
    }
    let hot = this.held.allow(part.volumes, this.allowed, this.limited, slot * SLOT);
    const short = shareOut(
      this.flat,
      this.model,
      part,
      this.allowed,
      this.background,
      this.held.claims,
      this.served,
      this.boundBy,
    );
    if (short || waiting || this.held.any) hot = this.carryOver(part) || hot;
    this.held.rest(part.volumes, this.served, 1);
    const end = hot ? slot + 1 : next;
    if (end - slot > 1) this.held.rest(part.volumes, this.served, end - slot - 1);
    const moved = this.load(part, slot, listener);
    const { rates, served, refused, waited } = this;
    for (const v of part.volumes) {
      // Most volumes go on as they were.
      const same =
        rates.asked[v] === asked[v] &&
        rates.served[v] === served[v] &&
        rates.refused[v] === refused[v] &&
        queued[v] === 0 &&
        waited[v] === 0;
      if (moved || !same) this.tell(v, slot, listener);
    }
    return end;
  }

  /** What applications ask of a volume from a slot on, until its burst or the hour changes. */
  private ask(v: number, slot: number, hour: number): void {
    const { bursts, seed, reads, writes, week } = this.model.volumes[v]!;
    if (slot >= this.burstUntil[v]!) {
      const { on, until } = burstAt(bursts, seed, slot);
      this.burstUntil[v] = until;
      this.burstOn[v] = on ? 1 : 0;
    }
    this.askedIn[v] = hour;
    this.asked[v] = (reads + writes) * this.busyNow(week, slot) * (this.burstOn[v] ? bursts.high : bursts.low);
  }

  /** What is not served waits, as long as applications have patience. Whether anything moves. */
  private carryOver(part: Part): boolean {
    let moves = false;
    for (const v of part.volumes) {
      const [asked, served, before] = [this.asked[v]!, this.served[v]!, this.queued[v]!];
      const left = Math.max(0, asked + before / SLOT_S - served) * SLOT_S;
      const room = this.model.volumes[v]!.outstanding + served * PATIENCE_S;
      const queue = left < 1e-6 * (1 + asked) ? 0 : Math.min(left, room);
      this.refused[v] = left > queue ? (left - queue) / SLOT_S : 0;
      if (Math.abs(queue - before) > 1e-9 * (1 + queue)) moves = true;
      this.queued[v] = queue;
    }
    return moves;
  }

  /** What is used of each resource, and how long it makes wait. Whether any wait has moved so far that latency may have. */
  private load(part: Part, slot: number, listener: Listener): boolean {
    let moved = false;
    const { start, resource, units, visits } = this.flat;
    const { resources } = this.model;
    for (const r of part.resources) {
      this.used[r] = this.background[r]!;
      this.count[r] = 0;
    }
    for (const v of part.volumes) {
      const rate = this.served[v]!;
      if (rate === 0) continue;
      for (let u = start[v]!; u < start[v + 1]!; u++) {
        this.used[resource[u]!]! += rate * units[u]!;
        this.count[resource[u]!]! += rate * visits[u]!;
      }
    }
    for (const r of part.resources) {
      const { capacity, servers } = resources[r]!;
      const used = this.used[r]!;
      const rho = Math.min(FULL, used / capacity);
      const perVisit = this.count[r]! > 0 ? ((used - this.background[r]!) / this.count[r]! / capacity) * servers : 0;
      const chance = chanceToWait(rho, servers);
      const g = perVisit / (servers * (1 - rho));
      this.wait[r] = chance * g;
      this.waitVariance[r] = chance * (2 - chance) * g * g;
      if (Math.abs(this.wait[r] - this.waitThen[r]!) > (STEADY / 4) * (Math.abs(this.waitThen[r]!) + LEAST_WAIT_S))
        moved = true;
      if (this.usedThen[r]! < 0 || Math.abs(used - this.usedThen[r]!) > 1e-9 * capacity) {
        this.flushResource(r, slot, listener);
        this.usedThen[r] = used;
      }
    }
    if (moved) for (const r of part.resources) this.waitThen[r] = this.wait[r]!;
    return moved;
  }

  /** Goes on with the stretch of a volume's figures, or tells it and begins another where they have moved. */
  private tell(v: number, slot: number, listener: Listener): void {
    const { rates } = this;
    const volume = this.model.volumes[v]!;
    const { start, resource, readWaits, writeWaits, mediaStart, media, mediaShare } = this.flat;
    let [waitRead, waitWrite, waitMiss] = [0, 0, 0];
    for (let u = start[v]!; u < start[v + 1]!; u++) {
      const wait = this.wait[resource[u]!]!;
      waitRead += readWaits[u]! * wait;
      waitWrite += writeWaits[u]! * wait;
    }
    for (let m = mediaStart[v]!; m < mediaStart[v + 1]!; m++) waitMiss += mediaShare[m]! * this.wait[media[m]!]!;
    // Little's law where more waits than the queues of the array say: what is outstanding and what waits at hosts, over what is done.
    const behind = this.behind(v);
    const hit = volume.readS + waitRead + behind;
    const miss = hit + volume.missS + waitMiss;
    const write = volume.writeS + waitWrite + behind;
    const moved =
      this.toldBy[v] !== this.boundBy[v] ||
      this.toldLimited[v] !== this.limited[v] ||
      far(this.toldAsked[v]!, this.asked[v]!) ||
      far(this.toldServed[v]!, this.served[v]!) ||
      far(this.waited[v]!, this.queued[v]!) ||
      far(this.hit[v]!, hit) ||
      far(this.miss[v]!, miss) ||
      far(this.write[v]!, write);
    if (moved) {
      this.flush(v, slot, listener);
      this.hit[v] = hit;
      this.miss[v] = miss;
      this.write[v] = write;
      this.told[v] = this.figuresOf(v, behind);
      this.waited[v] = this.queued[v]!;
      this.toldAsked[v] = this.asked[v]!;
      this.toldServed[v] = this.served[v]!;
      this.toldBy[v] = this.boundBy[v]!;
      this.toldLimited[v] = this.limited[v]!;
    }
    this.settle(v, slot);
    rates.asked[v] = this.asked[v]!;
    rates.allowed[v] = this.allowed[v]!;
    rates.served[v] = this.served[v]!;
    rates.refused[v] = this.refused[v]!;
    rates.queued[v] = this.queued[v]!;
  }

  private behind(v: number): number {
    const [served, queue] = [this.served[v]!, this.queued[v]!];
    if (served === 0 || queue === 0) return 0;
    return queue / served;
  }

  private figuresOf(v: number, behind: number): VolumeFigures {
    const volume = this.model.volumes[v]!;
    const { start, resource, readWaits, writeWaits, mediaStart, media, mediaShare } = this.flat;
    let [varRead, varWrite, varMiss] = [0, 0, 0];
    for (let u = start[v]!; u < start[v + 1]!; u++) {
      const variance = this.waitVariance[resource[u]!]!;
      varRead += readWaits[u]! * variance;
      varWrite += writeWaits[u]! * variance;
    }
    for (let m = mediaStart[v]!; m < mediaStart[v + 1]!; m++) varMiss += mediaShare[m]! * this.waitVariance[media[m]!]!;
    const total = volume.reads + volume.writes || 1;
    const shares: VolumeFigures['shares'] = [
      (volume.reads * volume.hit) / total,
      (volume.reads * (1 - volume.hit)) / total,
      volume.writes / total,
    ];
    const means: VolumeFigures['means'] = [this.hit[v]!, this.miss[v]!, this.write[v]!];
    const spread = behind * behind;
    return {
      asked: this.asked[v]!,
      allowed: this.allowed[v]!,
      served: this.served[v]!,
      most: this.served[v]!,
      refused: this.refused[v]!,
      queue: this.queued[v]!,
      boundBy: this.boundBy[v]!,
      limited: this.limited[v] === 1,
      shares,
      means,
      variances: [
        volume.readS ** 2 + varRead + spread,
        volume.readS ** 2 + volume.missS ** 2 + varRead + varMiss + spread,
        volume.writeS ** 2 + varWrite + spread,
      ],
      latency: shares[0] * means[0] + shares[1] * means[1] + shares[2] * means[2],
      bytesPerS: this.served[v]! * volume.ioBytes,
    };
  }
}

/** Whether a figure has moved by more than what is taken as unmoved. */
const far = (x: number, y: number): boolean => Math.abs(x - y) > STEADY * Math.max(x, 1e-9);

const blank = (): VolumeFigures => ({
  asked: -1,
  allowed: 0,
  served: 0,
  most: 0,
  refused: 0,
  queue: 0,
  shares: [0, 0, 0],
  means: [0, 0, 0],
  variances: [0, 0, 0],
  latency: 0,
  bytesPerS: 0,
  boundBy: -1,
  limited: false,
});

/** Volumes that share no resource and no limit, however far around, do not touch each other. */
function partsOf(model: LoadModel): Part[] {
  const parent = new Map<string, string>();
  const top = (id: string): string => {
    let at = id;
    while (parent.get(at) !== at) at = parent.get(at)!;
    return at;
  };
  const join = (a: string, b: string) => {
    for (const id of [a, b]) if (!parent.has(id)) parent.set(id, id);
    const [x, y] = [top(a), top(b)];
    if (x !== y) parent.set(x < y ? y : x, x < y ? x : y);
  };
  model.volumes.forEach((volume, v) => {
    join(`v${v}`, `v${v}`);
    for (const { resource } of volume.uses) join(`v${v}`, `r${resource}`);
  });
  for (const limit of model.limits) for (const { volume } of limit.members) join(`l${limit.id}`, `v${volume}`);
  model.resources.forEach((_, r) => join(`r${r}`, `r${r}`));
  const parts = new Map<string, Part>();
  const partOf = (id: string): Part => {
    const key = top(id);
    let part = parts.get(key);
    if (!part) parts.set(key, (part = { volumes: [], resources: [] }));
    return part;
  };
  model.volumes.forEach((_, v) => partOf(`v${v}`).volumes.push(v));
  model.resources.forEach((_, r) => partOf(`r${r}`).resources.push(r));
  return [...parts.values()];
}

/** Where the next hour begins, as a slot. */
export const nextHour = (slot: number): number => (Math.floor((slot * SLOT) / HOUR) + 1) * SLOTS_AN_HOUR;
