import type { Effect } from '@/core/estate/effects';
import { Overlay, type Estate } from '@/core/estate/estate';
import { newIds } from '@/core/estate/new-ids';
import { compacted } from '@/core/estate/effects';
import { failovers } from '@/core/lab/failover';
import { writesGoOn, writeTrafficOn } from '@/core/lab/traffic';
import { mirroredOn } from '@/core/replicate/pass';
import { DAY, HOUR } from '@/core/units/duration';
import { markEvents } from '@/core/pool/marks';
import type { InParts } from '@/core/units/in-parts';
import { isDiskFull } from '@/store/database';
import type { ClockSpeed } from '@/store/store';
import {
  byNight,
  hours,
  jobs,
  nights,
  paces,
  plans,
  replications,
  steps,
  type FallsDue,
  type Guarded,
  moves,
} from './due';
import type { Plant } from './plant';
import { Problem } from './problem';
import type { Changes } from './changes';
import type { Runner } from './runner';
import { inSlices } from './slices';
import { stopped } from '@/core/units/counted';

/** How often the lab moves on, in real milliseconds. */
const TICK = 500;
/** Longest stretch of simulated time that writing is worked out in one go. */
const STRETCH = DAY;

/** Stretches up to this are sampled every hour. */
const HOURLY_WITHIN = 12 * HOUR;

/**
 * Moves the lab's time on: ends steps and jobs in the order in which they fall due, and lets hosts write in between. What fails is put aside and
 * told as a trouble; everything else goes on. Where the disk is full the lab stands still until there is room.
 */
export class Clock {
  private timer: NodeJS.Timeout | null = null;
  private last = 0;
  /** Everything that falls due by itself; of what is due at one moment the first is done first. */
  private readonly fallingDue: readonly FallsDue[];
  /** A jump is under way: the ticks wait for it. */
  private jumping = false;

