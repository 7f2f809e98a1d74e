import { deleted } from '../../estate/effects';
import { poolOf } from '../../estate/relations';
import type { WorkKind } from '../../job/work-kind';
import { moveRate } from '../../pool/remove-group';
import { finishConversion } from '../convert';

export const converting: WorkKind = {
  name: 'volume-convert',
  words: {
    busy: 'the volume is being converted',
    tells: 'is being converted',
    stop: 'converting',
    share: 'converted',
  },
  pace: (view, job, busy) => moveRate(view, poolOf(view, job)!, null, busy),
  fallsDue(view, job, _now, newId) {
    const { effects, said } = finishConversion(view, job, newId);
    return { effects: [deleted('job', job), ...effects], said };
  },
};
