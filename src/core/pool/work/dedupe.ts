import { deleted } from '../../estate/effects';
import type { WorkKind } from '../../job/work-kind';
import { finishReduction } from '../reduce';

export const reducing: WorkKind = {
  name: 'pool-dedupe',
  words: {
    busy: 'equal pages are being looked for',
    tells: 'is being reduced',
    stop: 'reducing',
    share: 'reduced',
  },
  fallsDue(view, job, now, newId) {
    const { effects, said } = finishReduction(view, job, now, newId);
    return { effects: [deleted('job', job), ...effects], said };
  },
};
