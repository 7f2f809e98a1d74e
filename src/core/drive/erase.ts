import { z } from 'zod';
import { the } from '../operation/form';
import { created } from '../estate/effects';
import { startedJob } from '../job/work';
import { inquire } from '../operation/inquiry';
import { planned, refused, type OperationType } from '../operation/operation';
import { eraseRate } from '../raid/delete';
import { unfit } from '../raid/members';
import { formatDuration, SECOND } from '../units/duration';
import { askDrive, driveFields, type Against } from './drive-sheet';
import { someOf } from '../units/counted';

const schema = z.object({ array: z.string(), drives: z.array(z.string()).min(1, 'name at least one drive') });
type Params = z.output<typeof schema>;

const against: Against = (view, drive) => {
  const problem = unfit(view, drive);
  // What makes a drive unfit for a group may still be erased.
  return problem && problem.code !== 'drive-predicted-failure' ? problem : null;
};

export const driveErase: OperationType<Params> = {
  kind: 'drive.erase',
  verb: 'Erase drives securely',
  summary: 'Writes disks over and makes flash forget its key, so that drives may leave the house.',
  schema,
  form: {
    columns: [],
    fields: {
      array: the.array,
      drives: the.drives,
    },
  },
  title: (p) => `Erase drives ${someOf(p.drives)} on ${p.array}`,
  units: (p) => p.drives.map((drive) => ({ ...p, drives: [drive] })),
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const ref = p.drives[0]!;
    const drive = askDrive(view, asks, array, ref, against);
    if (asks.refusals.length > 0 || !array || !drive) return refused(asks.refusals);
    const job = startedJob(
      {
        id: context.newId('job'),
        kind: 'drive-erase',
        array: array.id,
        drive: drive.id,
        total: drive.capacity,
        rate: eraseRate(drive),
      },
      context.now,
    );
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Erase drive ${ref}: done after ${formatDuration(job.finishesAt - context.now)}`,
      takes: SECOND,
      effects: [created('job', job)],
      destroys: drive.holdsData ? `what a former group left on drive ${ref}` : null,
    });
  },
  foretell(view, draft) {
    const { fields, drives } = driveFields(view, draft, against);
    if (drives.length > 0)
      fields.drives!.says = `${drives.filter((drive) => drive.holdsData).length} of ${drives.length} carry old data; the slowest takes ${formatDuration(Math.max(...drives.map((drive) => drive.capacity / eraseRate(drive))) * 1000)}.`;
    return { fields };
  },
};