  constructor(
    private readonly plant: Plant,
    runner: Runner,
    changes: Changes,
  ) {
    const guarded: Guarded = (what, words, work) => this.guarded(what, words, work);
    this.fallingDue = [
      steps(runner),
      byNight(changes.night, plant, guarded),
      paces(plant, guarded),
      jobs(plant, guarded),
      plans(plant),
      replications(plant),
      moves(plant),
      nights(plant, guarded),
      hours(plant, guarded),
    ];
  }

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
    for (const _ of this.passing(span));
    this.plant.tellClock();
  }

  /** The same without keeping the thread for long: others are answered in between. */
  async jump(span: number): Promise<void> {
    if (this.jumping)
      throw new Problem(409, 'jump-under-way', 'The lab is jumping ahead already.', 'Wait until it is there.');
    this.jumping = true;
    try {
      await inSlices(this.passing(span), { wait: () => this.plant.isHeld });
    } finally {
      this.jumping = false;
      this.last = performance.now();
      this.plant.tellClock();
    }
  }

  private *passing(span: number): InParts<void> {
    const target = this.plant.lab.now + span;
    // Long jumps leave one sample a day behind, short ones one an hour.
    const hourly = span <= HOURLY_WITHIN;
    while (this.plant.lab.now < target) {
      const { now } = this.plant.lab;
      const due = this.fallingDue.map((one) => ({ one, at: one.next(now, hourly) ?? Infinity }));
      const next = Math.min(target, now + STRETCH, ...due.map(({ at }) => at));
      const joining = due.flatMap(({ one, at }) => (at <= next && one.join ? [one] : []));
      this.moveTo(Math.max(next, now), target, joining);
      for (const { one, at } of due) if (at <= this.plant.lab.now) one.fall();
      this.guarded('marks', 'Telling of fill marks', () => this.watch('marks', markEvents, 'problem'));
      this.guarded('failover', 'Choosing another path', () => this.watch('failover', failovers));
      yield undefined;
    }
  }

  /** Does one thing of the lab. What it throws is told as a trouble until it works again; a full disk is everybody's. */
  private guarded(...[what, words, work]: Parameters<Guarded>): boolean {
    try {
      work();
      this.plant.troubles.clear(what);
      return true;
    } catch (error) {
      if (isDiskFull(error)) throw error;
      const message = error instanceof Error ? error.message : String(error);
      this.plant.troubles.set(
        what,
        stopped(`${words} failed: ${message}`),
        'The rest of the lab goes on; please report this.',
      );
      return false;
    }
  }

  /** Up to which version of the estate each watch has looked. */
  private readonly looked = new Map<string, number>();

  /** Looks at the estate once a version, and commits what follows. */
  private watch(
    what: string,
    look: (estate: Estate) => { effects: Effect[]; said: string[] },
    level: 'info' | 'problem' = 'info',
  ): void {
    const { plant } = this;
    if (this.looked.get(what) === plant.version) return;
    const { effects, said } = look(plant.estate);
    if (effects.length > 0)
      plant.commit({ effects, lab: plant.lab, log: said.map((message) => plant.logRow(message, { level })) });
    this.looked.set(what, plant.version);
  }

  private tick(): void {
    const now = performance.now();
    // While somebody works in slices, time gathers; while a jump is under way, it is the jump's.
    if (this.plant.isHeld || this.jumping) return;
    const span = Math.round((now - this.last) * this.plant.lab.speed);
    this.last = now;
    try {
      if (span > 0) this.advance(span);
      this.plant.troubles.clear('disk');
      this.plant.troubles.clear('clock');
    } catch (error) {
      if (isDiskFull(error))
        this.plant.troubles.set(
          'disk',
          'The disk is full: nothing can be written, and the lab stands still.',
          'Make room; what waits goes on by itself.',
        );
      else
        this.plant.troubles.set(
          'clock',
          stopped(`The lab's clock failed: ${error instanceof Error ? error.message : String(error)}`),
          'It is tried again; please report this.',
        );
    }
  }

  /**
   * Lets the stretch up to `due` pass: hosts write, then the clock stands there, and what joins that moment is done, in one commit. Small stretches on
   * the way to `target` are not saved alone. Where the one cannot stand, the other does without it.
   */
  private moveTo(due: number, target: number, joining: readonly FallsDue[]): void {
    const { plant } = this;
    const from = plant.lab.now;
    if (due === from && joining.length === 0) return;
    this.guarded('telemetry', 'What is asked and served', () => plant.telemetry.pass(due));
    const lab = { ...plant.lab, now: due };
    const together = (writing: boolean, others: readonly FallsDue[]) => {
      const overlay = new Overlay(plant.estate);
      const traffic =
        writing && due > from && writesGoOn(plant.estate)
          ? writeTrafficOn(overlay, due - from, due, newIds(`write ${from}`, overlay))
          : { effects: [], said: [] };
      const along = mirroredOn(overlay, due, newIds(`mirror ${due}`, overlay));
      const joined = others.map((one) => one.join!(overlay, due));
      const said = [...traffic.said, ...along.said, ...joined.flatMap((one) => one.said)];
      const effects = compacted([...traffic.effects, ...along.effects, ...joined.flatMap((one) => one.effects)]);
      const settings = Object.fromEntries(joined.flatMap((one) => Object.entries(one.settings)));
      const mail = joined.flatMap((one) => one.mail ?? []);
      if (effects.length === 0 && said.length === 0 && others.length === 0 && due < target) plant.lab = lab;
      else
        plant.commit(
          { effects, lab, settings, mail, log: said.map((text) => plant.logRow(text, { level: 'problem' })) },
          overlay,
        );
    };
    if (joining.length > 0 && this.tried(() => together(true, joining))) {
      plant.troubles.clear('traffic');
      plant.troubles.clear('plans');
      return;
    }
    const wrote = this.guarded('traffic', 'What hosts write', () => together(true, []));
    const copied =
      joining.length === 0 || this.guarded('plans', 'Making and sending copies', () => together(false, joining));
    // Time goes on even where nothing could be written.
    if (!wrote && (!copied || joining.length === 0)) plant.commit({ lab });
  }

  /** Whether something works; a full disk is everybody's. */
  private tried(work: () => void): boolean {
    try {
      work();
      return true;
    } catch (error) {
      if (isDiskFull(error)) throw error;
      return false;
    }
  }
}
