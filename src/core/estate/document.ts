import { z } from 'zod';
import { kinds, rowSchemas, type Kind, type Rows } from './entities';
import { Estate, type EstateView } from './estate';
import { byCodePoint } from '../units/order';

/** The whole estate as one document: a list a kind, each row as it is. */
export const estateDocument = z.strictObject({
  trabes: z.literal(1),
  estate: z.strictObject(
    Object.fromEntries(kinds.map((kind) => [kind, z.array(rowSchemas[kind]).default([])])) as {
      [K in Kind]: z.ZodDefault<z.ZodArray<(typeof rowSchemas)[K]>>;
    },
  ),
});
export type EstateDocument = z.output<typeof estateDocument>;

/** Rows by id, fields in the order of their schema: the same rows always give the same text. */
export function documentRows<K extends Kind>(kind: K, rows: Iterable<Rows[K]>): Rows[K][] {
  const fields = Object.keys(rowSchemas[kind].shape);
  return [...rows]
    .sort((a, b) => byCodePoint(a.id, b.id))
    .map(
      (row) =>
        Object.fromEntries(
          fields.map((field) => [field, (row as Record<string, unknown>)[field]]),
        ) as unknown as Rows[K],
    );
}

export const estateToDocument = (view: EstateView): EstateDocument => ({
  trabes: 1,
  estate: Object.fromEntries(
    kinds.map((kind) => [kind, documentRows(kind, view.table(kind).values())]),
  ) as unknown as EstateDocument['estate'],
});

export function* rowsOfDocument(document: EstateDocument): Iterable<{ kind: Kind; row: Rows[Kind] }> {
  for (const kind of kinds) for (const row of document.estate[kind]) yield { kind, row: row };
}

export const estateFromDocument = (document: EstateDocument): Estate => Estate.of(rowsOfDocument(document));
