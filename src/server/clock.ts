import { newIds } from '@/core/estate/new-ids';
import { compacted } from '@/core/estate/effects';
import { nextJobEnd, workJob } from '@/core/lab/jobs';
import { nextNight, nightly } from '@/core/lab/nightly';
import { writers, writeTraffic } from '@/core/lab/traffic';
import { usageSamples } from '@/core/space/history';
import { DAY, HOUR } from '@/core/units/duration';
import type { ClockSpeed } from '@/store/store';
import type { Plant } from './plant';
import type { Runner } from './runner';

/** How often the lab moves on, in real milliseconds. */
const TICK = 500;
/** Longest stretch of simulated time that writing is worked out in one go. */
const STRETCH = DAY;

/** Stretches up to this are sampled every hour. */
const HOURLY_WITHIN = 12 * HOUR;

const nextHour = (now: number): number => (Math.floor(now / HOUR) + 1) * HOUR;

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
    // Long jumps leave one sample a day behind, short ones one an hour.
    const hourly = span <= HOURLY_WITHIN;
    while (this.plant.lab.now < target) {
      const job = nextJobEnd(this.plant.estate);
      const night = nextNight(this.plant.lab.now);
      const due = Math.min(
        target,
        this.runner.nextEnd() ?? Infinity,
        job?.at ?? Infinity,
        this.plant.lab.now + STRETCH,
        night,
        hourly ? nextHour(this.plant.lab.now) : Infinity,
      );
      this.moveTo(Math.max(due, this.plant.lab.now), target);
      this.runner.finishDue();
      if (job && job.at <= this.plant.lab.now && this.plant.estate.table('job').get(job.job.id)) {
        const work = workJob(
          this.plant.estate,
          job.job,
          this.plant.lab.now,
          newIds(`job ${job.job.id} ${this.plant.lab.now}`),
        );
        this.plant.commit({
          effects: compacted(work.effects),
          lab: this.plant.lab,
          log: work.said === null ? [] : [this.plant.logRow(work.said)],
        });
      }
      if (this.plant.lab.now === night) this.nightWork();
      else if (hourly && this.plant.lab.now % HOUR === 0)
        this.plant.commit({ usage: usageSamples(this.plant.estate, this.plant.lab.now, false) });
    }
    this.plant.tellClock();
  }

  private nightWork(): void {
    const { plant } = this;
    const work = nightly(plant.estate, plant.lab.now, newIds(`night ${plant.lab.now}`));
    if (work.effects.length > 0 || work.said.length > 0)
      plant.commit({
        effects: compacted(work.effects),
        lab: plant.lab,
        log: work.said.map((message) => plant.logRow(message)),
      });
    plant.commit({ usage: usageSamples(plant.estate, plant.lab.now, true) });
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
    const traffic =
      writers(this.plant.estate).length > 0
        ? writeTraffic(this.plant.estate, due - from, due, newIds(`write ${from}`))
        : { effects: [], said: [] };
    if (traffic.effects.length === 0 && due < target) this.plant.lab = lab;
    else
      this.plant.commit({
        effects: compacted(traffic.effects),
        lab,
        log: traffic.said.map((message) => this.plant.logRow(message, { level: 'problem' })),
      });
  }
}
