import { z } from 'zod';
import { kinds, rowSchemas, type Kind, type Rows } from '@/core/estate/entities';
import type { Effect } from '@/core/estate/effects';
import { Estate } from '@/core/estate/estate';
import type { InParts } from '@/core/units/in-parts';
import type { Db } from './database';

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
  remove: string;
}

const mappers = new Map<Kind, Mapper>(
  kinds.map((kind) => {
    const fields = Object.keys(rowSchemas[kind].shape);
    const columns = fields.map((field) => `"${snake(field)}"`);
    const table = `"${snake(kind)}"`;
    return [
      kind,
      {
        fields,
        lists: fieldsWhere(kind, (schema) => schema instanceof z.ZodArray || schema instanceof z.ZodObject),
        flags: fieldsWhere(kind, (schema) => schema instanceof z.ZodBoolean),
        select: `SELECT ${columns.map((column, k) => `${column} AS "${fields[k]}"`).join(', ')} FROM ${table}`,
        put: `INSERT INTO ${table} (${columns.join(', ')}) VALUES (${fields.map(() => '?').join(', ')}) ON CONFLICT (id) DO UPDATE SET ${columns
          .slice(1)
          .map((column) => `${column} = excluded.${column}`)
          .join(', ')}`,
        remove: `DELETE FROM ${table} WHERE id = ?`,
      },
    ];
  }),
);

function toColumns(mapper: Mapper, row: Record<string, unknown>): unknown[] {
  return mapper.fields.map((field) => {
    const value = row[field];
    if (typeof value === 'boolean') return Number(value);
    return value !== null && typeof value === 'object' ? JSON.stringify(value) : value;
  });
}

/** Reads the whole estate, in the order of the kinds. */
export function loadEstate(db: Db): Estate {
  const estate = new Estate();
  // Rows are never changed in place, so those that say the same may share it.
  const known = new Map<string, unknown>();
  const readOnce = (text: string): unknown => {
    let value = known.get(text);
    if (value === undefined) {
      value = JSON.parse(text);
      if (text.length < 120) known.set(text, value);
    }
    return value;
  };
  for (const kind of kinds) {
    const mapper = mappers.get(kind)!;
    for (const row of db.prepare(mapper.select).all() as Record<string, unknown>[]) {
      for (const field of mapper.flags) row[field] = row[field] === 1;
      for (const field of mapper.lists) {
        const text = row[field];
        if (typeof text === 'string') row[field] = readOnce(text);
      }
      estate.apply([{ kind, id: row.id, before: null, after: row as unknown as Rows[Kind] } as Effect]);
    }
  }
  return estate;
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

/** Writes effects; deletions come first, so that a freed name or LUN may be taken within the same commit. */
export function writeEffects(
  db: Db,
  statements: Map<string, ReturnType<Db['prepare']>>,
  effects: readonly Effect[],
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
    statement(mapper.put).run(toColumns(mapper, effect.after));
  }
}
