import { createCipheriv, createDecipheriv, createHmac, randomBytes } from 'node:crypto';
import { existsSync, chmodSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import type { OperationDocument } from '@/core/change/registry';
import { checkSecret, secretOctets } from '@/core/iscsi/chap';
import { sealedText, unfitText } from '@/core/iscsi/secret';
import { isSecretField } from '@/core/kinds/secret-field';
import { CannotOpen } from '@/store/cannot-open';
import type { Db } from '@/store/database';

const NONCE = 12;
const TAG = 16;
const KEY = 32;
const PRINT = /^[0-9a-f]{32}$/;
/** A setting that tells whether the key beside the database is the one that sealed what lies in it. */
const KEY_CHECK = 'key check';

const keyFileOf = (databaseFile: string): string => databaseFile.replace(/(\.db)?$/, '.key');

/** The key lies in a file of its own beside the database, readable by its owner alone; a database in memory has one that is never written. */
function readKey(databaseFile: string): Buffer | null {
  const file = keyFileOf(databaseFile);
  if (!existsSync(file)) return null;
  chmodSync(file, 0o600);
  return readFileSync(file);
}

function makeKey(databaseFile: string): Buffer {
  const file = keyFileOf(databaseFile);
  const key = randomBytes(KEY);
  mkdirSync(path.dirname(file), { recursive: true });
  writeFileSync(file, key, { mode: 0o600 });
  return key;
}

const checkOf = (key: Buffer): string => createHmac('sha256', key).update('trabes key').digest('hex');

/**
 * Keeps secrets sealed (AES-256-GCM). What is planned, kept and stored holds only a keyed fingerprint (HMAC-SHA-256), equal just where two
 * secrets are. What is shown or exported holds a veil of that, another one in every place, so that readers do not learn which secrets are equal.
 */
export class Vault {
  private readonly key: Buffer;

  /** @throws CannotOpen where the key is missing, is another's, or is no key; it is never replaced unless that is asked for. */
  constructor(
    private readonly db: Db,
    databaseFile: string,
    newKey = false,
  ) {
    this.key = databaseFile === ':memory:' ? randomBytes(KEY) : this.keyFor(databaseFile, newKey);
  }

  private keyFor(databaseFile: string, newKey: boolean): Buffer {
    const file = keyFileOf(databaseFile);
    const found = readKey(databaseFile);
    const check = this.setting();
    const sealed = (this.db.prepare('SELECT count(*) AS n FROM sealed_secret').get() as { n: number }).n;
    const wrong = !found
      ? 'is missing'
      : found.length !== KEY
        ? `is no key: it has ${found.length} bytes instead of ${KEY}`
        : (check !== undefined && check !== checkOf(found)) || !this.opensWith(found)
          ? 'is the key of another database'
          : null;
    if (wrong === null) return this.remember(found!);
    // A database that never had a key, and seals nothing, gets its own.
    const nothingLost = sealed === 0 && (check === undefined || found === null);
    if (newKey || nothingLost) {
      if (check !== undefined || found) console.error(`The key ${file} ${wrong}; a new one was made.`);
      this.db.prepare('DELETE FROM sealed_secret').run();
      return this.remember(makeKey(databaseFile));
    }
    throw new CannotOpen(
      `${sealed} ${sealed === 1 ? 'secret is' : 'secrets are'} sealed in the database, and their key ${file} ${wrong}.`,
      'Put the right key file back. To give the secrets up and write them anew, start once with TRABES_NEW_KEY=yes.',
    );
  }

  private setting(): string | undefined {
    return (this.db.prepare('SELECT value FROM setting WHERE name = ?').get(KEY_CHECK) as { value: string } | undefined)
      ?.value;
  }

  private remember(key: Buffer): Buffer {
    if (this.setting() !== checkOf(key))
      this.db
        .prepare(
          'INSERT INTO setting (name, value) VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value',
        )
        .run(KEY_CHECK, checkOf(key));
    return key;
  }

  /** Whether a key opens what is sealed; true where nothing is. */
  private opensWith(key: Buffer): boolean {
    const row = this.db.prepare('SELECT box FROM sealed_secret LIMIT 1').get() as { box: Buffer } | undefined;
    if (!row) return true;
    try {
      unboxed(key, row.box);
      return true;
    } catch {
      return false;
    }
  }

  /** Seals one secret as a person writes it, or says why it cannot be used. What is sealed already, and `none`, stay as they are. */
  seal(text: string, keep = true): string {
    if (text === '' || text === 'none' || text.startsWith('unfit:')) return text;
    const [kind, written = ''] = text.split(':');
    if (kind === 'sealed') {
      const print = this.unveil(written);
      return print !== null && this.open(print) ? sealedText(print) : unfitText('secret-unknown', 0);
    }
    const read = checkSecret(text);
    if (!read.ok) return unfitText(read.reason, secretOctets(text)?.length ?? 0);
    const print = createHmac('sha256', this.key).update(read.value).digest('hex').slice(0, 32);
    if (keep)
      this.db
        .prepare('INSERT INTO sealed_secret (fingerprint, box) VALUES (?, ?) ON CONFLICT DO NOTHING')
        .run(print, boxed(this.key, randomBytes(NONCE), read.value));
    return sealedText(print);
  }

  /** The secret's octets, for a login to be computed; null where it is not known here. */
  open(fingerprint: string): Uint8Array | null {
    const row = this.db.prepare('SELECT box FROM sealed_secret WHERE fingerprint = ?').get(fingerprint) as
      { box: Buffer } | undefined;
    return row ? unboxed(this.key, row.box) : null;
  }

  /** Operations with their secrets sealed, before anybody looks at them. */
  sealed(operations: readonly OperationDocument[]): OperationDocument[] {
    return operations.map((operation) => inSecrets(operation, (text) => this.seal(text)));
  }

  /** The same for what is only looked at: nothing is kept of it. */
  printed(operations: readonly OperationDocument[]): OperationDocument[] {
    return operations.map((operation) => inSecrets(operation, (text) => this.seal(text, false)));
  }

  /** A fingerprint as readers see it: another text in every place. */
  veil(print: string, place: string): string {
    if (!PRINT.test(print)) return print;
    const nonce = createHmac('sha256', this.key).update(`${place}\n${print}`).digest().subarray(0, NONCE);
    return boxed(this.key, nonce, Buffer.from(print, 'hex')).toString('base64url');
  }

  /** The fingerprint under a veil; null where it is not one of ours. */
  unveil(veiled: string): string | null {
    if (PRINT.test(veiled)) return veiled;
    const box = Buffer.from(veiled, 'base64url');
    if (box.length !== NONCE + KEY / 2 + TAG) return null;
    try {
      return unboxed(this.key, box).toString('hex');
    } catch {
      return null;
    }
  }

  /** Operations as readers see them. */
  veiled(operations: readonly OperationDocument[], place: string): OperationDocument[] {
    return operations.map((operation, k) =>
      inSecrets(operation, (text, field) => {
        const [kind, print = ''] = text.split(':');
        return kind === 'sealed' ? sealedText(this.veil(print, `${place} ${k} ${field}`)) : text;
      }),
    );
  }

  /** A row as readers see it. */
  veiledRow<R extends { id: string }>(row: R): R {
    return inSecrets(row as R & Record<string, unknown>, (text, field) => this.veil(text, `${row.id} ${field}`));
  }

  /** A row as it was exported, with the fingerprints that are ours under their veils. */
  unveiledRow<R extends { id: string }>(row: R): R {
    return inSecrets(row as R & Record<string, unknown>, (text) => this.unveil(text) ?? text);
  }

  /** Takes sealed secrets away to which neither the estate, nor a draft, nor a step that could be taken back refers. */
  forgetUnused(): void {
    const prints = this.db.prepare('SELECT fingerprint FROM sealed_secret').all() as { fingerprint: string }[];
    if (prints.length === 0) return;
    const places = [
      'SELECT 1 FROM host WHERE chap_secret = @print OR target_secret = @print',
      'SELECT 1 FROM initiator WHERE chap_secret = @print',
      'SELECT 1 FROM target WHERE chap_secret = @print OR instr(accounts, @print)',
      'SELECT 1 FROM partner WHERE shown_secret = @print OR expected_secret = @print',
      'SELECT 1 FROM auth_server WHERE secret = @print OR instr(accounts, @print)',
      'SELECT 1 FROM change_operation WHERE instr(document, @print)',
      'SELECT 1 FROM change_step WHERE instr(effects, @print)',
    ].map((sql) => this.db.prepare(`${sql} LIMIT 1`));
    const forget = this.db.prepare('DELETE FROM sealed_secret WHERE fingerprint = ?');
    for (const { fingerprint } of prints)
      if (!places.some((place) => place.get({ print: fingerprint }))) forget.run(fingerprint);
  }
}

function boxed(key: Buffer, nonce: Buffer, plain: Uint8Array): Buffer {
  const cipher = createCipheriv('aes-256-gcm', key, nonce);
  return Buffer.concat([nonce, cipher.update(plain), cipher.final(), cipher.getAuthTag()]);
}

function unboxed(key: Buffer, box: Buffer): Buffer {
  const decipher = createDecipheriv('aes-256-gcm', key, box.subarray(0, NONCE));
  decipher.setAuthTag(box.subarray(box.length - TAG));
  return Buffer.concat([decipher.update(box.subarray(NONCE, box.length - TAG)), decipher.final()]);
}

/** A thing with every field that looks like a secret passed through, at any depth. One that is no text cannot be used, nor be kept. */
function inSecrets<T extends Record<string, unknown>>(thing: T, through: (text: string, field: string) => string): T {
  let found = false;
  const out = Object.fromEntries(
    Object.entries(thing).map(([field, value]) => {
      const put = (next: unknown) => {
        found ||= next !== value;
        return [field, next] as const;
      };
      if (isSecretField(field)) {
        if (value === null || value === undefined) return [field, value] as const;
        return put(typeof value === 'string' ? through(value, field) : unfitText('secret-not-text', 0));
      }
      if (Array.isArray(value)) {
        const list = value.map((one: unknown) => (isThing(one) ? inSecrets(one, through) : one));
        return put(list.some((one, k) => one !== value[k]) ? list : value);
      }
      return isThing(value) ? put(inSecrets(value, through)) : ([field, value] as const);
    }),
  );
  return found ? (out as T) : thing;
}

const isThing = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
