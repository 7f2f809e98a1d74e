import { createCipheriv, createDecipheriv, createHmac, randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import type { OperationDocument } from '@/core/change/registry';
import { checkSecret, secretOctets } from '@/core/iscsi/chap';
import { SECRET_FIELDS, sealedText, unfitText } from '@/core/iscsi/secret';
import type { Db } from '@/store/database';

const NONCE = 12;
const TAG = 16;

/** The key lies in a file of its own beside the database, readable by its owner alone; a database in memory has one that is never written. */
function keyFor(databaseFile: string): Buffer {
  if (databaseFile === ':memory:') return randomBytes(32);
  const file = databaseFile.replace(/(\.db)?$/, '.key');
  if (existsSync(file)) return readFileSync(file);
  const key = randomBytes(32);
  mkdirSync(path.dirname(file), { recursive: true });
  writeFileSync(file, key, { mode: 0o600 });
  return key;
}

/**
 * Keeps secrets sealed (AES-256-GCM). Whatever is planned, kept, shown, logged or exported holds only a keyed fingerprint (HMAC-SHA-256), which
 * is equal just where two secrets are, and tells nothing without the key.
 */
export class Vault {
  private readonly key: Buffer;

  constructor(
    private readonly db: Db,
    databaseFile: string,
  ) {
    this.key = keyFor(databaseFile);
  }

  /** Seals one secret as a person writes it, or says why it cannot be used. What is sealed already, and `none`, stay as they are. */
  seal(text: string): string {
    if (text === '' || text === 'none' || text.startsWith('unfit:')) return text;
    const [kind, fingerprint] = text.split(':');
    if (kind === 'sealed') return this.open(fingerprint ?? '') ? text : unfitText('secret-unknown', 0);
    const read = checkSecret(text);
    if (!read.ok) return unfitText(read.reason, secretOctets(text)?.length ?? 0);
    const print = createHmac('sha256', this.key).update(read.value).digest('hex').slice(0, 32);
    const nonce = randomBytes(NONCE);
    const cipher = createCipheriv('aes-256-gcm', this.key, nonce);
    const box = Buffer.concat([nonce, cipher.update(read.value), cipher.final(), cipher.getAuthTag()]);
    this.db
      .prepare('INSERT INTO sealed_secret (fingerprint, box) VALUES (?, ?) ON CONFLICT DO NOTHING')
      .run(print, box);
    return sealedText(print);
  }

  /** The secret's octets, for a login to be computed; null where it is not known here. */
  open(fingerprint: string): Uint8Array | null {
    const row = this.db.prepare('SELECT box FROM sealed_secret WHERE fingerprint = ?').get(fingerprint) as
      { box: Buffer } | undefined;
    if (!row) return null;
    const { box } = row;
    const decipher = createDecipheriv('aes-256-gcm', this.key, box.subarray(0, NONCE));
    decipher.setAuthTag(box.subarray(box.length - TAG));
    return Buffer.concat([decipher.update(box.subarray(NONCE, box.length - TAG)), decipher.final()]);
  }

  /** Operations with their secrets sealed, before anybody looks at them. */
  sealed<T extends Record<string, unknown>>(parameters: T): T {
    const found = SECRET_FIELDS.filter((field) => typeof parameters[field] === 'string');
    if (found.length === 0) return parameters;
    return {
      ...parameters,
      ...Object.fromEntries(found.map((field) => [field, this.seal(parameters[field] as string)])),
    };
  }

  sealedOperations(operations: readonly OperationDocument[]): OperationDocument[] {
    return operations.map((operation) => this.sealed(operation));
  }
}
