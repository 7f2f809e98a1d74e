import { rankOf } from '../load/percentile';
import type { InParts } from '../units/in-parts';
import { Chance } from './chance';
import { selected } from './select';

/** A volume as the simulation sees it. Rates a second, times in seconds. */
export interface SimulatedVolume {
  id: string;
  /** Poisson where `arrivalScv` is 1, hyper-exponential above; or the times themselves, ascending. */
  arrivals: { perS: number; scv: number } | { atS: Float64Array };
  service: { meanS: number; scv: number };
  weight: number;
  floorPerS?: number;
  limit?: { ratePerS: number; depth: number };
  group?: string;
}

export interface Simulation {
  volumes: readonly SimulatedVolume[];
  groups?: Readonly<Record<string, { ratePerS: number; depth: number }>>;
  servers: number;
  /** How many I/Os are carried in all; a trace may end before. */
  ios: number;
  /** No I/O arrives after so long. */
  seconds?: number;
  seed: number;
  /** Who is served next: whoever came first, or by floors and weights; by weight unless said. */
  order?: 'arrival' | 'weight';
  /** Longest an I/O waits at a limit before it is refused. */
  maxWaitS?: number;
  batches?: number;
}

export interface SimulatedFigures {
  id: string;
  done: number;
  refused: number;
  /** Still waiting when it ended. */
  queued: number;
  meanS: number;
  /** Half the 95 % interval of the mean, from batch means. */
  plusMinusS: number;
  waitS: number;
  p50S: number;
  p95S: number;
  p99S: number;
}

/** I/Os between two looks at whoever wants to stop it. */
const PART = 200_000;
/** Student's t for 95 % and 19 degrees of freedom; more batches only make it smaller. */
const T19 = 2.093;
/** The first part of the run fills the queues and is left out. */
const WARM_UP = 0.05;

/** A queue of times that grows by doubling. */
class Waiting {
  private times = new Float64Array(64);
  private tags = new Float64Array(64);
  private head = 0;
  size = 0;

  push(at: number, tag: number): void {
    if (this.size === this.times.length) this.grow();
    const k = (this.head + this.size++) & (this.times.length - 1);
    this.times[k] = at;
    this.tags[k] = tag;
  }

  get at(): number {
    return this.times[this.head]!;
  }

  get tag(): number {
    return this.tags[this.head]!;
  }

  shift(): void {
    this.head = (this.head + 1) & (this.times.length - 1);
    this.size -= 1;
  }

  private grow(): void {
    const [times, tags] = [new Float64Array(this.times.length * 2), new Float64Array(this.times.length * 2)];
    for (let k = 0; k < this.size; k++) {
      times[k] = this.times[(this.head + k) & (this.times.length - 1)]!;
      tags[k] = this.tags[(this.head + k) & (this.times.length - 1)]!;
    }
    [this.times, this.tags, this.head] = [times, tags, 0];
  }
}

/** One volume under way. */
interface Lane {
  of: SimulatedVolume;
  chance: Chance;
  /** Of the next I/O: when it arrives, and when its limits let it go. */
  arrivesAt: number;
  goesAt: number;
  granted: boolean;
  traced: number;
  tokens: number;
  tokensAt: number;
  waiting: Waiting;
  /** Next reservation and share tags. */
  reserved: number;
  shared: number;
  refused: number;
  done: Float64Array;
  count: number;
  waits: number;
}

/**
 * Every I/O by itself (load.md I): arrivals, the volume's bucket, the bucket of its group, floors and weights before `servers` that serve one at
 * a time, and a service drawn from the volume's kind. The same seed gives the same answer. It can be looked at in parts and left.
 */
