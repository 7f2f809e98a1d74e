import { changed, deleted } from '../../estate/effects';
import type { WorkKind } from '../../job/work-kind';
import { driveRef } from '../../operation/inquiry';

export const erasing: WorkKind = {
  name: 'drive-erase',
  words: { busy: 'the drive is being erased', tells: 'is being erased', share: 'erased' },
  fallsDue(view, job) {
    const drive = view.table('drive').get(job.drive!);
    const name = drive ? `${view.table('array').get(drive.array)?.name} drive ${driveRef(view, drive)}` : 'The drive';
    return {
      effects: [deleted('job', job), ...(drive ? [changed('drive', drive, { holdsData: false })] : [])],
      said: `${name} is erased`,
    };
  },
};
