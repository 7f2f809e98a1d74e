import { parse, stringify } from 'yaml';
import { estateDocument, type EstateDocument } from '@/core/estate/document';
import { raidLevels } from '@/core/estate/entities';
import type { Refusal } from '@/core/operation/refusal';
import { shapeFields, shapeOf } from '@/core/raid/geometry';

export const writeEstateYaml = (document: EstateDocument): string =>
  stringify(document, { lineWidth: 0, aliasDuplicateObjects: false });

type Loose = Record<string, unknown>;
const isRow = (value: unknown): value is Loose => typeof value === 'object' && value !== null && !Array.isArray(value);

/** Documents of before carry no shape of RAID groups, no start of counting for jobs, no reach of file systems: they follow from the rest. */
function broughtUp(value: unknown): unknown {
  if (!isRow(value) || !isRow(value.estate)) return value;
  const rows = (kind: string, more: (row: Loose) => Loose): Loose => {
    const list = (value.estate as Loose)[kind];
    return Array.isArray(list)
      ? { [kind]: list.map((row: unknown) => (isRow(row) ? { ...more(row), ...row } : row)) }
      : {};
  };
  return {
    ...value,
    estate: {
      ...value.estate,
      ...rows('raidGroup', (row) => {
        const level = raidLevels.find((one) => one === row.level);
        if ('data' in row || !level || !Array.isArray(row.drives)) return {};
        const shape = shapeOf({ level }, row.drives.length);
        return typeof shape === 'string' ? {} : shapeFields(shape);
      }),
      ...rows('job', (row) => ({ asOf: row.startedAt })),
      ...rows('hostDevice', (row) => (row.fileSystem ? { fileSystemSize: row.size } : {})),
    },
  };
}

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
  const result = estateDocument.safeParse(broughtUp(value));
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
