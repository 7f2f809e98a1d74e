import { atItsEnd, type GroupWork } from '../group-work';
import { shareRate } from '../rates';

export const initialising: GroupWork = {
  name: 'raid-initialise',
  words: { busy: 'it is being initialised', tells: 'is being initialised', share: 'initialised' },
  rate: (view, group, priority, load) => shareRate(view, group, priority, load).write,
  fallsDue: atItsEnd(() => ({ effects: [], said: 'is initialised' })),
};
