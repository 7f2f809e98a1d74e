import { parse, stringify } from 'yaml';
import { estateDocument, type EstateDocument } from '@/core/estate/document';
import { raidLevels, type Kind } from '@/core/estate/entities';
import type { Refusal } from '@/core/operation/refusal';
import { boundsOfJson, boundsOfYaml } from './bounds';
import { targetOfArray } from '@/core/estate/brought-up';
import { shapeFields, shapeOf } from '@/core/raid/geometry';

export const writeEstateYaml = (document: EstateDocument): string =>
  stringify(document, { lineWidth: 0, aliasDuplicateObjects: false });

type Loose = Record<string, unknown>;
const isRow = (value: unknown): value is Loose => typeof value === 'object' && value !== null && !Array.isArray(value);

/**
 * Rows of documents of before carry no shape of RAID groups, no start of counting for jobs, no reach of file systems: they follow from the rest. An
 * array that tells of its target itself becomes two rows.
 */
export function broughtUp(kind: Kind, value: unknown): { kind: Kind; row: unknown }[] {
  const row = rowBroughtUp(kind, value);
  if (kind !== 'array' || !isRow(value)) return [{ kind, row }];
  const target = targetOfArray(value);
  return [{ kind, row }, ...(target ? [{ kind: 'target' as const, row: target }] : [])];
}

function rowBroughtUp(kind: Kind, row: unknown): unknown {
  if (!isRow(row)) return row;
  if (kind === 'raidGroup') {
    const level = raidLevels.find((one) => one === row.level);
    if ('data' in row || !level || !Array.isArray(row.drives)) return row;
    const shape = shapeOf({ level }, row.drives.length);
    return typeof shape === 'string' ? row : { ...shapeFields(shape), ...row };
  }
  if (kind === 'job') return { asOf: row.startedAt, ...row };
  return kind === 'hostDevice' && row.fileSystem ? { fileSystemSize: row.size, ...row } : row;
}

function documentBroughtUp(value: unknown): unknown {
  if (!isRow(value) || !isRow(value.estate)) return value;
  const { estate } = value;
  const up: Loose = {};
  for (const [kind, rows] of Object.entries(estate)) {
    if (!Array.isArray(rows)) up[kind] = rows;
    else
      for (const found of [{ kind, row: null }, ...rows.flatMap((row: unknown) => broughtUp(kind as Kind, row))]) {
        const list = (up[found.kind] ??= []) as unknown[];
        if (found.row !== null) list.push(found.row);
      }
  }
  return { ...value, estate: up };
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
  const unbounded = yaml ? boundsOfYaml(text) : boundsOfJson(text);
  if (unbounded) return no(unbounded.code, unbounded.message, unbounded.mend);
  let value: unknown;
  try {
    value = yaml ? parse(text, { maxAliasCount: 0, uniqueKeys: false }) : JSON.parse(text);
  } catch (error) {
    return no(
      yaml ? 'broken-yaml' : 'broken-json',
      `The document cannot be read: ${(error as Error).message.split('\n')[0]}.`,
      'Correct it there.',
    );
  }
  const result = estateDocument.safeParse(documentBroughtUp(value));
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