export function* simulateInParts({
  volumes,
  groups = {},
  servers,
  ios,
  seed,
  maxWaitS = Infinity,
  batches = 20,
  order = 'weight',
  seconds = Infinity,
}: Simulation): InParts<{ seconds: number; volumes: SimulatedFigures[] }> {
  const lanes = volumes.map((of, k): Lane => {
    const lane: Lane = {
      of,
      chance: new Chance(seed * 1009 + k + 1),
      arrivesAt: 0,
      goesAt: 0,
      granted: false,
      traced: 0,
      tokens: of.limit?.depth ?? 0,
      tokensAt: 0,
      waiting: new Waiting(),
      reserved: 0,
      shared: 0,
      refused: 0,
      done: new Float64Array(1024),
      count: 0,
      waits: 0,
    };
    arrive(lane, maxWaitS, seconds);
    return lane;
  });
  const pots = new Map(Object.entries(groups).map(([name, one]) => [name, { ...one, tokens: one.depth, at: 0 }]));
  const free = new Float64Array(servers);
  let virtual = 0;
  let carried = 0;
  let queued = 0;
  let now = 0;
  while (carried < ios) {
    // The server that is free first, and the I/O that comes first.
    let server = 0;
    for (let k = 1; k < servers; k++) if (free[k]! < free[server]!) server = k;
    let first = lanes[0]!;
    for (let k = 1; k < lanes.length; k++) if (lanes[k]!.goesAt < first.goesAt) first = lanes[k]!;
    if (queued === 0 && first.goesAt === Infinity) break;
    if (queued === 0 || first.goesAt <= Math.max(free[server]!, now)) {
      const pot = first.of.group === undefined ? undefined : pots.get(first.of.group);
      if (pot && !first.granted) {
        const at = first.goesAt;
        pot.tokens = Math.min(pot.depth, pot.tokens + pot.ratePerS * (at - pot.at));
        pot.at = at;
        pot.tokens -= 1;
        const wait = pot.tokens >= 0 ? 0 : -pot.tokens / pot.ratePerS;
        if (at + wait - first.arrivesAt > maxWaitS) {
          pot.tokens += 1;
          first.refused += 1;
          arrive(first, maxWaitS, seconds);
          continue;
        }
        if (wait > 0) {
          first.goesAt = at + wait;
          first.granted = true;
          continue;
        }
      }
      const floor = first.of.floorPerS ?? 0;
      if (floor > 0) first.reserved = Math.max(first.reserved + 1 / floor, first.goesAt);
      first.waiting.push(first.arrivesAt, floor > 0 ? first.reserved : Infinity);
      if (first.waiting.size === 1) first.shared = Math.max(first.shared, virtual);
      queued += 1;
      now = Math.max(now, first.goesAt);
      arrive(first, maxWaitS, seconds);
      continue;
    }
    const start = Math.max(free[server]!, now);
    let chosen: Lane | null = null;
    let byFloor = false;
    for (const lane of lanes) {
      if (lane.waiting.size === 0) continue;
      if (order === 'arrival') {
        if (chosen === null || lane.waiting.at < chosen.waiting.at) chosen = lane;
        continue;
      }
      const due = lane.waiting.tag <= start;
      if (
        chosen === null ||
        (due && (!byFloor || lane.waiting.tag < chosen.waiting.tag)) ||
        (!due && !byFloor && lane.shared < chosen.shared)
      ) {
        chosen = lane;
        byFloor = due;
      }
    }
    const lane = chosen!;
    if (!byFloor) {
      virtual = Math.max(virtual, lane.shared);
      lane.shared += 1 / lane.of.weight;
    }
    const took = lane.chance.time(lane.of.service.meanS, lane.of.service.scv);
    const wait = start - lane.waiting.at;
    if (lane.count === lane.done.length) {
      const more = new Float64Array(lane.done.length * 2);
      more.set(lane.done);
      lane.done = more;
    }
    lane.done[lane.count++] = wait + took;
    lane.waits += wait;
    lane.waiting.shift();
    queued -= 1;
    free[server] = start + took;
    now = start;
    carried += 1;
    if (carried % PART === 0) yield { done: carried, of: ios };
  }
  return { seconds: now, volumes: lanes.map((lane) => figuresOf(lane, batches)) };
}

/** Draws the next I/O of a lane and asks its bucket when it may go. */
function arrive(lane: Lane, maxWaitS: number, until: number): void {
  const { arrivals, limit } = lane.of;
  lane.granted = false;
  for (;;) {
    if ('atS' in arrivals) lane.arrivesAt = arrivals.atS[lane.traced++] ?? Infinity;
    else if (arrivals.perS > 0) lane.arrivesAt += lane.chance.time(1 / arrivals.perS, arrivals.scv);
    else lane.arrivesAt = Infinity;
    if (lane.arrivesAt > until) lane.arrivesAt = Infinity;
    if (!limit || lane.arrivesAt === Infinity) {
      lane.goesAt = lane.arrivesAt;
      return;
    }
    const from = Math.max(lane.arrivesAt, lane.tokensAt);
    const tokens = Math.min(limit.depth, lane.tokens + limit.ratePerS * (from - lane.tokensAt));
    const goes = tokens >= 1 ? from : from + (1 - tokens) / limit.ratePerS;
    if (goes - lane.arrivesAt > maxWaitS) {
      lane.refused += 1;
      continue;
    }
    lane.tokens = (tokens >= 1 ? tokens : 1) - 1;
    lane.tokensAt = goes;
    lane.goesAt = goes;
    return;
  }
}

function figuresOf(lane: Lane, batches: number): SimulatedFigures {
  const done = lane.done.subarray(Math.floor(lane.count * WARM_UP), lane.count);
  const n = done.length;
  const size = Math.floor(n / batches);
  let sum = 0;
  for (let k = 0; k < n; k++) sum += done[k]!;
  const meanS = n === 0 ? 0 : sum / n;
  let spread = 0;
  for (let batch = 0; batch < batches && size > 0; batch++) {
    let part = 0;
    for (let k = batch * size; k < (batch + 1) * size; k++) part += done[k]!;
    spread += (part / size - meanS) ** 2;
  }
  let from = 0;
  const at = (q: number) => {
    if (n === 0) return 0;
    const k = rankOf(q, n) - 1;
    const value = selected(done, k, from);
    from = k;
    return value;
  };
  return {
    id: lane.of.id,
    done: lane.count,
    refused: lane.refused,
    queued: lane.waiting.size,
    meanS,
    plusMinusS: size > 0 ? T19 * Math.sqrt(spread / (batches - 1) / batches) : Infinity,
    waitS: lane.count === 0 ? 0 : lane.waits / lane.count,
    p50S: at(0.5),
    p95S: at(0.95),
    p99S: at(0.99),
  };
}
