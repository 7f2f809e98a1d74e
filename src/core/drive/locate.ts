import { z } from 'zod';
import { pick, the } from '../operation/form';
import { changed } from '../estate/effects';
import { draftText } from '../operation/draft';
import { inquire } from '../operation/inquiry';
import { planned, refused, type OperationType } from '../operation/operation';
import { flag } from '../operation/params';
import { SECOND } from '../units/duration';
import { askDrive, driveFields, type Against } from './drive-sheet';

const schema = z.object({
  array: z.string(),
  drives: z.array(z.string()).min(1, 'name at least one drive'),
  on: flag.default(true),
});
type Params = z.output<typeof schema>;

const against: Against = (_view, drive) =>
  drive.state === 'missing' ? { code: 'drive-missing', why: 'is missing', mend: 'Look at its slot.' } : null;

export const driveLocate: OperationType<Params> = {
  kind: 'drive.locate',
  verb: 'Locate drives',
  summary: 'Lets the lamp of a drive blink, or stops it, so that the right slot is pulled.',
  schema,
  form: {
    columns: [],
    fields: {
      array: the.array,
      drives: the.drives,
      on: pick('Lamp'),
    },
  },
  title: (p) =>
    `${p.on ? 'Let' : 'Stop'} the lamp of ${p.drives.join(', ')} on ${p.array} ${p.on ? 'blink' : ''}`.trim(),
  units: (p) => p.drives.map((drive) => ({ ...p, drives: [drive] })),
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const drive = askDrive(view, asks, array, p.drives[0]!, against);
    if (asks.refusals.length > 0 || !array || !drive) return refused(asks.refusals);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: p.on ? `The lamp of drive ${p.drives[0]} blinks` : `The lamp of drive ${p.drives[0]} is dark`,
      takes: SECOND,
      effects: [changed('drive', drive, { located: p.on })],
    });
  },
  foretell(view, draft) {
    const { fields, drives } = driveFields(view, draft, against);
    fields.on = {
      choices: [
        { value: 'true', label: 'Blinks' },
        { value: 'false', label: 'Dark' },
      ],
      suggested: 'true',
      says: draftText(draft, 'on') === 'false' ? 'The lamp goes out.' : 'The lamp blinks until it is put out.',
    };
    if (drives.length > 0)
      fields.drives!.says = drives
        .slice(0, 3)
        .map((drive) => `Serial ${drive.serial}${drive.located ? ', blinks now' : ''}.`)
        .join(' ');
    return { fields };
  },
};
