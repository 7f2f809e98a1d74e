import { atItsEnd, type GroupWork } from '../group-work';
import { shareRate } from '../rates';

export const initialising: GroupWork = {
  name: 'raid-initialise',
  words: { busy: 'it is being initialised', tells: 'is being initialised', share: 'initialised' },
  rate: (view, group, priority) => shareRate(view, group, priority).write,
  fallsDue: atItsEnd(() => ({ effects: [], said: 'is initialised' })),
};
