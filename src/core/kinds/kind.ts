import type { z } from 'zod';

/**
 * What a field refers to, and what becomes of its row when that goes: `refuse` keeps the other from going, `goes-along` lets the row be taken
 * away with it. `by` names the index under which the rows that refer to something are found, the field's own name unless said; null where
 * there are so few rows that they are looked through.
 */
export interface Relation<
  To extends string = string,
  By extends string | null | undefined = string | null | undefined,
> {
  to: To;
  by: By;
  onDelete: 'refuse' | 'goes-along';
}

const relation =
  (onDelete: Relation['onDelete']) =>
  <const To extends string, const By extends string | null | undefined = undefined>(
    to: To,
    { by }: { by?: By } = {},
  ): Relation<To, By> => ({ to, by: by as By, onDelete });

/** Refers to something that cannot go while this row stands. */
export const to = relation('refuse');
/** Refers to something with which this row goes. */
export const goesWith = relation('goes-along');

/** Fields that together occur once, and the index by which others that share them are found. */
export interface Together {
  fields: readonly string[];
  by: string;
}

/** Of a kind that says nothing of the sort. */
type Nothing = Readonly<Record<never, never>>;

export type Keys<R> = (row: R) => readonly string[];

/**
 * One kind of row, all that is to be known of it: tables, columns, indexes, references, keys and their statements, the API's collections, the
 * estate's document and the rule book are derived from it. Rows are flat, names are the trade's, a reference holds an id.
 */
export interface KindDeclaration {
  /** How one and how many are called in a sentence. */
  words: readonly [string, string];
  /** Ids begin with it. */
  prefix: string;
  /** Its collection in the API. */
  path: string;
  row: z.ZodObject;
  refers?: Readonly<Record<string, Relation>>;
  /** Where its name occurs once, in any letters: everywhere (''), or within what this field refers to. */
  named?: string;
  /** Fields whose value occurs once. */
  once?: readonly string[];
  unique?: readonly Together[];
  /** Further questions that are asked of it: the keys under which a row is found. */
  indexes?: Readonly<Record<string, (row: never) => readonly string[]>>;
  /** Fields by which people look for it, beside its name, and what they call them. */
  searched?: Readonly<Record<string, string>>;
}

export const kind = <
  Row extends z.ZodObject,
  const Refers extends { readonly [F in keyof z.output<Row>]?: Relation } = Nothing,
  const Named extends '' | (keyof z.output<Row> & string) = never,
  const Once extends keyof z.output<Row> & string = never,
  const Index extends string = never,
>(declaration: {
  words: readonly [string, string];
  prefix: string;
  path: string;
  row: Row;
  refers?: Refers;
  named?: Named;
  once?: readonly Once[];
  unique?: readonly { fields: readonly (keyof z.output<Row> & string)[]; by: string }[];
  indexes?: { readonly [I in Index]: Keys<z.output<Row>> };
  searched?: { readonly [F in keyof z.output<Row>]?: string };
}) => declaration;

export type RowOf<D extends { row: z.ZodObject }> = z.output<D['row']>;

/** The name under which people find a row: unique within its array or kind. */
export const nameKey = (scope: string, name: string): string => `${scope}\n${name.toLowerCase()}`;
