import Database from 'better-sqlite3';
import { mkdirSync, readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';

export type Db = Database.Database;

const migrationsFolder = (): string => path.join(/* turbopackIgnore: true */ process.cwd(), 'src/store/migrations');

/** Opens the file (made where it is missing), sets what durability needs, and brings its schema up to date. */
export function openDatabase(file: string): Db {
  if (file !== ':memory:') mkdirSync(path.dirname(path.resolve(file)), { recursive: true });
  const db = new Database(file);
  db.pragma('journal_mode = WAL');
  db.pragma('synchronous = FULL');
  db.pragma('busy_timeout = 2000');
  // A migration that makes a table anew must not drag along what refers to the old one.
  db.pragma('foreign_keys = OFF');
  db.pragma('legacy_alter_table = ON');
  migrate(db);
  db.pragma('legacy_alter_table = OFF');
  db.pragma('foreign_keys = ON');
  return db;
}

/** Runs the numbered files that this database has not seen, each in a transaction of its own. */
export function migrate(db: Db, folder = migrationsFolder()): void {
  const files = readdirSync(folder)
    .filter((name) => /^\d{3}-.*\.sql$/.test(name))
    .sort();
  const done = db.pragma('user_version', { simple: true }) as number;
  if (done > files.length)
    throw new Error(`The database is of a later version (${done}) than this program knows (${files.length}).`);
  for (const [k, name] of files.entries()) {
    if (k < done) continue;
    db.transaction(() => {
      db.exec(readFileSync(path.join(folder, name), 'utf8'));
      db.pragma(`user_version = ${k + 1}`);
    })();
  }
}
