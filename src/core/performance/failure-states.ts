import { changed } from '../estate/effects';
import { Overlay, type EstateView } from '../estate/estate';
import { loadModel } from './model';
import type { LoadModel } from './shape';

/** The load with one thing out, and what it is. */
export interface FailureState {
  name: string;
  model: LoadModel;
  /** Groups that are taken to have one member out. */
  degraded: ReadonlySet<string>;
}

const none: ReadonlySet<string> = new Set();

/** Every state of an array in which one controller, or one member of one group, is out; the state as it stands comes first. */
export function failureStates(view: EstateView, array: string): FailureState[] {
  const states: FailureState[] = [{ name: 'as it stands', model: loadModel(view), degraded: none }];
  const controllers = view.table('controller').by('array', array);
  const up = controllers.filter(({ state }) => state === 'up');
  if (up.length > 1)
    for (const controller of up) {
      const without = new Overlay(view);
      without.apply([changed('controller', controller, { state: 'down' })]);
      states.push({ name: `controller ${controller.name} lost`, model: loadModel(without), degraded: none });
    }
  for (const group of view.table('raidGroup').by('array', array))
    if (group.parity > 0 || group.copies > 1) {
      const degraded = new Set([group.id]);
      states.push({ name: `a drive of ${group.name} lost`, model: loadModel(view, undefined, degraded), degraded });
    }
  return states;
}
