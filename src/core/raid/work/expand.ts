import { changed } from '../../estate/effects';
import { grownShape, shapeFields, shapeOfGroup, usableOf } from '../geometry';
import { atItsEnd, type GroupWork } from '../group-work';
import { rateOfExpansion } from '../rates';

export const expanding: GroupWork = {
  name: 'raid-expand',
  words: {
    busy: 'its stripes move to more drives',
    tells: 'moves its stripes to more drives',
    stop: 'expanding',
    share: 'expanded',
  },
  rate: rateOfExpansion,
  fallsDue: atItsEnd(({ view, group, job }) => {
    const shape = grownShape(shapeOfGroup(group), job.partners.length)!;
    return {
      effects: [
        changed('raidGroup', group, {
          ...shapeFields(shape),
          drives: [...group.drives, ...job.partners],
          usable: usableOf(shape, group.memberSize, group.chunk),
        }),
        ...job.partners.flatMap((id) => {
          const drive = view.table('drive').get(id);
          return drive ? [changed('drive', drive, { raidGroup: group.id })] : [];
        }),
      ],
      said: `spans ${group.drives.length + job.partners.length} drives now`,
    };
  }),
};
