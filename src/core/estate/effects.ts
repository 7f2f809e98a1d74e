import { fieldsOf, type Kind, type Rows } from './entities';

/** A row put (`after`), replaced (both) or deleted (`after` is null). */
export type Effect = {
  [K in Kind]: { kind: K; id: string; before: Rows[K] | null; after: Rows[K] | null };
}[Kind];

export const created = <K extends Kind>(kind: K, row: Rows[K]): Effect =>
  ({ kind, id: row.id, before: null, after: row }) as Effect;

export const changed = <K extends Kind>(kind: K, before: Rows[K], fields: Partial<Rows[K]>): Effect =>
  ({ kind, id: before.id, before, after: { ...before, ...fields } }) as unknown as Effect;

export const deleted = <K extends Kind>(kind: K, row: Rows[K]): Effect =>
  ({ kind, id: row.id, before: row, after: null }) as Effect;

/** The fields in which a row differs from what it was; values are compared by identity, since rows never change in place. */
export function changedFields(kind: Kind, before: Rows[Kind], after: Rows[Kind]): readonly string[] {
  const [was, is] = [before as Record<string, unknown>, after as Record<string, unknown>];
  const fields: string[] = [];
  for (const field of fieldsOf[kind]) if (was[field] !== is[field]) fields.push(field);
  return fields;
}

/** One effect a row: what several in turn do to it. A row that comes and goes within them leaves none. */
export function compacted(effects: readonly Effect[]): Effect[] {
  const last = new Map<string, Effect>();
  for (const effect of effects) {
    const key = `${effect.kind} ${effect.id}`;
    const before = last.get(key);
    last.set(key, before ? ({ ...effect, before: before.before } as Effect) : effect);
  }
  return last.size === effects.length
    ? [...effects]
    : [...last.values()].filter((effect) => effect.before !== null || effect.after !== null);
}

/** How a row is called in a sentence. */
export function rowName(kind: Kind, row: Rows[Kind]): string {
  if ('name' in row) return row.name;
  if (kind === 'drive') return `slot ${(row as Rows['drive']).slot}`;
  if (kind === 'mapping') return `LUN ${(row as Rows['mapping']).lun}`;
  return row.id;
}
