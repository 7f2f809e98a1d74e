import { deleted } from '../../estate/effects';
import type { WorkKind } from '../../job/work-kind';
import { finishConversion } from '../convert';

export const converting: WorkKind = {
  name: 'volume-convert',
  words: {
    busy: 'the volume is being converted',
    tells: 'is being converted',
    stop: 'converting',
    share: 'converted',
  },
  fallsDue(view, job, _now, newId) {
    const { effects, said } = finishConversion(view, job, newId);
    return { effects: [deleted('job', job), ...effects], said };
  },
};
