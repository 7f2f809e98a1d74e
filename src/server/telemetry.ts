import { hourBook, type Book } from '@/core/performance/book';
import { SLOT, SLOTS_AN_HOUR } from '@/core/performance/choices';
import { Course } from '@/core/performance/course';
import type { Listener } from '@/core/performance/figures';
import { loadModel, timedOf } from '@/core/performance/model';
import { slotOf } from '@/core/performance/profile';
import type { LoadModel, TimedWork } from '@/core/performance/shape';
import { touchesCarried, touchesLoad } from '@/core/performance/touched';
import type { Effect } from '@/core/estate/effects';
import { DAY, HOUR, type Milliseconds } from '@/core/units/duration';
import {
  closeDay,
  forgetAhead,
  readMarks,
  readModel,
  writeHours,
  writeMark,
  writeModel,
  type LoadMark,
} from '@/store/load-rows';
import type { LabState, Store } from '@/store/store';
import type { Estate } from '@/core/estate/estate';

const SLOTS_A_DAY = 24 * SLOTS_AN_HOUR;
/** Models that are kept ready. */
const READY = 8;

/** Whose load is followed: the estate as it stands, the time, and where rows are kept. */
interface Followed {
  readonly estate: Estate;
  readonly store: Store;
  readonly lab: LabState;
}

/**
 * What was asked, served and waited for, as the lab's time goes on. It follows the estate as it stood: a model is worked out anew when something
 * moves load, and its course in time is a closed form. Hours are written as they end; the five seconds within them are worked out again from the
 * last mark before, so that nothing is lost by a hard stop.
 */
export class Telemetry {
  /** While the far past of a demo is made up nobody looks. */
  off = false;
  private course: Course | null = null;
  private book: Book = hourBook(0);
  private model: { id: number; text: string; model: LoadModel } | null = null;
  private timed: readonly TimedWork[] = [];
  private stale = true;
  /** Replications carry something else by now. */
  private carried = false;
  private readonly ready = new Map<number, LoadModel>();

  constructor(private readonly plant: Followed) {}

  /** The estate is about to change, or has been changed for another. */
  touch(effects: readonly Effect[] | 'all'): void {
    if (this.stale) return;
    if (effects === 'all' || touchesLoad(effects)) this.stale = true;
    else if (touchesCarried(effects)) this.carried = true;
  }

  /** Everything begins anew: time or the database was changed for another. */
  reset(): void {
    this.course = null;
    this.model = null;
    this.timed = [];
    this.stale = true;
    this.ready.clear();
  }

  /** Lets time pass up to a moment, on the estate as it stands. */
  pass(to: Milliseconds): void {
    if (this.off) return;
    const until = slotOf(to);
    if (!this.course) this.resume(slotOf(this.plant.lab.now));
    while (this.course!.slot < until) {
      if (this.stale) this.renew();
      else if (this.carried) this.carryOn();
      const end = Math.min(until, this.book.end);
      this.course!.run(end, this.book);
      if (end === this.book.end) this.closeHour();
    }
  }

  /** The model that holds now. */
  present(): LoadModel {
    const model = this.stale || !this.model ? loadModel(this.plant.estate) : this.model.model;
    return { ...model, timed: timedOf(this.plant.estate, model) };
  }

  /** Works the estate's model out anew, and goes on with what waited under the one before. */
  private renew(): void {
    const model = loadModel(this.plant.estate);
    const text = JSON.stringify(model);
    if (this.model?.text === text) {
      this.stale = false;
      this.carryOn();
      return;
    }
    const timed = timedOf(this.plant.estate, model);
    const mark = this.markNow();
    const { db } = this.plant.store;
    db.transaction(() => {
      const id = writeModel(db, mark.at, model);
      writeMark(db, { ...mark, model: id, timed });
      this.model = { id, text, model };
    })();
    // Only what is written counts: a full disk is asked again.
    this.stale = false;
    this.goOn(timed, mark.state);
  }

  /** The same model goes on with what replications carry by now. */
  private carryOn(): void {
    const timed = timedOf(this.plant.estate, this.model!.model);
    // What came to its end as was foretold needs no mark.
    const still = this.timed.filter(({ until }) => until > this.plant.lab.now);
    if (JSON.stringify(timed) !== JSON.stringify(still)) {
      const mark = this.markNow();
      writeMark(this.plant.store.db, { ...mark, model: this.model!.id, timed });
      this.goOn(timed, mark.state);
    }
    this.carried = false;
  }

