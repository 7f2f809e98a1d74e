import { z } from 'zod';
import { the } from '../operation/form';
import { changed } from '../estate/effects';
import { inquire } from '../operation/inquiry';
import { planned, refused, type OperationType } from '../operation/operation';
import { mediaFigures } from '../raid/media';
import { SECOND } from '../units/duration';
import { spareFigures } from './assign-spare';
import { askDrive, driveFields, type Against } from './drive-sheet';
import { someOf } from '../units/counted';
import { raidGroupOf } from '../estate/relations';

const schema = z.object({ array: z.string(), drives: z.array(z.string()).min(1, 'name at least one drive') });
type Params = z.output<typeof schema>;

const against: Against = (view, drive) => {
  if (drive.spare === 'no') return { code: 'no-spare', why: 'is no spare', mend: 'Choose a spare.' };
  if (!drive.raidGroup) return null;
  const group = raidGroupOf(view, drive)?.name;
  return {
    code: 'spare-in-use',
    why: `stands in for a member of ${group}`,
    mend: 'Replace the failed drive; the spare is free after the copy back.',
  };
};

export const driveReleaseSpare: OperationType<Params> = {
  kind: 'drive.release-spare',
  verb: 'Release spares',
  summary: 'Makes spares free drives again.',
  schema,
  form: {
    columns: [],
    fields: {
      array: the.array,
      drives: the.drives,
    },
  },
  title: (p) => `Release spares ${someOf(p.drives)} on ${p.array}`,
  units: (p) => p.drives.map((drive) => ({ ...p, drives: [drive] })),
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const drive = askDrive(view, asks, array, p.drives[0]!, against);
    if (asks.refusals.length > 0 || !array || !drive) return refused(asks.refusals);
    const { used, ready, advised } = spareFigures(view, array.id, drive.media);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Release spare ${p.drives[0]}: it is a free drive again`,
      takes: SECOND,
      effects: [changed('drive', drive, { spare: 'no', spareGroup: null })],
      notes:
        ready - 1 < advised
          ? [
              `${ready - 1} spares are left for ${used} drives of ${mediaFigures[drive.media].label}; ${advised} are advised.`,
            ]
          : [],
    });
  },
  foretell: (view, draft) => ({ fields: driveFields(view, draft, against).fields }),
};
