import type { MoveAnswer, MovesAnswer } from '@/core/moving/answers';
import { movesView } from '@/core/moving/view';
import { moveView } from '@/core/moving/view-steps';
import type { Plant } from './plant';
import { Problem } from './problem';

/** All moves, those of each plan with their waves. */
export const movesOf = (plant: Plant): MovesAnswer => movesView(plant.estate, plant.lab.now);

/** One move with its steps. */
export function moveOf(plant: Plant, id: string): MoveAnswer {
  const row = plant.estate.table('move').get(id);
  if (!row) throw new Problem(404, 'move-unknown', `There is no move ${id}.`, 'Choose one that there is.');
  return moveView(plant.estate, row, plant.lab.now);
}
