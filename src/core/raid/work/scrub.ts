import { changed } from '../../estate/effects';
import { atItsEnd, type GroupWork } from '../group-work';
import { shareRate } from '../rates';

export const scrubbing: GroupWork = {
  name: 'raid-scrub',
  words: { busy: 'it is being scrubbed', tells: 'is being scrubbed', stop: 'scrubbing', share: 'scrubbed' },
  rate: (view, group, priority, load) => shareRate(view, group, priority, load).read,
  fallsDue: atItsEnd(({ group, now }) => ({
    effects: [changed('raidGroup', group, { scrubbedAt: now })],
    said: 'is scrubbed: every strip was read and agrees',
  })),
};
