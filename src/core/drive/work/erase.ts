import { changed, deleted } from '../../estate/effects';
import type { WorkKind } from '../../job/work-kind';
import { driveRef } from '../../operation/inquiry';
import { arrayOf, driveOf } from '../../estate/relations';

export const erasing: WorkKind = {
  name: 'drive-erase',
  words: { busy: 'the drive is being erased', tells: 'is being erased', share: 'erased' },
  fallsDue(view, job) {
    const drive = driveOf(view, job);
    const name = drive ? `${arrayOf(view, drive).name} drive ${driveRef(view, drive)}` : 'The drive';
    return {
      effects: [deleted('job', job), ...(drive ? [changed('drive', drive, { holdsData: false })] : [])],
      said: `${name} is erased`,
    };
  },
};
