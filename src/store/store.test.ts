import { mkdtempSync, rmSync, writeFileSync, readdirSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { kinds, rowSchemas } from '@/core/estate/entities';
import { changed, created } from '@/core/estate/effects';
import { rowsOfDocument, estateToDocument } from '@/core/estate/document';
import { differences, estateAfter, mounted, named } from '../../demo/workbench';
import { migrate } from './database';
import { Store } from './store';

let folder: string;
let store: Store;
beforeEach(() => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'trabes-store-'));
  store = new Store(path.join(folder, 'a.db'));
});
afterEach(() => {
  store.close();
  rmSync(folder, { recursive: true });
});

const filled = estateAfter([...mounted, { do: 'host.create', name: 'x', os: 'bsd', site: 'Nordkai', cluster: 'crew' }]);
const allRows = [...rowsOfDocument(estateToDocument(filled))].map(({ kind, row }) => created(kind, row));

test('every field of every kind has its column', () => {
  for (const kind of kinds) {
    const table = kind.replace(/[A-Z]/g, (letter) => `_${letter.toLowerCase()}`);
    const columns = (store.db.pragma(`table_info("${table}")`) as { name: string }[]).map((column) =>
      column.name.replace(/_(.)/g, (_, letter: string) => letter.toUpperCase()),
    );
    expect(columns.sort()).toEqual(Object.keys(rowSchemas[kind].shape).sort());
  }
});

test('of a row that stands as the caller knows it only what changes is written; of any other all of it', () => {
  store.commit({ effects: allRows });
  const estate = store.estate();
  const volume = named(estate, 'volume', 'tickets-1');
  const other = { ...volume, notes: 'not as it stands' };
  store.commit({ effects: [changed('volume', other, { written: 4096 })] }, estate);
  expect(named(store.estate(), 'volume', 'tickets-1')).toEqual({ ...other, written: 4096 });
  const known = store.estate();
  const before = named(known, 'volume', 'tickets-1');
  const after = { holes: [[0, 4096]], givesUp: true, keepUntil: null } as Partial<typeof before>;
  store.commit({ effects: [changed('volume', before, after)] }, known);
  expect(named(store.estate(), 'volume', 'tickets-1')).toEqual({ ...before, ...after });
});

test('an estate is read back as it was written', () => {
  store.commit({ effects: allRows });
  expect(differences(store.estate(), filled)).toEqual([]);
  expect(store.db.pragma('journal_mode', { simple: true })).toBe('wal');
  expect(store.db.pragma('foreign_key_check')).toEqual([]);
});

test('tables are strict, and references are kept', () => {
  store.commit({ effects: allRows });
  const pool = [...filled.table('pool').values()][0]!;
  expect(() => store.commit({ effects: [{ kind: 'pool', id: pool.id, before: pool, after: null }] })).toThrow(
    /FOREIGN KEY/,
  );
  expect(() => store.db.prepare("UPDATE pool SET extent_size = 'large'").run()).toThrow(/TEXT value in INTEGER/);
  expect(differences(store.estate(), filled)).toEqual([]);
});

test('a commit is written whole or not at all', () => {
  store.commit({ effects: allRows, lab: { now: 5, speed: 60 } });
  const volume = [...filled.table('volume').values()][0]!;
  const log = [{ change: null, step: null, atReal: 1, atLab: 1, level: 'info' as const, message: 'never' }];
  // The second effect breaks a rule of the schema.
  expect(() =>
    store.commit({
      lab: { now: 9, speed: 1 },
      log,
      effects: [
        changed('volume', volume, { name: 'renamed' }),
        changed('volume', volume, { written: volume.size + 1 }),
      ],
    }),
  ).toThrow(/CHECK/);
  expect(store.estate().table('volume').get(volume.id)!.name).toBe(volume.name);
  expect(store.lab()).toEqual({ now: 5, speed: 60 });
  expect(store.db.prepare('SELECT count(*) AS n FROM log').get()).toEqual({ n: 0 });
});

test('a freed name may be taken in the same commit', () => {
  store.commit({ effects: allRows });
  const site = { id: 'site_new', name: 'Farsund', purpose: '' };
  store.commit({ effects: [created('site', site)] });
  store.commit({
    effects: [created('site', { ...site, id: 'site_other' }), { kind: 'site', id: site.id, before: site, after: null }],
  });
  expect(store.estate().table('site').get('site_other')!.name).toBe('Farsund');
});

test('migrations run once each, and a database of a later version is not touched', () => {
  const migrations = path.join(folder, 'migrations');
  const known = readdirSync('src/store/migrations').length;
  expect(store.db.pragma('user_version', { simple: true })).toBe(known);
  migrate(store.db);
  expect(store.db.pragma('user_version', { simple: true })).toBe(known);
  expect(() => migrate(store.db, folder)).toThrow(/later version/);
  expect(migrations).toContain(folder);
  for (let k = 1; k <= known; k++) writeFileSync(path.join(folder, `${String(k).padStart(3, '0')}-a.sql`), '');
  writeFileSync(path.join(folder, '999-e.sql'), 'CREATE TABLE good (a TEXT) STRICT; CREATE TABLE bad (');
  expect(() => migrate(store.db, folder)).toThrow();
  expect(store.db.prepare("SELECT count(*) AS n FROM sqlite_master WHERE name = 'good'").get()).toEqual({ n: 0 });
});
