import Database from 'better-sqlite3';
import { chmodSync, closeSync, existsSync, mkdirSync, openSync, readdirSync, readFileSync, statSync } from 'node:fs';
import path from 'node:path';
import { CannotOpen } from './cannot-open';

export type Db = Database.Database;

const migrationsFolder = (): string => path.join(/* turbopackIgnore: true */ process.cwd(), 'src/store/migrations');

/** How long a write waits for another's, ms. */
export const BUSY_TIMEOUT = 2000;

/** Another connection is writing: an estate is being put up. */
export const isBusy = (error: unknown): boolean => codeOf(error).startsWith('SQLITE_BUSY');

/** The disk (or the quota) has no room for what was to be written; nothing of it is. */
export const isDiskFull = (error: unknown): boolean => codeOf(error) === 'SQLITE_FULL' || codeOf(error) === 'ENOSPC';

/** By its field: the database module may bear another realm's Error class. */
const codeOf = (error: unknown): string =>
  typeof error === 'object' && error !== null && 'code' in error && typeof error.code === 'string' ? error.code : '';

/** What a failed opening means, in words. */
export function cannotOpen(file: string, error: unknown): CannotOpen {
  if (CannotOpen.is(error)) return error;
  const code = codeOf(error);
  if (code === 'SQLITE_NOTADB' || code.startsWith('SQLITE_CORRUPT'))
    return new CannotOpen(
      `The database ${file} is broken: it cannot be read.`,
      'Put a copy in its place, or start over with: npm run demo -- --fresh.',
    );
  if (code.startsWith('SQLITE_READONLY') || code === 'EACCES' || code === 'EROFS' || code === 'EPERM')
    return new CannotOpen(
      `The database ${file} cannot be written.`,
      'Give its file and folder to the user who runs the server, or name another with TRABES_DB.',
    );
  if (isDiskFull(error))
    return new CannotOpen(`There is no room on the disk of ${file}.`, 'Make room, then start again.');
  if (code.startsWith('SQLITE_CANTOPEN') || code === 'ENOTDIR' || code === 'EEXIST' || code === 'ENOENT')
    return new CannotOpen(`The database ${file} cannot be opened.`, 'Name a file in a folder of yours with TRABES_DB.');
  return new CannotOpen(
    `The database ${file} cannot be opened: ${error instanceof Error ? error.message : String(error)}.`,
    'Name another one with TRABES_DB.',
  );
}

/** Runs what reads or writes at the start; whatever goes wrong is said in words. */
export function inOpening<T>(file: string, work: () => T): T {
  try {
    return work();
  } catch (error) {
    throw cannotOpen(file, error);
  }
}

/** Makes the file where it is missing, for its owner alone; SQLite gives the files beside it the same rights. */
function ownersAlone(file: string): void {
  mkdirSync(path.dirname(file), { recursive: true });
  if (existsSync(file) && statSync(file).isDirectory())
    throw new CannotOpen(`The database ${file} is a folder.`, 'Name a file with TRABES_DB.');
  if (!existsSync(file)) closeSync(openSync(file, 'a', 0o600));
  for (const end of ['', '-wal', '-shm']) if (existsSync(file + end)) chmodSync(file + end, 0o600);
}

/**
 * Opens the file (made where it is missing), sets what durability needs, and brings its schema up to date.
 * @throws CannotOpen where that is not possible, in words.
 */
export function openDatabase(file: string): Db {
  return inOpening(file, () => {
    if (file !== ':memory:') ownersAlone(path.resolve(file));
    const db = new Database(file);
    try {
      db.pragma('journal_mode = WAL');
      db.pragma('synchronous = FULL');
      db.pragma(`busy_timeout = ${BUSY_TIMEOUT}`);
      // A migration that makes a table anew must not drag along what refers to the old one.
      db.pragma('foreign_keys = OFF');
      db.pragma('legacy_alter_table = ON');
      migrate(db);
      db.pragma('legacy_alter_table = OFF');
      db.pragma('foreign_keys = ON');
      return db;
    } catch (error) {
      db.close();
      throw error;
    }
  });
}

/** Runs the numbered files that this database has not seen, each in a transaction of its own. */
export function migrate(db: Db, folder = migrationsFolder()): void {
  const files = readdirSync(folder)
    .filter((name) => /^\d{3}-.*\.sql$/.test(name))
    .sort();
  const done = db.pragma('user_version', { simple: true }) as number;
  if (done > files.length)
    throw new CannotOpen(
      `The database is of a later version (${done}) than this program knows (${files.length}).`,
      'Start the program that made it, or name another database with TRABES_DB.',
    );
  for (const [k, name] of files.entries()) {
    if (k < done) continue;
    db.transaction(() => {
      db.exec(readFileSync(path.join(folder, name), 'utf8'));
      db.pragma(`user_version = ${k + 1}`);
    })();
  }
}
