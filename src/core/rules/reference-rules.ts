import type { z } from 'zod';
import { rowName } from '../estate/effects';
import { kindWords, kinds, rowSchemas, type Kind, type Rows } from '../estate/entities';
import { referredIds, references } from '../estate/references';
import { NOTHING, rule, type Rule, type Wrong } from './rule';

const from = new Map(kinds.map((kind) => [kind, references.filter((one) => one.from === kind)]));

/** Whatever a row refers to is there. That nothing refers to a row that goes is asked by the book, from the same table. */
export const referenceRules: readonly Rule[] = kinds.map((kind) =>
  rule({
    of: kind,
    code: 'refers-to-nothing',
    reads: from.get(kind)!.map(({ field }) => field),
    broken(view, row) {
      let found: Wrong[] | null = null;
      for (const { field, to } of from.get(kind)!)
        for (const id of referredIds(row, field))
          if (!view.table(to).get(id))
            (found ??= []).push({
              message: `${kindWords[kind]} ${rowName(kind, row)} needs a ${kindWords[to]} that is gone.`,
              mend: `Make that ${kindWords[to]} again first.`,
            });
      return found ?? NOTHING;
    },
  }),
);

interface Issue {
  path: readonly PropertyKey[];
  message: string;
}

/** What is wrong with some fields of a row. */
function issuesOf(kind: Kind, row: Rows[Kind], fields: readonly string[]): Issue[] {
  const shape = rowSchemas[kind].shape as Readonly<Record<string, z.ZodType>>;
  return fields.flatMap((field) => {
    const read = shape[field]!.safeParse((row as Record<string, unknown>)[field]);
    return read.success
      ? []
      : read.error.issues.map(({ path, message }): Issue => ({ path: [field, ...path], message }));
  });
}

/** Each row is as its schema says: sizes are whole, states are known, names are not empty. No schema compares two fields. */
export const shapeRules: readonly Rule[] = kinds.map((kind: Kind) =>
  rule({
    of: kind,
    code: 'misshapen',
    broken(_view, row, changed) {
      const issues = changed ? issuesOf(kind, row, changed) : (rowSchemas[kind].safeParse(row).error?.issues ?? []);
      if (issues.length === 0) return NOTHING;
      return issues.map((issue) => ({
        message: `${kindWords[kind]} ${rowName(kind, row)} would have an impossible ${issue.path.join('.')}: ${issue.message}.`,
        mend: 'Leave it as it is, and report this.',
      }));
    },
  }),
);
