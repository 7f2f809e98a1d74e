import { z } from 'zod';

/** What is told of an operation in a document. */
interface Told {
  kind: string;
  schema: z.ZodType;
}

interface Part {
  schema: unknown;
  optional: boolean;
  fallback: unknown;
  says: string;
}

/** A parameter's schema without its wrappers, and what they say of it. */
function partOf(schema: unknown): Part {
  const part: Part = { schema, optional: false, fallback: undefined, says: '' };
  for (;;) {
    const at = part.schema;
    if (at instanceof z.ZodType) part.says ||= at.description ?? '';
    if (at instanceof z.ZodOptional) part.optional = true;
    else if (at instanceof z.ZodDefault) {
      part.optional = true;
      part.fallback = at.def.defaultValue;
    } else if (at instanceof z.ZodPipe) {
      part.schema = at.in;
      continue;
    } else if (!(at instanceof z.ZodNullable)) return part;
    part.schema = at.unwrap();
  }
}

const usual = (value: unknown): string =>
  typeof value === 'number' || typeof value === 'boolean' || (typeof value === 'string' && value !== '')
    ? ` = ${value}`
    : '';

function parameterText(name: string, { schema, fallback, says }: Part): string {
  const choices = schema instanceof z.ZodEnum ? schema.options.join(', ') : '';
  const note = [choices, says.replaceAll('|', '\\|').replaceAll('<', '\\<')].filter(Boolean).join('; ');
  return `\`${name}\`${usual(fallback)}${note ? ` (${note})` : ''}`;
}

/** A line of a table for each operation: what it needs, and in brackets what it takes besides, with choices and what stands where nothing is said. */
export function operationsTable(types: readonly Told[]): string {
  const rows = types.map(({ kind, schema }) => {
    const shape = (schema as unknown as { shape: Record<string, unknown> }).shape;
    const parts = Object.entries(shape).map(([name, one]) => ({ name, part: partOf(one) }));
    const needed = parts.filter(({ part }) => !part.optional).map(({ name, part }) => parameterText(name, part));
    const others = parts.filter(({ part }) => part.optional).map(({ name, part }) => parameterText(name, part));
    const text = [...needed, ...(others.length > 0 ? [`[${others.join(', ')}]`] : [])].join(', ');
    return `| \`${kind}\` | ${text} |`;
  });
  return ['| do | parameters (optional ones in brackets) |', '|---|---|', ...rows].join('\n');
}

const BEGIN = '<!-- Written by npm run docs from the operations themselves. -->\n';
const END = '\n<!-- So far. -->';

/** A document with the table put between its two marks. */
export function withTable(document: string, table: string): string {
  const [from, to] = [document.indexOf(BEGIN), document.indexOf(END)];
  if (from < 0 || to < from) throw new Error('The document has no place for the table.');
  return document.slice(0, from + BEGIN.length) + table + document.slice(to);
}
