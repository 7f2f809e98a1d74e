import { planChange, type PlanBasis } from '@/core/change/plan';
import type { OperationDocument } from '@/core/change/registry';
import { planUndo, type CommittedStep } from '@/core/change/undo';
import { changed, compacted, type Effect } from '@/core/estate/effects';
import type { Estate, Overlay } from '@/core/estate/estate';
import { newIds } from '@/core/estate/new-ids';
import { randomFrom } from '@/core/estate/random';
import { faults } from '@/core/lab/broken';
import { faultKinds, faultTable } from '@/core/lab/fault-kinds';
import { clearFault, setFault } from '@/core/lab/faults';
import { nextJobEnd, workJob } from '@/core/work/scheduler';
import { movedBy, nextMove } from '@/core/moving/pass';
import { nextNight, nightly } from '@/core/lab/nightly';
import { writeTraffic } from '@/core/lab/traffic';
import { nextPlanRun, planPass } from '@/core/protect/pass';
import { deleteFiles } from '@/core/attach/file-places';
import { tried } from '@/core/rules/book';
import { DAY, HOUR } from '@/core/units/duration';
import { execute } from '@/devices/stand-ins';
import { chance, pick, randomOperation } from './random-operation';
import { nextCycle, replicated } from '@/core/replicate/pass';

/** Something that must not happen, with what led to it. */
export interface Wrongdoing {
  at: number;
  what: string;
  found: string[];
}

export interface Tally {
  operations: number;
  refused: number;
  carriedOut: number;
  undone: number;
  undoRefused: number;
  faults: number;
  times: number;
}

/** Cycles of replications that are followed in one stretch of time. */
const MOST_CYCLES = 20;
/** Turns of moves that are followed in one. */
const MOST_TURNS = 40;

/**
 * A seeded life of an estate: operations of the whole registry, steps taken back later, hosts that write, jobs that end, things that break. The
 * rule book is asked of everything that happens.
 */
export class Story {
  readonly tally: Tally = {
    operations: 0,
    refused: 0,
    carriedOut: 0,
    undone: 0,
    undoRefused: 0,
    faults: 0,
    times: 0,
  };
  readonly wrongs: Wrongdoing[] = [];
  /** Kinds of operations that were carried out at least once. */
  readonly done = new Set<string>();
  now: number;
  private readonly random: () => number;
  private readonly changes: CommittedStep[][] = [];
  private turn = 0;

  constructor(
    readonly estate: Estate | Overlay,
    private readonly seed: string,
    now: number,
  ) {
    this.random = randomFrom(seed);
    this.now = now;
  }

  private basis(): PlanBasis {
    return {
      seed: `${this.seed} ${this.turn}`,
      now: this.now,
      month: new Date(this.now).toISOString().slice(0, 7),
    };
  }

  /** One more thing happens. */
  step(): void {
    this.turn += 1;
    const lot = this.random();
    if (lot < 0.66) this.operate(randomOperation(this.estate, this.basis(), this.random));
    else if (lot < 0.82) this.takeBack();
    else if (lot < 0.94) this.pass();
    else this.breakSomething();
  }

  operate(operation: OperationDocument): void {
    this.tally.operations += 1;
    const { steps, refusals } = planChange(this.estate, [operation], this.basis());
    const held = refusals.filter((refusal) => refusal.code.startsWith('breaks-'));
    if (held.length > 0)
      this.wrong(
        `${JSON.stringify(operation)} was held only by the rule book`,
        held.map((one) => `${one.code}: ${one.message}`),
      );
    if (refusals.length > 0) {
      this.tally.refused += 1;
      return;
    }
    const committed: CommittedStep[] = [];
    for (const step of steps) {
      if (!execute(this.estate, step).ok) break;
      this.put(step.effects, JSON.stringify(operation));
      committed.push(step);
    }
    if (committed.length > 0) {
      this.changes.push(committed);
      this.done.add(operation.do);
      this.tally.carriedOut += 1;
    }
  }

