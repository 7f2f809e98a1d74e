import { kindOf, kinds, type Kind, type Row, type Rows } from './entities';
import type { EstateView } from './estate';

/**
 * What a row refers to, and what becomes of it when that goes: `refuse` keeps the other from going, `goes-along` lets it be taken away
 * with the other. The store's foreign keys, the import's checks and undo all follow this one table.
 */
export interface Reference<K extends Kind = Kind> {
  from: K;
  field: keyof Rows[K] & string;
  to: Kind;
  onDelete: 'refuse' | 'goes-along';
  /** The index by which the rows that refer to something are found; null where they are looked through. */
  by: string | null;
}

export const references: readonly Reference[] = kinds.flatMap((from) =>
  Object.entries(kindOf[from].refers ?? {}).map(
    ([field, { to, onDelete, by }]) =>
      ({ from, field, to, onDelete, by: by === undefined ? field : by }) as unknown as Reference,
  ),
);

/** The ids a row's field refers to: none, one or several. */
export function referredIds(row: Row, field: string): readonly string[] {
  const value = (row as unknown as Record<string, unknown>)[field];
  if (value === null || value === undefined) return [];
  return Array.isArray(value) ? (value as string[]) : [value as string];
}

/** The rows that refer to the id, by index where there is one. */
export function rowsReferring(view: EstateView, { from, field, by }: Reference, id: string): readonly Rows[Kind][] {
  const table = view.table(from);
  if (by !== null) return table.by(by as never, id).filter((row) => referredIds(row, field).includes(id));
  return [...table.values()].filter((row) => referredIds(row, field).includes(id));
}
