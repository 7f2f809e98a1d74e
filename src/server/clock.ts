import { idFor, type Kind } from '@/core/estate/entities';
import { hexFrom } from '@/core/estate/random';
import { finishJob, nextJobEnd, writers, writeTraffic } from '@/core/lab/advance';
import { DAY } from '@/core/units/duration';
import type { ClockSpeed } from '@/store/store';
import type { Plant } from './plant';
import type { Runner } from './runner';

/** How often the lab moves on, in real milliseconds. */
const TICK = 500;
/** Longest stretch of simulated time that writing is worked out in one go. */
const STRETCH = DAY;

/** Moves the lab's time on: ends steps and jobs in the order in which they fall due, and lets hosts write in between. */
export class Clock {
  private timer: NodeJS.Timeout | null = null;
  private last = 0;

  constructor(
    private readonly plant: Plant,
    private readonly runner: Runner,
  ) {}

  start(): void {
    this.last = performance.now();
    this.timer ??= setInterval(() => this.tick(), TICK);
  }

  stop(): void {
    if (this.timer) clearInterval(this.timer);
    this.timer = null;
  }

  setSpeed(speed: ClockSpeed): void {
    if (this.timer) this.tick();
    this.plant.commit({ lab: { ...this.plant.lab, speed } });
    this.plant.tellClock();
  }

  /** Moves on by simulated milliseconds, in the order in which things fall due. */
  advance(span: number): void {
    const target = this.plant.lab.now + span;
    while (this.plant.lab.now < target) {
      const job = nextJobEnd(this.plant.estate);
      const due = Math.min(
        target,
        this.runner.nextEnd() ?? Infinity,
        job?.at ?? Infinity,
        this.plant.lab.now + STRETCH,
      );
      this.moveTo(Math.max(due, this.plant.lab.now), target);
      this.runner.finishDue();
      if (job && job.at <= this.plant.lab.now && this.plant.estate.table('job').get(job.job.id)) {
        const end = finishJob(this.plant.estate, job.job);
        this.plant.commit({ effects: end.effects, lab: this.plant.lab, log: [this.plant.logRow(end.said)] });
      }
    }
    this.plant.tellClock();
  }

  private tick(): void {
    const now = performance.now();
    const span = Math.round((now - this.last) * this.plant.lab.speed);
    this.last = now;
    if (span > 0) this.advance(span);
  }

  /** Lets the stretch up to `due` pass: hosts write, then the clock stands there. Small stretches on the way to `target` are not saved alone. */
  private moveTo(due: number, target: number): void {
    const from = this.plant.lab.now;
    const lab = { ...this.plant.lab, now: due };
    if (due === from) return;
    let count = 0;
    const newId = (kind: Kind) => idFor(kind, hexFrom(`write ${from} ${count++}`, 12));
    const traffic =
      writers(this.plant.estate).length > 0
        ? writeTraffic(this.plant.estate, due - from, newId)
        : { effects: [], said: [] };
    if (traffic.effects.length === 0 && due < target) this.plant.lab = lab;
    else
      this.plant.commit({
        effects: traffic.effects,
        lab,
        log: traffic.said.map((message) => this.plant.logRow(message, { level: 'problem' })),
      });
  }
}
