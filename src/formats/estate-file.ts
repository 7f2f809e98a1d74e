import { parse, stringify } from 'yaml';
import { estateDocument, type EstateDocument } from '@/core/estate/document';
import type { Refusal } from '@/core/operation/refusal';

export const writeEstateYaml = (document: EstateDocument): string =>
  stringify(document, { lineWidth: 0, aliasDuplicateObjects: false });

/** Reads an estate from JSON or YAML text. */
export function readEstate(
  text: string,
  yaml: boolean,
): { ok: true; document: EstateDocument } | { ok: false; refusals: Refusal[] } {
  const no = (code: string, message: string, mend: string) => ({
    ok: false as const,
    refusals: [{ code, subject: { kind: 'document' as const, name: 'estate' }, message, mend }],
  });
  let value: unknown;
  try {
    value = yaml ? parse(text, { maxAliasCount: 0 }) : JSON.parse(text);
  } catch (error) {
    return no(
      yaml ? 'broken-yaml' : 'broken-json',
      `The document cannot be read: ${(error as Error).message.split('\n')[0]}.`,
      'Correct it there.',
    );
  }
  const result = estateDocument.safeParse(value);
  if (result.success) return { ok: true, document: result.data };
  const issues = result.error.issues.slice(0, 20);
  return {
    ok: false,
    refusals: issues.map((issue) => ({
      code: 'not-an-estate',
      subject: { kind: 'document', name: 'estate' },
      message: `${issue.path.join('.') || 'The document'}: ${issue.message}.`,
      mend: 'Import a document that this product exported.',
    })),
  };
}