  private takeBack(): void {
    // Mostly the last few, now and then something of long ago.
    const near = chance(this.random, 0.6) ? this.changes.slice(-3) : this.changes;
    const change = pick(this.random, near);
    if (!change) return;
    const { refusals } = planUndo(this.estate, change, execute);
    for (const refusal of refusals)
      if (!refusal.message || !refusal.mend) this.wrong('an undo is refused without words', [JSON.stringify(refusal)]);
    if (refusals.length > 0) {
      this.tally.undoRefused += 1;
      return;
    }
    const plan = planUndo(this.estate, change, execute);
    for (const effects of plan.effects) this.put(effects, `undo of ${change.map((step) => step.title).join('; ')}`);
    this.changes.splice(this.changes.indexOf(change), 1);
    this.tally.undone += 1;
  }

  /** Some hours pass: hosts write and delete, jobs fall due, nights come. */
  private pass(): void {
    this.tally.times += 1;
    const newId = newIds(`${this.seed} time ${this.turn}`);
    const span = chance(this.random, 0.3) ? DAY : HOUR;
    for (const device of [...this.estate.table('hostDevice').values()]) {
      if (!device.mountPoint) continue;
      if (chance(this.random, 0.3))
        this.put([changed('hostDevice', device, { writeRate: Math.floor(this.random() * 2 ** 22) })], 'a rate');
      else if (chance(this.random, 0.1)) this.put(deleteFiles(device, 2 ** 25, 2 ** 30), 'files deleted');
    }
    const until = this.now + span;
    // Replications may be cut every half minute: a few cycles tell as much as thousands.
    let cycles = MOST_CYCLES;
    let moves = MOST_TURNS;
    while (this.now < until) {
      const job = nextJobEnd(this.estate);
      const night = nextNight(this.now);
      const run = nextPlanRun(this.estate, this.now);
      const cycle = cycles-- > 0 ? nextCycle(this.estate, this.now) : null;
      const move = moves-- > 0 ? nextMove(this.estate, this.now) : null;
      const due = Math.max(
        this.now,
        Math.min(until, night, job?.at ?? Infinity, run ?? Infinity, cycle ?? Infinity, move ?? Infinity),
      );
      this.put(writeTraffic(this.estate, due - this.now, due, newId).effects, 'writing');
      const before = this.now;
      this.now = due;
      if (run !== null && run <= due) this.put(planPass(this.estate, before, due, newId).effects, 'runs of plans');
      if (cycle !== null && cycle <= due) this.put(replicated(this.estate, due, newId).effects, 'replication');
      if (move !== null && move <= due) this.put(movedBy(this.estate, due, newId).effects, 'moves');
      if (job && job.at <= due && this.estate.table('job').get(job.job.id))
        this.put(workJob(this.estate, job.job, due, newId).effects, `job ${job.job.kind}`);
      if (due === night) this.put(nightly(this.estate, due, newId).effects, 'night');
    }
  }

  private breakSomething(): void {
    this.tally.faults += 1;
    const newId = newIds(`${this.seed} fault ${this.turn}`);
    const present = faults(this.estate);
    if (present.length > 0 && chance(this.random, 0.7)) {
      const fault = pick(this.random, present)!;
      const mended = clearFault(this.estate, fault.kind, fault.component, this.now, newId);
      if (mended.ok) this.put(mended.effects, `mending ${fault.kind}`);
      return;
    }
    const kind = pick(this.random, faultKinds)!;
    const table = faultTable(kind);
    const row = table === null ? undefined : pick(this.random, [...this.estate.table(table).values()]);
    if (!row) return;
    const broken = setFault(this.estate, kind, row.id, this.now, newId);
    if (broken.ok) this.put(broken.effects, `fault ${kind}`);
  }

  private put(made: readonly Effect[], what: string): void {
    const effects = compacted(made);
    const { broken } = tried(this.estate, effects);
    if (broken.length > 0)
      this.wrong(
        what,
        broken.map((one) => `${one.code}: ${one.message}`),
      );
    this.estate.apply(effects);
  }

  private wrong(what: string, found: string[]): void {
    this.wrongs.push({ at: this.turn, what, found });
  }
}
