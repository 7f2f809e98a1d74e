import { createHash } from 'node:crypto';
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
} from 'node:fs';
import path from 'node:path';
import { openTrabes } from '../src/server/instance';

/** Whatever the demo is made by. */
const FOLDERS = ['src/core', 'src/server', 'src/store', 'src/devices', 'demo'];
const CACHE = 'node_modules/.cache/trabes-demo';

function* sources(folder: string): Generator<string> {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const file = path.join(folder, entry.name);
    if (entry.isDirectory()) yield* sources(file);
    else if (!/\.(test|fixture)\.tsx?$|\.snap$/.test(entry.name)) yield file;
  }
}

function hashOfSources(): string {
  const hash = createHash('sha256').update(process.versions.modules);
  for (const file of FOLDERS.flatMap((folder) => [...sources(folder)]).sort())
    hash.update(file).update(readFileSync(file));
  return hash.digest('hex').slice(0, 32);
}

/**
 * The database of the demo as it begins. The weeks behind it take many seconds to pass: they pass once for what the sources are, and are copied
 * from then on. Its key lies beside it.
 */
export function preparedDemo(): string {
  const hash = hashOfSources();
  const folder = path.join(CACHE, hash);
  const file = path.join(folder, 'demo.db');
  if (existsSync(file)) return file;
  mkdirSync(CACHE, { recursive: true });
  const fresh = mkdtempSync(path.join(CACHE, 'new-'));
  openTrabes(path.join(fresh, 'demo.db'), 'demo').plant.close();
  // Those of older sources go; not the one of these, which somebody may have made meanwhile and copies from.
  for (const name of readdirSync(CACHE))
    if (name !== hash && !name.startsWith('new-')) rmSync(path.join(CACHE, name), { recursive: true, force: true });
  try {
    renameSync(fresh, folder);
  } catch (error) {
    rmSync(fresh, { recursive: true });
    if (!existsSync(file)) throw error;
  }
  return file;
}

/** Copies the database of the demo, and its key where it is to be opened itself. */
export function copyDemo(to: string, withKey: boolean): void {
  const from = preparedDemo();
  copyFileSync(from, to);
  if (withKey) copyFileSync(from.replace(/\.db$/, '.key'), to.replace(/\.db$/, '.key'));
}
