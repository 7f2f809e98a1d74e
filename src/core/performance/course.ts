import type { WeekShape } from '../kinds/activity';
import { HOUR } from '../units/duration';
import { partsApart, type Part } from './apart';
import { Behind } from './behind';
import { PATIENCE_S, SLOT, SLOT_S, SLOTS_AN_HOUR } from './choices';
import type { Listener } from './figures';
import { flattened, type Flat } from './flat';
import { Held } from './held';
import { burstAt, busyAt } from './profile';
import type { LoadModel } from './shape';
import { shareOut } from './share-out';
import { Stretches, type Rates } from './stretches';
import { Waits } from './waits';

/** What is carried from slot to slot: operations that wait, and operations saved up, by id. */
export interface CourseState {
  queued: Record<string, number>;
  tokens: Record<string, number>;
}

/** The load of a model as time goes on, slot by slot where something moves and in one go where nothing does. */
export class Course {
  private readonly parts: Part[];
  private readonly flat: Flat;
  private readonly held: Held;
  private readonly now: Rates;
  private readonly waits: Waits;
  private readonly stretches: Stretches;
  private readonly behind: Behind;
  private readonly busy = new Map<WeekShape, number>();
  private busyHour = -1;
  private readonly burstUntil: Float64Array;
  private readonly burstOn: Uint8Array;
  /** Hour for which what a volume asks is known. */
  private readonly askedIn: Float64Array;
  /** Volumes of a part that ask otherwise than in the step before. */
  private readonly turned: number[] = [];

  constructor(
    readonly model: LoadModel,
    public slot: number,
    state: CourseState = { queued: {}, tokens: {} },
  ) {
    const V = model.volumes.length;
    const byVolume = () => new Float64Array(V);
    this.flat = flattened(model);
    this.held = new Held(model, state.tokens);
    this.now = {
      asked: byVolume(),
      allowed: byVolume(),
      served: byVolume(),
      refused: byVolume(),
      queued: Float64Array.from(model.volumes, ({ id }) => state.queued[id] ?? 0),
      boundBy: new Int32Array(V).fill(-1),
      limited: new Uint8Array(V),
    };
    this.burstUntil = byVolume().fill(-1);
    this.burstOn = new Uint8Array(V);
    this.askedIn = byVolume().fill(-1);
    this.parts = partsApart(model);
    this.behind = new Behind(model, this.parts);
    this.waits = new Waits(model, this.flat, this.behind, slot);
    this.stretches = new Stretches(model, this.flat, this.now, this.waits, slot);
  }

  /** What waits and what is saved up, of those that have any. */
  state(): CourseState {
    const queued: Record<string, number> = {};
    this.model.volumes.forEach(({ id }, k) => {
      if (this.now.queued[k]! > 0) queued[id] = this.now.queued[k]!;
    });
    return { queued, tokens: this.held.state() };
  }

