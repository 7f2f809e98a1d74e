import { changed, type Effect } from '../../estate/effects';
import type { Drive, RaidGroup } from '../../estate/entities';
import type { EstateView } from '../../estate/estate';
import { atItsEnd, type GroupWork } from '../group-work';
import { rateOfCopyBack } from '../rates';

export const copyingBack: GroupWork = {
  name: 'raid-copy-back',
  words: { busy: 'a replaced drive is being written', tells: 'copies back to a replaced drive', share: 'copied back' },
  rate: rateOfCopyBack,
  fallsDue: atItsEnd(({ view, group, drive }) =>
    drive
      ? { effects: copiedBack(view, group, drive), said: 'has its replaced drive back; the spare is free again' }
      : { effects: [], said: 'is initialised' },
  ),
};

function copiedBack(view: EstateView, group: RaidGroup, drive: Drive): Effect[] {
  if (group.level === 'distributed')
    return [
      changed('drive', drive, { state: 'ok' }),
      changed('raidGroup', group, { moved: group.moved.filter((id) => id !== drive.id) }),
    ];
  const spare = view.table('drive').by('standsInFor', drive.id)[0];
  if (!spare) return [changed('drive', drive, { state: 'ok' })];
  return [
    changed('drive', drive, { state: 'ok', raidGroup: group.id }),
    changed('drive', spare, { raidGroup: null, standsInFor: null, holdsData: true }),
    changed('raidGroup', group, { drives: group.drives.map((id) => (id === spare.id ? drive.id : id)) }),
  ];
}
