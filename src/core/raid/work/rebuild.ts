import { changed } from '../../estate/effects';
import { atItsEnd, type GroupWork } from '../group-work';
import { rateOfRebuild } from '../rates';

export const rebuilding: GroupWork = {
  name: 'raid-rebuild',
  words: { busy: 'a drive is being rebuilt', tells: 'rebuilds a drive', share: 'rebuilt' },
  rate: rateOfRebuild,
  fallsDue: atItsEnd(({ group, drive }) => {
    if (!drive) return { effects: [], said: 'is initialised' };
    const intoSpareSpace = group.level === 'distributed' && drive.state !== 'rebuilding';
    return {
      effects: [
        intoSpareSpace
          ? changed('raidGroup', group, { moved: [...group.moved, drive.id] })
          : changed('drive', drive, { state: 'ok' }),
      ],
      said: 'is whole again: the drive is rebuilt',
    };
  }),
};
