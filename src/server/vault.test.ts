import { mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { openDatabase } from '@/store/database';
import { Vault } from './vault';

let folder: string;
beforeEach(() => (folder = mkdtempSync(path.join(os.tmpdir(), 'trabes-vault-'))));
afterEach(() => rmSync(folder, { recursive: true }));

test('equal secrets have equal fingerprints; the file holds neither the secret nor the key', () => {
  const file = path.join(folder, 'a.db');
  const db = openDatabase(file);
  const vault = new Vault(db, file);
  const sealed = vault.seal('north-gate-2031!');
  expect(sealed).toMatch(/^sealed:[0-9a-f]{32}$/);
  expect(vault.seal('north-gate-2031!')).toBe(sealed);
  expect(vault.seal('0x6e6f7274682d676174652d3230333121')).toBe(sealed);
  expect(vault.seal('south-gate-2031!')).not.toBe(sealed);
  expect(Buffer.from(vault.open(sealed.slice(7))!).toString()).toBe('north-gate-2031!');
  const again = new Vault(db, file);
  expect(again.seal(sealed)).toBe(sealed);
  db.pragma('wal_checkpoint(TRUNCATE)');
  db.close();
  expect(readFileSync(file).includes('north-gate-2031!')).toBe(false);
  expect(statSync(path.join(folder, 'a.key')).mode & 0o077).toBe(0);
});

test('what cannot be used is told without the secret; a fingerprint of elsewhere is not known', () => {
  const vault = new Vault(openDatabase(':memory:'), ':memory:');
  expect(vault.seal('short')).toBe('unfit:secret-too-short:5');
  expect(vault.seal('none')).toBe('none');
  expect(vault.seal('sealed:00112233445566778899aabbccddeeff')).toBe('unfit:secret-unknown:0');
});

test('secrets of operations are sealed, and nothing else is touched', () => {
  const vault = new Vault(openDatabase(':memory:'), ':memory:');
  const [operation] = vault.sealed([
    { do: 'host.configure', host: 'gate-1', chapSecret: 'north-gate-2031!', chapName: 'gate-1' },
  ]);
  expect(operation).toMatchObject({
    do: 'host.configure',
    host: 'gate-1',
    chapName: 'gate-1',
    chapSecret: expect.stringMatching(/^sealed:/) as string,
  });
});
