import Database from 'better-sqlite3';
import { copyFileSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { gunzipSync } from 'node:zlib';
import os from 'node:os';
import path from 'node:path';
import { readChange, readSteps } from './change-rows';
import { estateDocument, estateFromDocument, estateToDocument, type EstateDocument } from '@/core/estate/document';
import { brokenRules } from '@/core/rules/book';
import { migrate } from './database';
import { Store } from './store';

test('steps that were recorded before their device was know it by its name afterwards', () => {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'trabes-before-'));
  for (const name of readdirSync('src/store/migrations').sort().slice(0, 4))
    copyFileSync(path.join('src/store/migrations', name), path.join(folder, name));
  const db = new Database(':memory:');
  db.pragma('legacy_alter_table = ON');
  db.pragma('foreign_keys = OFF');
  migrate(db, folder);
  db.exec(`INSERT INTO site (id, name, purpose) VALUES ('site_a', 'Nordkai', '');
    INSERT INTO array (id, name, site, model, iqn, company_id) VALUES ('arr_a', 'lintel-1', 'site_a', 'Lintel 40', 'iqn', '00a66d');
    UPDATE array SET auth = 'mutual';
    INSERT INTO fabric (id, name, default_zone, merge_control, ra_tov, ed_tov, zone_pattern, alias_pattern)
      VALUES ('fab_a', 'A', 'deny', 'allow', 1, 1, '', '');
    INSERT INTO change (id, title, state, origin, created_real, created_lab) VALUES ('chg_a', 'Old', 'done', 'api', 1, 1);`);
  const step = db.prepare(
    "INSERT INTO change_step (change, n, operation, unit, title, device, takes, state, effects, notes) VALUES ('chg_a', ?, 0, 0, 't', ?, 1, 'done', '[]', '[]')",
  );
  ['lintel-1', 'fabric A', 'gone-9'].forEach((device, n) => step.run(n, device));
  migrate(db);
  expect(readSteps(db, 'chg_a').map((row) => row.device)).toEqual([
    { kind: 'array', id: 'arr_a', name: 'lintel-1' },
    { kind: 'fabric', id: 'fab_a', name: 'fabric A' },
    { kind: 'record', id: '', name: 'gone-9' },
  ]);
  expect(readChange(db, 'chg_a')).toMatchObject({ title: 'Old', revision: 1 });
  // What an array told of its one target is its main target's now, also in what was carried out before.
  expect(db.prepare('SELECT id, name, array, iqn, main, auth FROM target').all()).toEqual([
    { id: 'tgt_a', name: 'main', array: 'arr_a', iqn: 'iqn', main: 1, auth: 'mutual' },
  ]);
  expect(db.prepare('SELECT name FROM array').all()).toEqual([{ name: 'lintel-1' }]);
  const row = { id: 'arr_a', name: 'lintel-1', site: 'site_a', iqn: 'iqn', auth: 'none' };
  const effects = [{ kind: 'array', id: 'arr_a', before: row, after: { ...row, auth: 'mutual' } }];
  db.prepare('UPDATE change_step SET effects = ? WHERE n = 0').run(JSON.stringify(effects));
  expect(readSteps(db, 'chg_a')[0]!.effects).toMatchObject([
    { kind: 'target', id: 'tgt_a', before: { auth: 'none' }, after: { auth: 'mutual', array: 'arr_a' } },
  ]);
  db.close();
  rmSync(folder, { recursive: true });
});

describe('what was kept before kinds were declared in files of their own', () => {
  const kept = (file: string) => gunzipSync(readFileSync(path.join('src/store/before', file)));
  const document = JSON.parse(kept('estate.json.gz').toString()) as EstateDocument;
  /** As it went out, without what kinds and fields have come to be since. */
  const asBefore = (now: EstateDocument): unknown => ({
    ...now,
    estate: Object.fromEntries(
      Object.entries(document.estate).map(([kind, rows]) => {
        const [known = {}] = rows as object[];
        const fields = (now.estate as unknown as Record<string, Record<string, unknown>[]>)[kind]!;
        return [kind, fields.map((row) => Object.fromEntries(Object.entries(row).filter(([field]) => field in known)))];
      }),
    ),
  });

  test('an export comes in as it went out', () => {
    const read = estateDocument.parse(document);
    expect(asBefore(estateToDocument(estateFromDocument(read)))).toEqual(document);
    expect(brokenRules(estateFromDocument(read))).toEqual([]);
  });

  test('a database opens, and holds the same rows', () => {
    const folder = mkdtempSync(path.join(os.tmpdir(), 'trabes-kept-'));
    const file = path.join(folder, 'trabes.db');
    writeFileSync(file, kept('estate.db.gz'));
    const store = new Store(file);
    expect(asBefore(estateToDocument(store.estate()))).toEqual(document);
    store.close();
    rmSync(folder, { recursive: true });
  });
});
