/** A column of a packed table: each value as it is, or few values and which of them stands in each row. */
export type Column = readonly unknown[] | { of: readonly unknown[]; at: readonly number[] };

/** Rows laid down column by column, which takes a fraction of the room of a list of things. */
export interface Packed<R> {
  rows: number;
  columns: { readonly [F in keyof R]: Column };
}

/** Values that repeat less often than this share of the rows are worth no list of their own. */
const FEW = 0.25;

/** Lays rows down column by column; all have the fields of the first. Values are what JSON can hold. */
export function packed<R extends object>(rows: readonly R[]): Packed<R> {
  const columns = Object.fromEntries(
    Object.keys(rows[0] ?? {}).map((field) => [
      field,
      columnOf(rows.map((row) => (row as Record<string, unknown>)[field])),
    ]),
  ) as Packed<R>['columns'];
  return { rows: rows.length, columns };
}

function columnOf(values: readonly unknown[]): Column {
  const places = new Map<unknown, number>();
  const of: unknown[] = [];
  const at: number[] = [];
  for (const value of values) {
    const key = typeof value === 'object' && value !== null ? JSON.stringify(value) : value;
    let place = places.get(key);
    if (place === undefined) {
      place = of.length;
      places.set(key, place);
      of.push(value);
    }
    at.push(place);
    if (of.length > values.length * FEW) return values;
  }
  return { of, at };
}

const valueAt = (column: Column, k: number): unknown => ('of' in column ? column.of[column.at[k]!] : column[k]);

/** The rows that were packed. Equal things in a column are one and the same thing. */
export function unpacked<R extends object>({ rows, columns }: Packed<R>): R[] {
  const fields = Object.entries<Column>(columns);
  return Array.from(
    { length: rows },
    (_, k) => Object.fromEntries(fields.map(([field, column]) => [field, valueAt(column, k)])) as R,
  );
}
