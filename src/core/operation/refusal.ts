import type { Kind } from '../estate/entities';
import type { NextStep } from './next-step';

/** Why something cannot be done: it names the thing, says in a sentence what is wrong with its values, and what would mend it. */
export interface Refusal {
  /** Stable, kebab-case. */
  code: string;
  message: string;
  subject: Subject;
  mend: string;
  /** The operation that would mend it, filled in as far as it is known. */
  offer?: NextStep;
  /** The parameter that is refused, where it is one. */
  field?: string;
  /** 0-based place of the operation in its change. */
  operation?: number;
}

/** The code of an operation that would leave everything as it is. */
export const NOTHING_CHANGES = 'nothing-changes';

export interface Subject {
  kind: Kind | 'operation' | 'change' | 'document' | 'line' | 'lab';
  id?: string;
  name: string;
}

export const subjectOf = (kind: Kind, row: { id: string; name: string }): Subject => ({
  kind,
  id: row.id,
  name: row.name,
});
