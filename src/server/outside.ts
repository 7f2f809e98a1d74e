import type { OutsideAnswer, OutsideLunAnswer } from '@/core/outside/answers';
import { outsideView } from '@/core/outside/view';
import { outsideLunView } from '@/core/outside/view-steps';
import type { Plant } from './plant';
import { Problem } from './problem';

/** Outside arrays, and what was found of them. */
export const outsideOf = (plant: Plant): OutsideAnswer => outsideView(plant.estate, plant.lab.now);

/** One LUN with its way in. */
export function outsideLunOf(plant: Plant, id: string): OutsideLunAnswer {
  const row = plant.estate.table('outsideLun').get(id);
  if (!row)
    throw new Problem(404, 'outside-lun-unknown', `There is no outside LUN ${id}.`, 'Choose one that there is.');
  return outsideLunView(plant.estate, row, plant.lab.now);
}
