import { z } from 'zod';
import { declarations } from '../kinds/all';
import type { KindDeclaration, Relation } from '../kinds/kind';

export * from '../kinds/all';

export type Kind = keyof typeof declarations;
type Declarations = { [K in Kind]: (typeof declarations)[K] };
export type Rows = { [K in Kind]: z.output<Declarations[K]['row']> };
export type Row<K extends Kind = Kind> = Rows[K];

/** Kinds in the order in which documents and databases hold them. */
export const kinds = Object.keys(declarations) as Kind[];

/** A relation that names no kind does not compile. */
declarations satisfies Record<Kind, { refers?: Readonly<Record<string, Relation<Kind> | undefined>> }>;

/** Kinds by name, whichever they are. */
export const kindOf: Readonly<Record<Kind, KindDeclaration>> = declarations;

const ofEach = <T>(value: (kind: Kind) => T): Record<Kind, T> =>
  Object.fromEntries(kinds.map((kind) => [kind, value(kind)])) as Record<Kind, T>;

export const rowSchemas = ofEach((kind) => kindOf[kind].row) as unknown as { [K in Kind]: Declarations[K]['row'] };

/** Names of the fields of a kind's rows. */
export const fieldsOf = ofEach((kind): readonly string[] => Object.keys(rowSchemas[kind].shape));

/** How a kind is called in a sentence. */
export const kindWords = ofEach((kind) => kindOf[kind].words[0]);

export const idFor = (kind: Kind, unique: string): string => `${kindOf[kind].prefix}_${unique}`;

/** Values of the fields that a row need not name. */
const defaults = ofEach((kind) =>
  Object.fromEntries(
    Object.entries(rowSchemas[kind].shape).flatMap(([field, schema]) =>
      schema instanceof z.ZodDefault ? [[field, schema.parse(undefined)]] : [],
    ),
  ),
) as unknown as { [K in Kind]: Partial<Rows[K]> };

/** A row with the usual values where none are given. */
export const rowOf = <K extends Kind>(kind: K, given: z.input<Declarations[K]['row']>): Rows[K] =>
  ({ ...defaults[kind], ...given }) as unknown as Rows[K];
