import Database from 'better-sqlite3';
import { chmodSync, existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { CannotOpen } from './cannot-open';

const beside = (databaseFile: string, end: string): string => `${databaseFile}${end}`;

/** Another process is at work on the database. */
export class DatabaseInUse extends CannotOpen {
  constructor(databaseFile: string, address: string | null) {
    super(
      `Trabes is at work on ${databaseFile} already${address ? `: ${address}` : ''}.`,
      'Open it there, stop that server first, or name another database with TRABES_DB.',
    );
  }
}

/**
 * Sees to it that one process alone works on a database: it holds a lock of the operating system, through a small SQLite file beside the
 * database, which a kill or a power cut leaves free. Where the holder can be reached stands in a text file beside that.
 */
export class DatabaseLock {
  private readonly held: Database.Database;
  private readonly addressFile: string;

  /** @throws DatabaseInUse where another process holds it. */
  constructor(databaseFile: string) {
    const lockFile = beside(databaseFile, '.lock');
    this.addressFile = beside(databaseFile, '.at');
    writeFileSync(lockFile, '', { flag: 'a', mode: 0o600 });
    this.held = new Database(lockFile, { timeout: 0 });
    try {
      this.held.exec('BEGIN IMMEDIATE');
    } catch (error) {
      this.held.close();
      if ((error as { code?: string }).code !== 'SQLITE_BUSY') throw error;
      throw new DatabaseInUse(
        databaseFile,
        existsSync(this.addressFile) ? readFileSync(this.addressFile, 'utf8').trim() || null : null,
      );
    }
    rmSync(this.addressFile, { force: true });
  }

  /** Writes down where the holder can be reached. */
  says(address: string): void {
    writeFileSync(this.addressFile, `${address}\n`, { mode: 0o600 });
    chmodSync(this.addressFile, 0o600);
  }

  release(): void {
    rmSync(this.addressFile, { force: true });
    this.held.close();
  }
}
