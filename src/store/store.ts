import { mkdirSync, rmSync } from 'node:fs';
import path from 'node:path';
import type { ChangeRow, LogRow, MailRow, StepRow } from '@/core/change/record';
import type { OperationDocument } from '@/core/change/registry';
import type { Effect } from '@/core/estate/effects';
import type { Estate, EstateView } from '@/core/estate/estate';
import type { UsageSample } from '@/core/space/history';
import type { InParts } from '@/core/units/in-parts';
import type { PathEvent } from '@/core/attach/path-events';
import { writePathEvents } from './path-event-rows';
import {
  removeChange,
  removeSteps,
  writeChange,
  writeLog,
  writeMail,
  writeOperations,
  writeRevision,
  writeStep,
} from './change-rows';
import { BUSY_TIMEOUT, inOpening, openDatabase, type Db } from './database';
import { DatabaseLock } from './lock';
import { loadEstate, writeEffects, writeRows } from './estate-rows';
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
  /** What a new revision of the change did to it, in a sentence. */
  revised?: string;
  /** Takes all of the change's steps away before those given are written. */
  freshSteps?: boolean;
  steps?: readonly StepRow[];
  removeChange?: string;
  log?: readonly LogRow[];
  usage?: readonly UsageSample[];
  pathEvents?: readonly PathEvent[];
  mail?: readonly MailRow[];
  settings?: Readonly<Record<string, string>>;
}

/** The lock of a database; its folder is made where it is missing. */
function lockOf(file: string): DatabaseLock {
  mkdirSync(path.dirname(path.resolve(file)), { recursive: true });
  return new DatabaseLock(path.resolve(file));
}

export interface StoreOptions {
  /** Starts over: what the file holds goes. */
  fresh?: boolean;
}

/** The database file: read once at start, written in one transaction a commit. */
export class Store {
  readonly db: Db;
  readonly lock: DatabaseLock | null;
  private readonly statements = new Map<string, ReturnType<Db['prepare']>>();

  /** @throws CannotOpen where the file cannot be used, or another process uses it. */
  constructor(
    private readonly file: string,
    { fresh = false }: StoreOptions = {},
  ) {
    this.lock = file === ':memory:' ? null : inOpening(file, () => lockOf(file));
    try {
      // Only once nobody else can be using it: starting over takes the database away.
      if (fresh) for (const end of ['', '-wal', '-shm']) rmSync(file + end, { force: true });
      this.db = openDatabase(file);
    } catch (error) {
      this.lock?.release();
      throw error;
    }
  }

  estate(): Estate {
    return inOpening(this.file, () => loadEstate(this.db));
  }

  lab(): LabState | undefined {
    return this.db.prepare('SELECT now, speed FROM lab').get() as LabState | undefined;
  }

  setting(name: string): string | undefined {
    return (this.db.prepare('SELECT value FROM setting WHERE name = ?').get(name) as { value: string } | undefined)
      ?.value;
  }

  /**
   * `present` is the estate as the database has it, if the caller knows it.
   * @throws where a row breaks a rule of the schema; then nothing of the commit is written.
   */
  commit(commit: Commit, present?: EstateView): void {
    this.db.transaction(() => {
      if (commit.effects) writeEffects(this.db, this.statements, commit.effects, present);
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
        if (commit.revised !== undefined)
          writeRevision(this.db, commit.change.id, commit.change.revision, commit.revised);
        if (commit.freshSteps) removeSteps(this.db, commit.change.id);
        for (const step of commit.steps ?? []) writeStep(this.db, commit.change.id, step);
      }
      for (const row of commit.log ?? []) writeLog(this.db, row);
      for (const row of commit.mail ?? []) writeMail(this.db, row);
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

  /** Many commits as one: all of them stand, or none. What is thrown takes back what was written. */
  asOne(work: () => void): void {
    this.db.transaction(work)();
    this.db.pragma('wal_checkpoint(TRUNCATE)');
  }

  /**
   * Puts up a whole estate in one transaction that pauses now and then. Others who write meanwhile are told that the database is busy. Work that
   * is not seen through leaves nothing.
   */
  *putUp(effects: readonly Effect[], log: readonly LogRow[]): InParts<void> {
    // A connection of its own, so that what others read in between is the database as it was.
    const own = this.file === ':memory:' ? null : openDatabase(this.file);
    const db = own ?? this.db;
    db.exec('BEGIN IMMEDIATE');
    // Whoever waited for this would keep it from going on.
    this.db.pragma('busy_timeout = 0');
    try {
      yield* writeRows(db, effects);
      for (const row of log) writeLog(db, row);
      db.exec('COMMIT');
    } finally {
      if (db.inTransaction) db.exec('ROLLBACK');
      this.db.pragma(`busy_timeout = ${BUSY_TIMEOUT}`);
      own?.close();
    }
  }

  /** Copies every row of another database of this version into this one, which has none, in one transaction. */
  takeOver(file: string): void {
    this.db.prepare('ATTACH ? AS other').run(file);
    // Whole tables are copied one after the other; what refers to what is looked at when all are there.
    this.db.pragma('foreign_keys = OFF');
    try {
      this.db.transaction(() => {
        const tables = this.db
          .prepare("SELECT name FROM other.sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'")
          .all() as { name: string }[];
        for (const { name } of tables) {
          // What a database knows of its own key stays its own.
          const rows = name === 'setting' ? "WHERE name <> 'key check'" : '';
          if (name === 'sealed_secret') continue;
          this.db.exec(`INSERT OR REPLACE INTO main."${name}" SELECT * FROM other."${name}" ${rows}`);
        }
        if ((this.db.pragma('foreign_key_check') as unknown[]).length > 0)
          throw new Error('The other database refers to rows that it does not have.');
      })();
    } finally {
      this.db.pragma('foreign_keys = ON');
      this.db.exec('DETACH other');
    }
  }

  close(): void {
    this.db.close();
    this.lock?.release();
  }
}
