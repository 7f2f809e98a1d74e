import { deleted } from '../../estate/effects';
import { poolOf } from '../../estate/relations';
import type { WorkKind } from '../../job/work-kind';
import { finishReduction } from '../reduce';
import { moveRate } from '../remove-group';

export const reducing: WorkKind = {
  name: 'pool-dedupe',
  words: {
    busy: 'equal pages are being looked for',
    tells: 'is being reduced',
    stop: 'reducing',
    share: 'reduced',
  },
  pace: (view, job, busy) => moveRate(view, poolOf(view, job)!, null, busy),
  fallsDue(view, job, now, newId) {
    const { effects, said } = finishReduction(view, job, now, newId);
    return { effects: [deleted('job', job), ...effects], said };
  },
};
