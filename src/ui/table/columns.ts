import type { ReactNode } from 'react';

export type CellValue = string | number | boolean | null | undefined;

/** One column of a table: what a row says in it, and how that is shown. */
export interface Column<R> {
  /** Stands in the head, in the choice of columns and in the CSV. */
  head: string;
  /** What is sorted, filtered and written to the CSV. */
  value: (row: R) => CellValue;
  /** How it is shown, where that is more than the value. */
  cell?: (row: R) => ReactNode;
  /** In which the value is written to the CSV, where the head does not say it. */
  unit?: string;
  /** Numbers stand at the right, in figures of one width. */
  kind?: 'text' | 'name' | 'number' | 'mono' | 'muted';
  /** Of the cells, by row where it depends on it. */
  className?: string | ((row: R) => string);
  /** Of the head and the cells. */
  width?: string;
  /** Said of a cell when the pointer rests on it. */
  title?: (row: R) => string;
  /** Its head is heard, not seen: a column of marks. */
  silent?: boolean;
}

/** A column of things to do: neither sorted nor written away. */
export interface Deeds<R> {
  head: string;
  /** Its head is seen. */
  seen?: boolean;
  deeds: (row: R) => ReactNode;
}

export type AnyColumn<R> = Column<R> | Deeds<R>;

export const isDeeds = <R>(column: AnyColumn<R>): column is Deeds<R> => 'deeds' in column;

/** Columns that say something, without those to do something in. */
export const saying = <R>(columns: readonly AnyColumn<R>[]): Column<R>[] =>
  columns.filter((column): column is Column<R> => !isDeeds(column));

/** What a row says in all its columns, for a search by words. */
export const textOfRow = <R>(columns: readonly AnyColumn<R>[], row: R): string =>
  saying(columns)
    .map((column) => textOf(column.value(row)))
    .join('\n')
    .toLowerCase();

export const textOf = (value: CellValue): string => {
  if (value === null || value === undefined) return '';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return String(value);
};
