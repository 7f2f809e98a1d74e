import type { Move } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { byName } from '../operation/draft';
import type { Inquiry } from '../operation/inquiry';
import type { Choice, StepDevice } from '../operation/operation';
import { subjectOf, type Refusal } from '../operation/refusal';
import { openMoves, targetOf, poolById } from './roads';

export const stateWords: Record<Move['state'], string> = {
  planned: 'is planned',
  ready: 'is ready to start',
  copying: 'is being copied',
  waiting: 'waits for a person',
  cutting: 'is being cut over',
  proving: 'is being proven',
  cleaning: 'is being cleaned up',
  done: 'is done',
  aborted: 'was aborted',
};

/** Moves that are named, each once, and with `whole` all those that are cut over with one of them. */
export function askMoves(view: EstateView, asks: Inquiry, names: readonly string[], whole = false): Move[] {
  const named = [...new Set(names)].flatMap((name) => asks.find('move', name, 'moves') ?? []);
  if (!whole) return named;
  const groups = new Set(named.map(groupOf).filter((group) => group !== ''));
  const along = openMoves(view).filter((row) => groups.has(groupOf(row)));
  return [...new Map([...named, ...along].map((row) => [row.id, row])).values()].sort(byName);
}

/** What moves that are cut over together share; empty for one by itself. */
export const groupOf = ({ together, wavePlan }: Move): string =>
  together === '' ? '' : `${wavePlan ?? ''} ${together.toLowerCase()}`;

/** Moves that are not over, with why one cannot be chosen. */
export const moveChoices = (view: EstateView, unfit: (row: Move) => string | undefined): Choice[] =>
  [...openMoves(view)].sort(byName).map((row) => {
    const why = unfit(row);
    return {
      value: row.name,
      label: `${row.name}, to ${targetOf(view, row).name} ${poolById(view, row.toPool).name}, ${stateWords[row.state]}`,
      ...(why ? { unfit: why } : {}),
    };
  });

export const refusalOn = (
  row: Move,
  code: string,
  message: string,
  mend: string,
  more: Partial<Refusal> = {},
): Refusal => ({
  code,
  field: 'moves',
  subject: subjectOf('move', row),
  message,
  mend,
  ...more,
});

export const deviceOf = (view: EstateView, row: Move): StepDevice => {
  const array = targetOf(view, row);
  return { kind: 'array', id: array.id, name: array.name };
};
