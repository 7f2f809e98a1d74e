import type { Effect } from '@/core/estate/effects';
import { Overlay, type Estate } from '@/core/estate/estate';
import { pathEvents, type PathEvent } from '@/core/attach/path-events';
import { pathKinds } from '@/core/attach/sessions';
import { pathFinder } from '@/core/attach/paths';
import type { PlanBasis } from '@/core/change/plan';
import { jobProgress } from '@/core/job/work';
import { spanModel, type SpanModel } from '@/core/span/model';
import type { LogRow } from '@/core/change/record';
import { Store, type Commit, type LabState } from '@/store/store';
import { LAB_START } from '../../demo/hardware';
import { Events } from './events';
import { Vault } from './vault';

/** The live estate: memory and database, changed together by commits. Everything the server does goes through one of these. */
export class Plant {
  readonly store: Store;
  readonly events = new Events();
  readonly vault: Vault;
  estate: Estate;
  lab: LabState;
  /** Grows with every commit that changes the estate. */
  version = 1;
  private model: { version: number; model: SpanModel; text: string | null } | null = null;

  constructor(databaseFile: string) {
    this.store = new Store(databaseFile);
    this.vault = new Vault(this.store.db, databaseFile);
    this.estate = this.store.estate();
    this.lab = this.store.lab() ?? { now: LAB_START, speed: 60 };
  }

  /** Writes to the database first; memory follows only when that stands. */
  commit(commit: Commit): void {
    const pathEvents = this.pathEvents(commit);
    this.store.commit(pathEvents.length > 0 ? { ...commit, pathEvents } : commit);
    if (commit.lab) this.lab = commit.lab;
    if (commit.effects && commit.effects.length > 0) {
      this.estate.apply(commit.effects);
      this.version += 1;
      this.events.emit({
        type: 'commit',
        version: this.version,
        kinds: [...new Set(commit.effects.map((effect) => effect.kind))],
      });
    }
  }

  /** What hosts see of a commit that touches the ways to their volumes. */
  private pathEvents({ effects = [], lab }: Commit): PathEvent[] {
    if (!effects.some((effect) => pathKinds.has(effect.kind) && effect.before !== null)) return [];
    const after = new Overlay(this.estate);
    after.apply(effects);
    return pathEvents(this.estate, after, lab?.now ?? this.lab.now);
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

  /** The drawing's figures, worked out once a version. */
  span(): SpanModel {
    if (this.model?.version !== this.version)
      this.model = { version: this.version, model: spanModel(this.estate), text: null };
    return this.model.model;
  }

  /** The same as JSON, written out once a version. */
  spanText(): string {
    const model = this.span();
    return (this.model!.text ??= JSON.stringify({ version: this.version, ...model }));
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
    this.estate = estate;
    this.version += 1;
    this.events.emit({ type: 'commit', version: this.version, kinds: ['estate'] });
  }

  close(): void {
    this.store.close();
  }
}