  private markNow(): Pick<LoadMark, 'at' | 'state'> {
    return { at: this.course!.slot * SLOT, state: this.course!.state() };
  }

  private goOn(timed: readonly TimedWork[], state: LoadMark['state']): void {
    this.carried = false;
    this.timed = timed;
    const model = { ...this.model!.model, timed };
    this.course = new Course(model, this.course!.slot, state);
    this.book.by(model);
  }

  private closeHour(): void {
    const { db } = this.plant.store;
    const course = this.course!;
    const at = this.book.start * SLOT;
    const capacities = new Map(course.model.resources.map(({ id, capacity }) => [id, capacity]));
    const book = this.book;
    const model = this.model!.id;
    db.transaction(() => {
      writeHours(
        db,
        [...book.all()].map((one) => ({ ...one, at, capacity: capacities.get(one.subject) ?? 0 })),
      );
      writeMark(db, { ...this.markNow(), model, timed: this.timed });
      if (course.slot % SLOTS_A_DAY === 0) closeDay(db, course.slot * SLOT - DAY);
    })();
    // Data has grown: once a day it is seen where it lies.
    if (course.slot % SLOTS_A_DAY === 0) this.stale = true;
    this.book.restart(course.slot);
  }

  /** Takes up where the last mark before a moment stands, or begins there. */
  private resume(slot: number): void {
    const { db } = this.plant.store;
    const now = slot * SLOT;
    forgetAhead(db, now);
    const hour = Math.floor(slot / SLOTS_AN_HOUR) * SLOTS_AN_HOUR;
    const marks = readMarks(db, hour * SLOT, now + 1);
    const last = marks.at(-1);
    this.book = hourBook(hour);
    if (!last || last.at < now - 30 * DAY) {
      this.course = new Course({ resources: [], volumes: [], limits: [], background: [] }, slot);
      this.stale = true;
      return;
    }
    this.course = this.replay(marks, slot, this.book);
    const model = this.modelOf(last.model);
    this.model = { id: last.model, text: JSON.stringify(model), model };
    this.timed = last.timed;
    this.stale = true;
  }

  private modelOf(id: number): LoadModel {
    let model = this.ready.get(id);
    if (!model) {
      model = readModel(this.plant.store.db, id);
      if (this.ready.size >= READY) this.ready.delete(this.ready.keys().next().value!);
      this.ready.set(id, model);
    }
    return model;
  }

  /** Runs what the marks say up to a slot; the course that goes on from there. */
  private replay(
    marks: readonly LoadMark[],
    until: number,
    listener: Listener & { by?: (model: LoadModel) => unknown },
  ): Course {
    let course: Course | null = null;
    marks.forEach(({ at, model: id, state, timed }, k) => {
      const model = { ...this.modelOf(id), timed };
      course = new Course(model, slotOf(at), state);
      listener.by?.(model);
      course.run(Math.min(until, k + 1 < marks.length ? slotOf(marks[k + 1]!.at) : until), listener);
    });
    return course!;
  }

  /** Tells a listener all of a span again, five seconds by five seconds; what lies before the first mark is left out. */
  again(from: Milliseconds, to: Milliseconds, listener: Listener & { by?: (model: LoadModel) => unknown }): void {
    const marks = readMarks(this.plant.store.db, from, Math.min(to, this.plant.lab.now));
    if (marks.length > 0) this.replay(marks, slotOf(Math.min(to, this.plant.lab.now)), listener);
  }

  /** The marks of a span with their models: what a span is worked out from under other limits. */
  basis(from: Milliseconds, to: Milliseconds): { at: Milliseconds; model: LoadModel; state: LoadMark['state'] }[] {
    return readMarks(this.plant.store.db, from, Math.min(to, this.plant.lab.now)).map(
      ({ at, model, state, timed }) => ({
        at,
        model: { ...this.modelOf(model), timed },
        state,
      }),
    );
  }

  /** The hour under way. */
  get underWay(): Book {
    return this.book;
  }

  /** Since when there is anything. */
  since(): Milliseconds | null {
    const { at } = this.plant.store.db.prepare('SELECT min(at) AS at FROM load_hour').get() as { at: number | null };
    return at;
  }
}

/** Hours from one moment to another, whole. */
export const wholeHours = (from: Milliseconds): Milliseconds => Math.floor(from / HOUR) * HOUR;
