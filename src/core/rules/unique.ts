import { rowName } from '../estate/effects';
import { kindOf, kinds, kindWords, type Kind, type Rows } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { nameKey, type IndexName } from '../estate/table';
import type { KindDeclaration, Together } from '../kinds/kind';
import { NOTHING, rule, wrong, type Rule } from './rule';

/** Fields that together occur once, and the index by which others that share them are found. */
export interface UniqueKey<K extends Kind = Kind> {
  of: K;
  fields: readonly (keyof Rows[K] & string)[];
  /** Capitals and small letters are the same. */
  folded: boolean;
  index: IndexName<K>;
  indexKey: (row: Rows[K]) => string | null;
}

/** The name, in any letters: over all rows of a kind, or within what a field of it refers to. */
const nameOf = (of: Kind, scope: string): UniqueKey => ({
  of,
  fields: (scope === '' ? ['name'] : [scope, 'name']) as never,
  folded: true,
  index: 'name',
  indexKey: (row) => {
    const within = scope === '' ? '' : valueOf(row, scope);
    return typeof within === 'string' ? nameKey(within, (row as { name: string }).name) : null;
  },
});

/** `by` names the index, which is that of the field among them that it is made of. */
const together = (of: Kind, { fields, by }: Together): UniqueKey => {
  const field = fields.includes(by) ? by : fields[0]!;
  return {
    of,
    fields: fields as never,
    folded: false,
    index: by as never,
    indexKey: (row) => valueOf(row, field) as string | null,
  };
};

const valueOf = (row: object, field: string): unknown => (row as Record<string, unknown>)[field];

/** What occurs once, kind by kind. The database has the same keys; a test compares them. */
export const uniqueKeys: readonly UniqueKey[] = kinds.flatMap((kind) => uniqueKeysOf(kind, kindOf[kind]));

export function uniqueKeysOf(kind: Kind, { named, once = [], unique = [] }: KindDeclaration): UniqueKey[] {
  return [
    ...(named === undefined ? [] : [nameOf(kind, named)]),
    ...once.map((field) => together(kind, { fields: [field], by: field })),
    ...unique.map((one) => together(kind, one)),
  ];
}

function sameKey(unique: UniqueKey, a: object, b: object): boolean {
  return unique.fields.every((field) => {
    const [one, two] = [valueOf(a, field), valueOf(b, field)];
    return unique.folded && typeof one === 'string' && typeof two === 'string'
      ? one.toLowerCase() === two.toLowerCase()
      : one === two;
  });
}

/** Another row that bears the same key. */
export function holderOf<K extends Kind>(view: EstateView, unique: UniqueKey<K>, row: Rows[K]): Rows[K] | undefined {
  const at = unique.indexKey(row);
  if (at === null || unique.fields.some((field) => valueOf(row, field) === null)) return undefined;
  return view
    .table(unique.of)
    .by(unique.index, at)
    .find((other) => other.id !== row.id && sameKey(unique as unknown as UniqueKey, row, other));
}

const own = new Set(['name', 'slot', 'number']);

/** What a doubled key is called: the name of a thing, or what two things share. */
function sharedWords(view: EstateView, unique: UniqueKey, row: Rows[Kind]): string {
  const what = unique.fields.map((field) => {
    const value = valueOf(row, field);
    if (own.has(field) || unique.fields.length === 1) return String(value);
    const kind = field as Kind;
    const other = view.table(kind).get(String(value));
    return other ? rowName(kind, other) : String(value);
  });
  return what.join(' ');
}

export const uniqueRules: readonly Rule[] = uniqueKeys.map((unique) =>
  rule({
    of: unique.of,
    code: 'taken-twice',
    reads: unique.fields,
    broken(view, row) {
      const holder = holderOf(view, unique, row);
      if (!holder) return NOTHING;
      return wrong(
        `There would be two of ${kindWords[unique.of]} ${sharedWords(view, unique, row)}.`,
        `Rename or take away the ${kindWords[unique.of]} ${rowName(unique.of, holder)} that has it now.`,
      );
    },
  }),
);
