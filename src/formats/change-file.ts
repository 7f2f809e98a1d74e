import { isMap, isScalar, isSeq, LineCounter, parseDocument, stringify } from 'yaml';
import { z } from 'zod';
import { MOST_OPERATIONS } from '@/core/change/plan';
import { operationDocument, type OperationDocument } from '@/core/change/registry';
import { misfit } from '@/core/operation/misfit';
import type { Refusal } from '@/core/operation/refusal';
import { boundsOfYaml, unfitText } from './bounds';

export const changeDocument = z.strictObject({
  trabes: z.literal(1, { error: 'write "trabes: 1", the version of the format' }).optional(),
  title: z.string().trim().min(1, 'give the change a title').max(200),
  operations: z
    .array(operationDocument)
    .min(1, 'name at least one operation')
    .max(MOST_OPERATIONS, `${MOST_OPERATIONS} operations are the most of a change; make several`),
});

export type ReadChange =
  { ok: true; title: string; operations: OperationDocument[] } | { ok: false; refusals: Refusal[] };

const no = (code: string, message: string, mend: string, field?: string): ReadChange => ({
  ok: false,
  refusals: [{ code, subject: { kind: 'document', name: 'change file' }, message, mend, ...(field ? { field } : {}) }],
});

/** Reads a change file (YAML, of which JSON is a part). */
export function readChangeFile(text: string): ReadChange {
  const unbounded = boundsOfYaml(text);
  if (unbounded) return no(unbounded.code, unbounded.message, unbounded.mend);
  const lines = new LineCounter();
  const document = parseDocument(text, {
    lineCounter: lines,
    strict: true,
    // Looked for below, in a time that grows with the keys and not with their square.
    uniqueKeys: false,
  });
  const [error] = document.errors;
  if (error) {
    const at = error.linePos?.[0];
    return no(
      'broken-yaml',
      `Line ${at?.line ?? '?'}, column ${at?.col ?? '?'}: ${error.message.split('\n')[0]!.replace(/ at line \d+, column \d+:?$/, '')}.`,
      'Correct the file there.',
    );
  }
  const twice = doubledKey(document.contents);
  if (twice) {
    const at = lines.linePos(twice.at);
    return no('broken-yaml', `Line ${at.line}, column ${at.col}: ${twice.key} is named twice.`, 'Name it once.');
  }
  let value: unknown;
  try {
    value = document.toJS({ maxAliasCount: 100 });
  } catch {
    return no('broken-yaml', 'The file refers to itself too often.', 'Write the values out.');
  }
  return readChangeValue(value);
}

/** The first key that stands twice in a map, and where. */
function doubledKey(node: unknown): { key: string; at: number } | null {
  if (isSeq(node)) {
    for (const item of node.items) {
      const found = doubledKey(item);
      if (found) return found;
    }
    return null;
  }
  if (!isMap(node)) return null;
  const seen = new Set<unknown>();
  for (const { key, value } of node.items) {
    if (isScalar(key)) {
      if (seen.has(key.value)) return { key: String(key.value), at: key.range?.[0] ?? 0 };
      seen.add(key.value);
    }
    const found = doubledKey(value);
    if (found) return found;
  }
  return null;
}

/** Checks an already parsed change document. */
export function readChangeValue(value: unknown): ReadChange {
  const unfit = unfitText(value);
  if (unfit !== null)
    return no('unfit-text', `${unfit} holds a character that no text may have.`, 'Take control characters out.');
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    return no(
      'not-a-change',
      'This is no change: it needs a title and operations.',
      'Write title: and operations:, as docs/change-files.md shows.',
    );
  const result = changeDocument.safeParse(value);
  if (result.success) return { ok: true, title: result.data.title, operations: result.data.operations };
  const [issue] = result.error.issues;
  return no(
    'not-a-change',
    misfit(issue!, value).message,
    'Correct it, as docs/change-files.md shows.',
    String(issue!.path[0] ?? ''),
  );
}

/** A change as a file that {@link readChangeFile} reads back. */
export const writeChangeFile = (title: string, operations: readonly OperationDocument[]): string =>
  stringify({ trabes: 1, title, operations }, { lineWidth: 120, flowCollectionPadding: false });
