import { changed, deleted } from '@/core/estate/effects';
import type { WorkKind } from '@/core/job/work-kind';

export const polishing: WorkKind = {
  name: 'volume-polish',
  words: { busy: 'the volume is being polished', tells: 'is being polished', stop: 'polishing', share: 'polished' },
  fallsDue(view, job) {
    const volume = view.table('volume').get(job.volume!)!;
    return {
      effects: [deleted('job', job), changed('volume', volume, { notes: 'polished' })],
      said: `${volume.name} is polished`,
    };
  },
};
