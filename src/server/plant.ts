import type { Effect } from '@/core/estate/effects';
import type { Estate, Overlay } from '@/core/estate/estate';
import { pathEvents, type PathEvent } from '@/core/attach/path-events';
import { pathKinds } from '@/core/attach/sessions';
import { pathFinder } from '@/core/attach/paths';
import type { PlanBasis } from '@/core/change/plan';
import { jobProgress } from '@/core/job/work';
import { brokenBy, madeTwice, refusalOf, tried } from '@/core/rules/book';
import type { InParts } from '@/core/units/in-parts';
import type { LogRow } from '@/core/change/record';
import { Store, type Commit, type LabState, type StoreOptions } from '@/store/store';
import { LAB_START } from '../../demo/hardware';
import { Events } from './events';
import { refusedProblem } from './problem';
import { Telemetry } from './telemetry';
import { Troubles } from './troubles';
import { Vault } from './vault';

/** The live estate: memory and database, changed together by commits. Everything the server does goes through one of these. */
export class Plant {
  readonly store: Store;
  readonly events = new Events();
  readonly troubles = new Troubles(this.events);
  readonly vault: Vault;
  readonly telemetry = new Telemetry(this);
  estate: Estate;
  lab: LabState;
  /** Grows with every commit that changes the estate. */
  version = 1;
  private holds = 0;

  /** @throws CannotOpen where the database or its key cannot be used. */
  constructor(databaseFile: string, options: StoreOptions & { newKey?: boolean } = {}) {
    this.store = new Store(databaseFile, options);
    try {
      this.vault = new Vault(this.store.db, databaseFile, options.newKey);
      this.estate = this.store.estate();
      this.lab = this.store.lab() ?? { now: LAB_START, speed: 60 };
    } catch (error) {
      this.store.close();
      throw error;
    }
  }

  /**
   * Asks the rule book, writes to the database, and only when that stands changes memory. `laid` is the estate with these very effects laid over it,
   * where somebody has it.
   * @throws Problem where a rule would be broken: then nothing is written.
   */
  commit(commit: Commit, laid?: Overlay): void {
    const around = this.around(commit, laid);
    this.store.commit(around.length > 0 ? { ...commit, pathEvents: around } : commit, this.estate);
    if (commit.lab) this.lab = commit.lab;
    if (commit.effects && commit.effects.length > 0) {
      this.telemetry.touch(commit.effects);
      this.estate.apply(commit.effects);
      this.version += 1;
      this.events.emit({
        type: 'commit',
        version: this.version,
        kinds: [...new Set(commit.effects.map((effect) => effect.kind))],
      });
    }
  }

  /** The estate as a commit would leave it is looked at twice: by the rule book, and by hosts whose paths it touches. */
  private around({ effects = [], lab }: Commit, laid?: Overlay): PathEvent[] {
    if (effects.length === 0) return [];
    const { overlay, broken } = laid
      ? { overlay: laid, broken: [...madeTwice(this.estate, effects), ...brokenBy(laid, effects)] }
      : tried(this.estate, effects);
    if (broken.length > 0) throw refusedProblem(broken.map(refusalOf), 409);
    return effects.some((effect) => pathKinds.has(effect.kind) && effect.before !== null)
      ? pathEvents(this.estate, overlay, lab?.now ?? this.lab.now)
      : [];
  }

  /** While somebody holds it the lab's clock waits: what takes several slices then finds the estate as it began. */
  hold(): () => void {
    this.holds += 1;
    let held = true;
    return () => {
      if (held) this.holds -= 1;
      held = false;
    };
  }

  get isHeld(): boolean {
    return this.holds > 0;
  }

  /** Tells the clock and how far every job is. */
  tellClock(): void {
    const jobs = [...this.estate.table('job').values()].map((job) => ({
      id: job.id,
      progress: jobProgress(job, this.lab.now),
      left: Math.max(0, job.finishesAt - this.lab.now),
    }));
    this.events.emit({ type: 'clock', now: this.lab.now, speed: this.lab.speed, jobs });
  }

  finder() {
    return pathFinder(this.estate);
  }

  basis(seed: string): PlanBasis {
    return { seed, now: this.lab.now, month: new Date(this.lab.now).toISOString().slice(0, 7) };
  }

  logRow(message: string, of: { change?: string; step?: number; level?: 'info' | 'problem' } = {}): LogRow {
    return {
      change: of.change ?? null,
      step: of.step ?? null,
      atReal: Date.now(),
      atLab: this.lab.now,
      level: of.level ?? 'info',
      message,
    };
  }

  replaceEstate(estate: Estate, effects: readonly Effect[], log: string): void {
    this.store.commit({ effects, log: [this.logRow(log)] });
    this.now(estate);
  }

  /** The same in slices; others are answered in between, but cannot write. */
  *replacing(estate: Estate, effects: readonly Effect[], log: string): InParts<void> {
    yield* this.store.putUp(effects, [this.logRow(log)]);
    this.now(estate);
  }

  private now(estate: Estate): void {
    this.estate = estate;
    this.telemetry.touch('all');
    this.version += 1;
    this.events.emit({ type: 'commit', version: this.version, kinds: ['estate'] });
  }

  /** Commits that stand together or not at all; where they do not, memory is as the database is. */
  asOne(work: () => void): void {
    try {
      this.store.asOne(work);
    } catch (error) {
      this.estate = this.store.estate();
      this.lab = this.store.lab() ?? { now: LAB_START, speed: 60 };
      this.telemetry.reset();
      this.version += 1;
      throw error;
    }
  }

  /** Takes over what another database holds, wholly or not at all; this one holds nothing yet. */
  takeOver(file: string): void {
    this.store.takeOver(file);
    this.estate = this.store.estate();
    this.lab = this.store.lab() ?? this.lab;
    this.telemetry.reset();
    this.version += 1;
    this.events.emit({ type: 'commit', version: this.version, kinds: ['estate'] });
    this.events.emit({ type: 'tray', change: this.store.setting('tray') || null });
  }

  close(): void {
    this.store.close();
  }
}
