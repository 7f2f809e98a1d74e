import { z } from 'zod';
import { fieldsOf, kinds, rowSchemas, type Kind } from '@/core/estate/entities';
import { changedFields, type Effect } from '@/core/estate/effects';
import { Estate, type EstateView } from '@/core/estate/estate';
import type { InParts } from '@/core/units/in-parts';
import type { Db } from './database';

/** Rows that are read in one go. */
const ROWS_A_READ = 4000;

const snake = (name: string): string => name.replace(/[A-Z]/g, (letter) => `_${letter.toLowerCase()}`);

/** A field's schema without what makes it optional. */
function inner(schema: unknown): unknown {
  let found = schema;
  while (found instanceof z.ZodDefault || found instanceof z.ZodNullable) found = found.unwrap();
  return found;
}

const fieldsWhere = (kind: Kind, test: (schema: unknown) => boolean): string[] =>
  Object.entries(rowSchemas[kind].shape).flatMap(([field, schema]) => (test(inner(schema)) ? [field] : []));

interface Mapper {
  fields: string[];
  /** Fields that hold a list or a thing, kept as JSON text. */
  lists: readonly string[];
  /** Yes or no, kept as 1 or 0. */
  flags: readonly string[];
  select: string;
  put: string;
  /** Ends the statement that changes some columns. */
  table: string;
  remove: string;
}

const mappers = new Map<Kind, Mapper>(
  kinds.map((kind) => {
    const fields = [...fieldsOf[kind]];
    const columns = fields.map((field) => `"${snake(field)}"`);
    const table = `"${snake(kind)}"`;
    return [
      kind,
      {
        fields,
        lists: fieldsWhere(kind, (schema) => schema instanceof z.ZodArray || schema instanceof z.ZodObject),
        flags: fieldsWhere(kind, (schema) => schema instanceof z.ZodBoolean),
        select: `SELECT max(row), json_group_array(json_array(${columns.join(', ')})) FROM (SELECT rowid AS row, * FROM ${table} WHERE rowid > ? ORDER BY rowid LIMIT ${ROWS_A_READ})`,
        put: `INSERT INTO ${table} (${columns.join(', ')}) VALUES (${fields.map(() => '?').join(', ')}) ON CONFLICT (id) DO UPDATE SET ${columns
          .slice(1)
          .map((column) => `${column} = excluded.${column}`)
          .join(', ')}`,
        table,
        remove: `DELETE FROM ${table} WHERE id = ?`,
      },
    ];
  }),
);

function toColumns(fields: readonly string[], row: Record<string, unknown>): unknown[] {
  return fields.map((field) => {
    const value = row[field];
    if (typeof value === 'boolean') return Number(value);
    return value !== null && typeof value === 'object' ? textOf(value) : value;
  });
}

const update = ({ table }: Mapper, fields: readonly string[]): string =>
  `UPDATE ${table} SET ${fields.map((field) => `"${snake(field)}" = ?`).join(', ')} WHERE id = ?`;

/** Rows never change in place: what was written once as text is the same text again. */
const texts = new WeakMap<object, string>();

/** Shorter texts are made as fast as they are kept. */
const WORTH_KEEPING = 120;

function textOf(value: object): string {
  const known = texts.get(value);
  if (known !== undefined) return known;
  const text = JSON.stringify(value);
  if (text.length > WORTH_KEEPING) texts.set(value, text);
  return text;
}

/**
 * Reads the whole estate, in the order of the kinds. Rows come as text of JSON, some thousand at a time, which is several times faster than a
 * thing a row from the database; numbers keep all their digits.
 */
export function loadEstate(db: Db): Estate {
  const estate = new Estate();
  const readOnce = sharedReader();
  for (const kind of kinds) {
    const mapper = mappers.get(kind)!;
    const read = db.prepare(mapper.select).raw();
    for (let last = 0; ;) {
      const [next, text] = read.get(last) as [number | null, string];
      if (next === null) break;
      const rows = (JSON.parse(text) as unknown[][]).map((values) => fromColumns(mapper, values, readOnce));
      estate.apply(rows.map((row) => ({ kind, id: row.id, before: null, after: row }) as unknown as Effect));
      last = next;
    }
  }
  return estate;
}

/** Rows are never changed in place, so those that say the same may share it. */
function sharedReader(): (text: string) => unknown {
  const known = new Map<string, unknown>();
  return (text) => {
    let value = known.get(text);
    if (value === undefined) {
      value = JSON.parse(text);
      if (text.length < 120) known.set(text, value);
    }
    return value;
  };
}

function fromColumns(
  { fields, flags, lists }: Mapper,
  values: readonly unknown[],
  readOnce: (text: string) => unknown,
): Record<string, unknown> {
  const row: Record<string, unknown> = {};
  for (let k = 0; k < fields.length; k++) row[fields[k]!] = values[k];
  for (const field of flags) row[field] = row[field] === 1;
  for (const field of lists) {
    const text = row[field];
    if (typeof text === 'string') row[field] = readOnce(text);
  }
  return row;
}

const ROWS_AT_ONCE = 100;

/** Puts rows into a database that has none of them, pausing now and then. */
export function* writeRows(db: Db, effects: readonly Effect[]): InParts<void> {
  const statements = new Map<string, ReturnType<Db['prepare']>>();
  for (let from = 0; from < effects.length; from += ROWS_AT_ONCE) {
    writeEffects(db, statements, effects.slice(from, from + ROWS_AT_ONCE));
    yield { done: from, of: effects.length };
  }
}

/**
 * Writes effects; deletions come first, so that a freed name or LUN may be taken within the same commit. Of a row that stands in the database as
 * `present` has it, only the columns that change are written.
 */
export function writeEffects(
  db: Db,
  statements: Map<string, ReturnType<Db['prepare']>>,
  effects: readonly Effect[],
  present?: EstateView,
): void {
  const statement = (sql: string) => {
    let known = statements.get(sql);
    if (!known) statements.set(sql, (known = db.prepare(sql)));
    return known;
  };
  for (const effect of effects) if (!effect.after) statement(mappers.get(effect.kind)!.remove).run(effect.id);
  for (const effect of effects) {
    if (!effect.after) continue;
    const mapper = mappers.get(effect.kind)!;
    const { before, after, kind, id } = effect;
    if (before && present?.table(kind).get(id) === before) {
      const fields = changedFields(kind, before, after);
      if (fields.length > 0) statement(update(mapper, fields)).run([...toColumns(fields, after), id]);
    } else statement(mapper.put).run(toColumns(mapper.fields, after));
  }
}
