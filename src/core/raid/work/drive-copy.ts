import { changed } from '../../estate/effects';
import { atItsEnd, type GroupWork } from '../group-work';
import { rateOfCopyBack } from '../rates';
import { driveOf } from '../../estate/relations';

/** A drive that expects to fail is copied to a spare while its group stays whole. */
export const copyingDrive: GroupWork = {
  name: 'drive-copy',
  words: {
    busy: 'a drive is being copied to a spare',
    tells: 'copies a drive to a spare',
    stop: 'copying a drive',
    share: 'copied',
  },
  rate: rateOfCopyBack,
  fallsDue: atItsEnd(({ view, group, drive, job }) => {
    if (!drive) return { effects: [], said: 'is initialised' };
    const source = view.table('drive').get(job.partners[0]!)!;
    return {
      effects: [
        changed('drive', drive, { state: 'ok', raidGroup: group.id, standsInFor: source.id }),
        changed('drive', source, { raidGroup: null, holdsData: true }),
        changed('raidGroup', group, { drives: group.drives.map((id) => (id === source.id ? drive.id : id)) }),
      ],
      said: 'no longer rests on the drive that expects to fail',
    };
  }),
  stopped: (view, job) => {
    const spare = driveOf(view, job);
    return spare ? [changed('drive', spare, { state: 'ok' })] : [];
  },
};
