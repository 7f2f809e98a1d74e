import type { ChangeRow, LogRow, StepRow } from '@/core/change/record';
import type { OperationDocument } from '@/core/change/registry';
import type { Effect } from '@/core/estate/effects';
import type { Estate } from '@/core/estate/estate';
import type { UsageSample } from '@/core/space/history';
import type { PathEvent } from '@/core/attach/path-events';
import { writePathEvents } from './path-event-rows';
import { removeChange, removeSteps, writeChange, writeLog, writeOperations, writeStep } from './change-rows';
import { openDatabase, type Db } from './database';
import { loadEstate, writeEffects } from './estate-rows';
import { writeUsage } from './usage-rows';

export type ClockSpeed = 0 | 1 | 60 | 600;
export const clockSpeeds: readonly ClockSpeed[] = [0, 1, 60, 600];

export interface LabState {
  /** Simulated milliseconds since 1970. */
  now: number;
  speed: ClockSpeed;
}

/** What is written together, or not at all. */
export interface Commit {
  effects?: readonly Effect[];
  lab?: LabState;
  change?: ChangeRow;
  operations?: readonly OperationDocument[];
  /** Takes all of the change's steps away before those given are written. */
  freshSteps?: boolean;
  steps?: readonly StepRow[];
  removeChange?: string;
  log?: readonly LogRow[];
  usage?: readonly UsageSample[];
  pathEvents?: readonly PathEvent[];
  settings?: Readonly<Record<string, string>>;
}

/** The database file: read once at start, written in one transaction a commit. */
export class Store {
  readonly db: Db;
  private readonly statements = new Map<string, ReturnType<Db['prepare']>>();

  constructor(file: string) {
    this.db = openDatabase(file);
  }

  estate(): Estate {
    return loadEstate(this.db);
  }

  lab(): LabState | undefined {
    return this.db.prepare('SELECT now, speed FROM lab').get() as LabState | undefined;
  }

  setting(name: string): string | undefined {
    return (this.db.prepare('SELECT value FROM setting WHERE name = ?').get(name) as { value: string } | undefined)
      ?.value;
  }

  /** @throws where a row breaks a rule of the schema; then nothing of the commit is written. */
  commit(commit: Commit): void {
    this.db.transaction(() => {
      if (commit.effects) writeEffects(this.db, this.statements, commit.effects);
      if (commit.lab)
        this.db
          .prepare(
            'INSERT INTO lab (one, now, speed) VALUES (1, ?, ?) ON CONFLICT (one) DO UPDATE SET now = excluded.now, speed = excluded.speed',
          )
          .run(commit.lab.now, commit.lab.speed);
      if (commit.removeChange) removeChange(this.db, commit.removeChange);
      if (commit.change) {
        writeChange(this.db, commit.change);
        if (commit.operations) writeOperations(this.db, commit.change.id, commit.operations);
        if (commit.freshSteps) removeSteps(this.db, commit.change.id);
        for (const step of commit.steps ?? []) writeStep(this.db, commit.change.id, step);
      }
      for (const row of commit.log ?? []) writeLog(this.db, row);
      if (commit.pathEvents) writePathEvents(this.db, commit.pathEvents);
      if (commit.usage) writeUsage(this.db, this.statements, commit.usage);
      for (const [name, value] of Object.entries(commit.settings ?? {}))
        this.db
          .prepare(
            'INSERT INTO setting (name, value) VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value',
          )
          .run(name, value);
    })();
  }

  /** Work that may be begun anew if the power fails in the middle: it does not wait for the disk at every commit. */
  inBulk(work: () => void): void {
    this.db.pragma('synchronous = OFF');
    try {
      work();
    } finally {
      this.db.pragma('synchronous = FULL');
      this.db.pragma('wal_checkpoint(TRUNCATE)');
    }
  }

  close(): void {
    this.db.close();
  }
}
