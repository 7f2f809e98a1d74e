import { misfit } from '@/core/operation/misfit';
import Papa from 'papaparse';
import { z } from 'zod';
import type { OperationDocument } from '@/core/change/registry';
import type { Zone } from '@/core/estate/entities';
import type { EstateView } from '@/core/estate/estate';
import { nameKey } from '@/core/estate/table';
import { memberText, parseMember } from '@/core/fabric/member';
import { byName } from '@/core/operation/draft';
import { lookUp } from '@/core/operation/inquiry';

/** One alias or zone as a file holds it. Members are written as people write them. */
export interface ZoningEntry {
  fabric: string;
  what: 'alias' | 'zone';
  name: string;
  kind: 'ordinary' | 'peer';
  members: string[];
  principals: string[];
}

/** An entry that was read, with the line it stands in (of JSON: its place), or why it could not be. */
export interface ZoningLine {
  line: number;
  name: string;
  entry: ZoningEntry | null;
  problem: { message: string; mend: string } | null;
}
export type ReadZoning = { ok: true; lines: ZoningLine[] } | { ok: false; message: string; mend: string };

const COLUMNS = ['fabric', 'what', 'name', 'kind', 'members', 'principals'] as const;

/** Aliases and zones as they are defined, fabric after fabric. */
export function zoningEntries(view: EstateView, fabric?: string): ZoningEntry[] {
  return [...view.table('fabric').values()]
    .filter((row) => fabric === undefined || row.name === fabric || row.id === fabric)
    .sort(byName)
    .flatMap((row) => [
      ...[...view.table('alias').by('fabric', row.id)].sort(byName).map((alias): ZoningEntry => ({
        fabric: row.name,
        what: 'alias',
        name: alias.name,
        kind: 'ordinary',
        members: alias.members.map(memberText),
        principals: [],
      })),
      ...[...view.table('zone').by('fabric', row.id)].sort(byName).map((zone): ZoningEntry => ({
        fabric: row.name,
        what: 'zone',
        name: zone.name,
        kind: zone.kind,
        members: zone.members.map(memberText),
        principals: zone.principals.map(memberText),
      })),
    ]);
}

/** CSV with a header line; members of one cell are parted by ; since places hold a comma. */
export const zoningCsv = (entries: readonly ZoningEntry[]): string =>
  `${Papa.unparse(
    entries.map((entry) => ({
      ...entry,
      kind: entry.what === 'zone' ? entry.kind : '',
      members: entry.members.join('; '),
      principals: entry.principals.join('; '),
    })),
    { columns: [...COLUMNS], newline: '\n' },
  )}\n`;

export const zoningJson = (entries: readonly ZoningEntry[]): string =>
  `${JSON.stringify({ trabesZoning: 1, entries }, null, 2)}\n`;

const entrySchema = z.object({
  fabric: z.string().min(1),
  what: z.enum(['alias', 'zone']),
  name: z.string().min(1),
  kind: z.enum(['ordinary', 'peer']).default('ordinary'),
  members: z.array(z.string()),
  principals: z.array(z.string()).default([]),
});

const nameSchema = z.object({ name: z.string() }).partial().catch({});

function checked(line: number, given: unknown): ZoningLine {
  const read = entrySchema.safeParse(given);
  const { name = '' } = nameSchema.parse(given);
  if (read.success) return { line, name, entry: read.data, problem: null };
  const [issue] = read.error.issues;
  return {
    line,
    name,
    entry: null,
    problem: {
      message: misfit(issue!, given).message,
      mend: 'Each entry has a fabric, what it is (alias or zone), a name and members.',
    },
  };
}

const split = (cell: string): string[] =>
  cell
    .split(';')
    .map((part) => part.trim())
    .filter(Boolean);

/** Reads either form, told apart by how it begins. */
export function readZoning(text: string): ReadZoning {
  const body = text.replace(/^\uFEFF/, '').trim();
  if (body === '') return { ok: false, message: 'The file is empty.', mend: 'Export one to see how it looks.' };
  return body.startsWith('{') || body.startsWith('[') ? readJson(body) : readCsv(body);
}

function readJson(body: string): ReadZoning {
  let value: unknown;
  try {
    value = JSON.parse(body);
  } catch (error) {
    return { ok: false, message: `It is no JSON: ${(error as Error).message}.`, mend: 'Correct it at that place.' };
  }
  const entries = Array.isArray(value) ? value : (value as { entries?: unknown }).entries;
  if (!Array.isArray(entries) || entries.length === 0)
    return { ok: false, message: 'It holds no entries.', mend: 'Put aliases and zones into "entries".' };
  return { ok: true, lines: entries.map((entry, k) => checked(k + 1, entry)) };
}

function readCsv(body: string): ReadZoning {
  const { data } = Papa.parse<string[]>(body, { skipEmptyLines: false });
  const head = data[0]!.map((cell) => cell.trim().toLowerCase());
  const missing = ['fabric', 'what', 'name', 'members'].filter((name) => !head.includes(name));
  if (missing.length > 0)
    return {
      ok: false,
      message: `The header line names no ${missing.join(', no ')}.`,
      mend: `Write: ${COLUMNS.join(',')}.`,
    };
  const lines = data.flatMap((row, k): ZoningLine[] => {
    if (k === 0 || row.every((cell) => cell.trim() === '')) return [];
    const cell = (name: string) => (row[head.indexOf(name)] ?? '').trim();
    return [
      checked(k + 1, {
        fabric: cell('fabric'),
        what: cell('what').toLowerCase(),
        name: cell('name'),
        ...(cell('kind') ? { kind: cell('kind').toLowerCase() } : {}),
        members: split(cell('members')),
        principals: split(cell('principals')),
      }),
    ];
  });
  if (lines.length === 0)
    return { ok: false, message: 'The file has a header line and nothing below it.', mend: 'Add a line.' };
  return { ok: true, lines };
}

const sameMembers = (a: readonly string[], b: readonly string[]): boolean =>
  a.length === b.length && [...a].sort().join() === [...b].sort().join();

/** The operation that makes an entry true: none where it is so already, a change where the name is there with other members. */
export function operationFor(view: EstateView, entry: ZoningEntry): OperationDocument | null {
  const fabric = lookUp(view, 'fabric', entry.fabric);
  const found = <K extends 'alias' | 'zone'>(kind: K) =>
    fabric
      ? view
          .table(kind)
          .by('name', nameKey(fabric.id, entry.name))
          .find((row) => row.name === entry.name)
      : undefined;
  const present: Partial<Zone> | undefined = entry.what === 'zone' ? found('zone') : found('alias');
  const kept = (texts: readonly string[]) =>
    texts.map((text) => {
      const read = parseMember(text);
      return read.ok ? read.value : text;
    });
  const zone = entry.what === 'zone' ? { kind: entry.kind, principals: entry.principals } : {};
  const base = { fabric: entry.fabric, name: entry.name, members: entry.members, ...zone };
  if (!present) return { do: `${entry.what}.create`, ...base };
  const same =
    sameMembers(present.members ?? [], kept(entry.members)) &&
    sameMembers(present.principals ?? [], kept(entry.principals)) &&
    (present.kind ?? entry.kind) === entry.kind;
  return same ? null : { do: `${entry.what}.configure`, ...base };
}

/** Aliases before the zones that use them, whatever order they stand in. */
export const inOrder = (lines: readonly ZoningLine[]): ZoningLine[] =>
  [...lines].sort((a, b) => Number(a.entry?.what === 'zone') - Number(b.entry?.what === 'zone') || a.line - b.line);
