import { stateWords } from '../moving/ask';
import { moveBar } from '../moving/fitness';
import { moveOf } from '../moving/roads';
import type { Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import type { NextStep } from '../operation/next-step';
import { nextStep } from '../operation/next-step';
import type { FactLine } from './facts-lines';

/** That a volume goes to another pool, or is one side of that. */
export function moveLines(view: EstateView, volume: Volume): FactLine[] {
  const row = moveOf(view, volume.id);
  if (!row) return [];
  const pool = view.table('pool').get(row.toPool)!;
  const to = `${arrayOf(view, pool).name} ${pool.name}`;
  const twin = row.twin === volume.id;
  return [
    {
      post: row.asks === '' ? 'stands' : 'leans',
      text: twin ? `One side of the move of ${row.name}` : `Goes to ${to}`,
      more: stateWords[row.state],
    },
  ];
}

/** The verb that moves a volume, where it can be moved. */
export const moveVerbs = (view: EstateView, volume: Volume): Pick<NextStep, 'label' | 'do' | 'params'>[] =>
  moveBar(view, volume) === null
    ? [nextStep('Move', 'storage.move', { array: arrayOf(view, volume).name, volumes: [volume.name] })]
    : [];