  /** Goes on to a slot, and tells all that was so until then. */
  run(until: number, listener: Listener): void {
    for (let from = this.slot; from < until;) {
      const most = Math.min(until, (Math.floor(from / SLOTS_AN_HOUR) + 1) * SLOTS_AN_HOUR);
      for (const part of this.parts) {
        // The first step adds everything up anew: what later ones add to it never drifts for more than an hour.
        let calm = false;
        for (let slot = from; slot < most;) [slot, calm] = this.step(part, calm, slot, most, listener);
        for (const v of part.volumes) this.stretches.flush(v, most, listener);
        for (const r of part.resources) this.waits.flush(r, most, listener);
      }
      from = most;
    }
    this.slot = until;
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

  /**
   * One stretch in which nothing of a part changes, up to `most`: the slot at which it ends, and whether the part was calm, all of it served at
   * once and free of limits. Then the next step looks only at those that ask otherwise.
   */
  private step(part: Part, calm: boolean, slot: number, most: number, listener: Listener): [number, boolean] {
    const behindTurned = this.behind.turn(part, slot);
    const next = this.askAll(part, slot, Math.min(most, this.behind.until(part)));
    if (calm && !behindTurned && this.turn(part)) {
      const moved = this.waits.settle(part.resources, slot, listener);
      if (moved) for (const v of part.volumes) this.stretches.look(v, slot, listener);
      for (const v of this.turned) this.stretches.tell(v, slot, listener);
      return [next, true];
    }
    const { now, held } = this;
    let waiting = false;
    for (const v of part.volumes) {
      if (now.queued[v]! > 0) waiting = true;
      // What waited comes first; what limits and resources then let through.
      now.allowed[v] = now.asked[v]! + now.queued[v]! / SLOT_S;
      now.limited[v] = 0;
    }
    let hot = held.allow(part.volumes, now.allowed, now.limited, slot * SLOT);
    const short = shareOut(
      this.flat,
      this.model,
      part,
      now.allowed,
      this.behind.beside,
      held.claims,
      now.served,
      now.boundBy,
    );
    if (short || waiting || held.any) hot = this.carryOver(part) || hot;
    held.rest(part.volumes, now.served, 1);
    const end = hot ? slot + 1 : next;
    if (end - slot > 1) held.rest(part.volumes, now.served, end - slot - 1);
    this.waits.gather(part.volumes, part.resources, now.served);
    const moved = this.waits.settle(part.resources, slot, listener);
    for (const v of part.volumes)
      if (!this.stretches.asBefore(v)) this.stretches.tell(v, slot, listener);
      else if (moved) this.stretches.look(v, slot, listener);
    return [end, !short && !waiting && !held.any];
  }

  /** What every volume of a part asks from a slot on; the slot at which the first of them asks otherwise. */
  private askAll(part: Part, slot: number, most: number): number {
    const { burstUntil, askedIn, turned } = this;
    const { asked } = this.now;
    const hour = Math.floor(slot / SLOTS_AN_HOUR);
    turned.length = 0;
    let next = most;
    for (const v of part.volumes) {
      if (slot >= burstUntil[v]! || askedIn[v] !== hour) {
        const before = asked[v]!;
        this.ask(v, slot, hour);
        if (asked[v]! !== before) turned.push(v);
      }
      if (burstUntil[v]! < next) next = burstUntil[v]!;
    }
    return next;
  }

  /** In a calm part those that ask otherwise get what they ask, as long as that fits. Whether it does. */
  private turn(part: Part): boolean {
    const { asked, allowed, served } = this.now;
    for (const v of this.turned) {
      this.waits.add(v, asked[v]! - served[v]!);
      allowed[v] = served[v] = asked[v]!;
    }
    return !this.waits.full(part.resources);
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
    this.now.asked[v] = (reads + writes) * this.busyNow(week, slot) * (this.burstOn[v] ? bursts.high : bursts.low);
  }

  /** What is not served waits, as long as applications have patience. Whether anything moves. */
  private carryOver(part: Part): boolean {
    const { now } = this;
    let moves = false;
    for (const v of part.volumes) {
      const [asked, served, before] = [now.asked[v]!, now.served[v]!, now.queued[v]!];
      const left = Math.max(0, asked + before / SLOT_S - served) * SLOT_S;
      const room = this.model.volumes[v]!.outstanding + served * PATIENCE_S;
      const queue = left < 1e-6 * (1 + asked) ? 0 : Math.min(left, room);
      now.refused[v] = left > queue ? (left - queue) / SLOT_S : 0;
      if (Math.abs(queue - before) > 1e-9 * (1 + queue)) moves = true;
      now.queued[v] = queue;
    }
    return moves;
  }
}

/** Where the next hour begins, as a slot. */
export const nextHour = (slot: number): number => (Math.floor((slot * SLOT) / HOUR) + 1) * SLOTS_AN_HOUR;
