import type { Kind, Rows } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { NextStep } from '../operation/next-step';

/** What is wrong with a row, in a person's words, and what would mend it: also as a prepared operation where one does. */
export interface Wrong {
  message: string;
  mend: string;
  offer?: NextStep;
}

/**
 * A rule that must hold of each row of one kind in every estate. Where rows of another kind can break it, `asks` names the rows that must be
 * looked at again when one of those comes, changes or goes, so that a commit costs no more than what it touches.
 */
export interface Rule<K extends Kind = Kind> {
  of: K;
  /** Stable, kebab-case. */
  code: string;
  /** The fields of its own row that it reads, all unless said: where a row changes in none of them it is not looked at again. */
  reads?: readonly string[];
  asks?: { [Other in Kind]?: (row: Rows[Other], view: EstateView) => readonly string[] };
  /** `changed` are the fields in which a row differs from what it was, where that is known. */
  broken(view: EstateView, row: Rows[K], changed?: readonly string[]): readonly Wrong[];
}

/** A rule that a row of the estate breaks. */
export interface Broken extends Wrong {
  code: string;
  kind: Kind;
  id: string;
  name: string;
}

/** Rules of all kinds in one list. */
export const rule = <K extends Kind>(
  made: Omit<Rule<K>, 'reads'> & { reads?: readonly (keyof Rows[K] & string)[] },
): Rule => made;

export const wrong = (message: string, mend: string, offer?: NextStep): Wrong[] => [
  { message, mend, ...(offer ? { offer } : {}) },
];
export const NOTHING: readonly Wrong[] = [];
