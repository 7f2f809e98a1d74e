import type { EstateView } from '../estate/estate';
import type { ArrayRow, Host } from '../estate/entities';
import { lookUp } from './inquiry';
import type { Choice, Draft } from './operation';

/** Reads of a form that is still being filled in: whatever is absent or of another type is simply not there yet. */
export const draftText = (draft: Draft, field: string): string => {
  const value = draft[field];
  if (typeof value === 'string') return value.trim();
  return typeof value === 'number' ? String(value) : '';
};

/** A number that is being typed, or what stands for none. */
export const draftNumber = (draft: Draft, field: string, without: number): number => {
  const text = draftText(draft, field);
  const value = Number(text);
  return text === '' || !Number.isFinite(value) ? without : value;
};

export const draftFlag = (draft: Draft, field: string): boolean => draft[field] === true || draft[field] === 'true';

export const draftList = (draft: Draft, field: string): string[] => {
  const value = draft[field];
  return Array.isArray(value)
    ? value.filter((item): item is string => typeof item === 'string' && item.trim() !== '')
    : [];
};

export const draftArray = (view: EstateView, draft: Draft): ArrayRow | undefined =>
  lookUp(view, 'array', draftText(draft, 'array'));
export const draftHost = (view: EstateView, draft: Draft): Host | undefined =>
  lookUp(view, 'host', draftText(draft, 'host'));

/** Arrays to choose from: those that are looked after here first, which forms begin with. */
export const arrayChoices = (view: EstateView): Choice[] =>
  [...view.table('array').values()]
    .sort((a, b) => Number(a.outside) - Number(b.outside) || byName(a, b))
    .map((array) => ({
      value: array.name,
      label: `${array.name}, ${array.model}${array.outside ? ', outside' : ''}`,
    }));

/** Rows of a kind by name. */
export const namedChoices = (view: EstateView, kind: 'workload' | 'allotment' | 'serviceClass' | 'plan'): Choice[] =>
  [...view.table(kind).values()].sort(byName).map(({ name }) => ({ value: name, label: name }));

/** The same with none before them. */
export const orNone = (choices: readonly Choice[]): Choice[] => [{ value: '', label: 'None' }, ...choices];

export const hostChoices = (view: EstateView): Choice[] =>
  [...view.table('host').values()].sort(byName).map((row) => ({ value: row.name, label: row.name }));

const collator = new Intl.Collator('en', { numeric: true });

export const byName = (a: { name: string }, b: { name: string }): number => collator.compare(a.name, b.name);

/** The first of `stem-1`, `stem-2` … that nobody has. */
export function nextName(stem: string, taken: Iterable<{ name: string }>): string {
  const names = new Set([...taken].map((row) => row.name.toLowerCase()));
  let number = 1;
  while (names.has(`${stem}-${number}`)) number += 1;
  return `${stem}-${number}`;
}
