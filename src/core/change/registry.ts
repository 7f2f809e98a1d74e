import { z } from 'zod';
import { nearMiss } from '../naming/nearness';
import type { OperationType } from '../operation/operation';
import type { RecipeType } from '../operation/recipe';
import { inWords, misfit } from '../operation/misfit';
import type { Refusal } from '../operation/refusal';
import { recipeTypes } from './recipes';
import { operationsByRoom } from './operations';

/** Every operation there is, in the order of the chain. Forms, API, OpenAPI and change files read this list. */
export const operationTypes = Object.values(operationsByRoom).flat() as unknown as readonly OperationType[];

const byKind = new Map(operationTypes.map((type) => [type.kind, type]));

export const operationType = (kind: string): OperationType | undefined => byKind.get(kind);

const recipesByKind = new Map(recipeTypes.map((type) => [type.kind, type]));
/** What can be asked for in a change: an operation, or a recipe that unfolds to some. */
export const askable = (kind: string): OperationType | RecipeType | undefined =>
  byKind.get(kind) ?? recipesByKind.get(kind);

/** An operation as change files and the API write it: what to do, and its parameters beside it. */
export const operationDocument = z.looseObject({ do: z.string() });
export type OperationDocument = z.output<typeof operationDocument>;

type Read<Type> = { ok: true; type: Type; params: unknown } | { ok: false; refusals: Refusal[] };
export type ReadOperation = Read<OperationType>;

const parameterNames = (type: OperationType | RecipeType): string[] => Object.keys((type.schema as z.ZodObject).shape);

/** Checks an operation's kind and parameters against the registry. */
export const readOperation = (document: OperationDocument): ReadOperation =>
  read(document, operationType(document.do), [...byKind.keys()]);
/** The same for a recipe; null where the document is none. */
export const readRecipe = (document: OperationDocument): Read<RecipeType> | null => {
  const type = recipesByKind.get(document.do);
  return type ? read(document, type, []) : null;
};

function read<Type extends OperationType | RecipeType>(
  document: OperationDocument,
  type: Type | undefined,
  known: readonly string[],
): Read<Type> {
  const { do: kind, ...given } = document;
  if (!type) {
    const near = nearMiss(kind, [...known, ...recipesByKind.keys()]);
    return no({
      code: 'operation-unknown',
      field: 'do',
      subject: { kind: 'operation', name: kind },
      message: `There is no operation ${kind || 'without a name'}.`,
      mend: near ? `Perhaps ${near.known} is meant.` : `Known are: ${known.join(', ')}.`,
    });
  }
  const names = parameterNames(type);
  const strange = Object.keys(given).find((name) => !names.includes(name));
  if (strange !== undefined) {
    const near = nearMiss(strange, names);
    return no({
      code: 'parameter-unknown',
      field: strange,
      subject: { kind: 'operation', name: kind },
      message: `${kind} takes no ${strange}.`,
      mend: near ? `Perhaps ${near.known} is meant.` : `It takes: ${names.join(', ')}.`,
    });
  }
  const result = type.schema.safeParse(given);
  if (result.success) return { ok: true, type, params: result.data };
  return {
    ok: false,
    refusals: result.error.issues.map((issue) => {
      const [field] = issue.path;
      const missing = field !== undefined && given[String(field)] === undefined;
      const place = issue.path.join('.') || kind;
      return {
        code: missing ? 'parameter-missing' : 'parameter-wrong',
        field: field === undefined ? 'do' : String(field),
        subject: { kind: 'operation', name: kind },
        ...(missing
          ? { message: `Nothing is given for ${inWords(place)}.`, mend: `Give the ${inWords(place)}.` }
          : misfit(issue, given)),
      };
    }),
  };
}

const no = (refusal: Refusal): { ok: false; refusals: Refusal[] } => ({ ok: false, refusals: [refusal] });
