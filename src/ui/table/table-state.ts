/** How a reader looks at a table: by which column it is ordered, which words its lines hold, which columns are put away. */
export interface TableLook {
  sort: { column: string; down: boolean } | null;
  find: string;
  hidden: readonly string[];
}

export const PLAIN: TableLook = { sort: null, find: '', hidden: [] };

/** As it stands in the URL: `sort=-FCID&find=gate&hide=Alias&hide=Node+name`; nothing where the table is as it comes. */
export function lookToText({ sort, find, hidden }: TableLook): string {
  const parts = new URLSearchParams();
  if (sort) parts.set('sort', `${sort.down ? '-' : ''}${sort.column}`);
  if (find !== '') parts.set('find', find);
  for (const column of hidden) parts.append('hide', column);
  return parts.toString();
}

/** Reads it back; columns that the table does not have are passed over. */
export function lookFromText(text: string, columns: readonly string[]): TableLook {
  const parts = new URLSearchParams(text);
  const sort = parts.get('sort') ?? '';
  const column = sort.replace(/^-/, '');
  return {
    sort: columns.includes(column) ? { column, down: sort.startsWith('-') } : null,
    find: parts.get('find') ?? '',
    hidden: parts.getAll('hide').filter((one) => columns.includes(one)),
  };
}

/** The name of a table's parameter in the URL, from what it is called. */
export const parameterOf = (label: string): string =>
  `table-${label
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')}`;

const collator = new Intl.Collator('en', { numeric: true, sensitivity: 'base' });

/** Digits in hexadecimal of one length, such as FCIDs and port names: they are ordered digit by digit. */
const hexadecimal = /^[0-9a-f:]{4,}$/i;

/** Orders two values of a column: numbers by size, words as people count (`vol-9` before `vol-10`). */
export function compareValues(a: unknown, b: unknown): number {
  if (typeof a === 'number' && typeof b === 'number') return a - b;
  const [one, two] = [String(a), String(b)];
  if (one.length === two.length && hexadecimal.test(one) && hexadecimal.test(two))
    return one < two ? -1 : Number(one > two);
  return collator.compare(one, two);
}

/** Whether a line's text holds all the words, in any order. */
export const holdsWords = (text: string, words: string): boolean =>
  words
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word));
