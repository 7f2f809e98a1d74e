import { z } from 'zod';
import { the } from '../operation/form';
import { changed } from '../estate/effects';
import { inquire } from '../operation/inquiry';
import { planned, refused, type OperationType } from '../operation/operation';
import { SECOND } from '../units/duration';
import { askDrive, driveFields, type Against } from './drive-sheet';
import { someOf } from '../units/counted';

const schema = z.object({ array: z.string(), drives: z.array(z.string()).min(1, 'name at least one drive') });
type Params = z.output<typeof schema>;

const foreign: Against = (_view, drive) =>
  drive.foreign ? null : { code: 'no-foreign-label', why: 'carries no foreign label', mend: 'Leave it as it is.' };

export const driveClearLabel: OperationType<Params> = {
  kind: 'drive.clear-label',
  verb: 'Clear foreign labels',
  summary: 'Clears the label another array has left on a drive, so that it can be used here.',
  schema,
  form: {
    columns: [],
    fields: {
      array: the.array,
      drives: the.drives,
    },
  },
  title: (p) => `Clear the foreign label of ${someOf(p.drives)} on ${p.array}`,
  units: (p) => p.drives.map((drive) => ({ ...p, drives: [drive] })),
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const drive = askDrive(view, asks, array, p.drives[0]!, foreign);
    if (asks.refusals.length > 0 || !array || !drive) return refused(asks.refusals);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Clear the foreign label of drive ${p.drives[0]}`,
      takes: SECOND,
      effects: [changed('drive', drive, { foreign: false, holdsData: true })],
      destroys: `the other array's claim on drive ${p.drives[0]}`,
    });
  },
  foretell: (view, draft) => ({ fields: driveFields(view, draft, foreign).fields }),
};
