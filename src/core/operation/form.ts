import { z } from 'zod';

/** How a parameter is entered. The words beside it come from what the operation foretells. */
export type Control =
  | 'text'
  | 'secret'
  | 'number'
  | 'select'
  | 'several'
  | 'lines'
  | 'drives'
  | 'levels'
  | 'ports'
  | 'interfaces'
  | 'switch'
  | 'slider';

/** A parameter in the sheet of an operation. */
export interface FieldSpec {
  name: string;
  label: string;
  control: Control;
  placeholder?: string;
  /** Sent even when empty. */
  keepEmpty?: true;
  /** Stands below, behind "More". */
  more?: true;
  /** Of a slider: its ends, and the unit beside the value. */
  range?: { from: number; to: number; step: number; unit: string; start: number };
}

/** The sheet of an operation. */
export interface FormSpec {
  title: string;
  fields: FieldSpec[];
  /** How the reader looks at the choice: asked for consequences alone, never sent with the operation. Names begin with $. */
  lens?: FieldSpec[];
  /** Columns of the Span that stay in sight beside the sheet. */
  columns: readonly number[];
}

/** What an operation says of a parameter: its label alone where the rest follows from the schema. */
export type FieldWord = string | (Omit<FieldSpec, 'name' | 'control'> & { control?: Control });

/**
 * How an operation is filled in: its parameters in the order in which they stand in the sheet, every one of them. `null` for one that nobody
 * enters by hand.
 */
export interface Form<P> {
  columns: readonly number[];
  fields: { readonly [F in keyof P]-?: FieldWord | null };
  lens?: FieldSpec[];
}

const of = (control: Control, word: FieldWord): FieldWord =>
  typeof word === 'string' ? { label: word, control } : { ...word, control };

/** Chosen from what is foretold. */
export const pick = (word: FieldWord): FieldWord => of('select', word);
/** Several ticked of what is foretold. */
export const several = (word: FieldWord): FieldWord => of('several', word);
/** Never shown again. */
export const secret = (word: FieldWord): FieldWord => of('secret', word);
/** With an example of what may be written. */
export const such = (label: string, placeholder: string): FieldWord => ({ label, placeholder });
/** Stands behind "More". */
export const folded = (word: FieldWord): FieldWord =>
  typeof word === 'string' ? { label: word, more: true } : { ...word, more: true };
/** An empty list is sent as one, so that it can be emptied. */
export const emptied = (word: FieldWord): FieldWord =>
  typeof word === 'string' ? { label: word, keepEmpty: true } : { ...word, keepEmpty: true };

/** Parameters that many operations share. */
export const the = {
  array: pick('Array'),
  host: pick('Host'),
  fabric: pick('Fabric'),
  cluster: pick('Or cluster'),
  pool: pick('Pool'),
  group: pick('RAID group'),
  volumes: several('Volumes'),
  drives: of('drives', 'Drives'),
  ports: of('ports', 'Through'),
  device: pick('Device'),
} as const;

/** A schema without what makes it optional or reads it. */
function bare(schema: unknown): unknown {
  let found = schema;
  for (;;)
    if (found instanceof z.ZodOptional || found instanceof z.ZodDefault || found instanceof z.ZodNullable)
      found = found.unwrap();
    else if (found instanceof z.ZodPipe) found = found.in;
    else return found;
}

/** How a parameter is entered that says nothing else of it. */
function usualControl(schema: unknown): Control {
  const found = bare(schema);
  if (found instanceof z.ZodBoolean) return 'switch';
  if (found instanceof z.ZodNumber) return 'number';
  if (found instanceof z.ZodEnum) return 'select';
  return found instanceof z.ZodArray ? 'lines' : 'text';
}

/** The sheet of an operation, from its words and its schema. */
export function formSpec(type: { verb: string; schema: z.ZodType; form: Form<unknown> }): FormSpec {
  const shape = (type.schema as unknown as { shape: Record<string, unknown> }).shape;
  const words: [string, FieldWord | null][] = Object.entries(type.form.fields);
  return {
    title: type.verb,
    columns: type.form.columns,
    fields: words.flatMap(([name, word]): FieldSpec[] => {
      if (word === null) return [];
      const said = typeof word === 'string' ? { label: word } : word;
      return [{ name, control: usualControl(shape[name]), ...said }];
    }),
    ...(type.form.lens ? { lens: type.form.lens } : {}),
  };
}
