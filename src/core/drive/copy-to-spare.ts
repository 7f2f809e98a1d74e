import { z } from 'zod';
import { the } from '../operation/form';
import { changed, created } from '../estate/effects';
import { startedJob } from '../job/work';
import { driveRef, inquire } from '../operation/inquiry';
import { planned, refused, type OperationType } from '../operation/operation';
import { rateOfCopyBack } from '../raid/rates';
import { spareFor } from '../raid/tend';
import { formatDuration, SECOND } from '../units/duration';
import { askDrive, driveFields, type Against } from './drive-sheet';
import { someOf } from '../units/counted';
import { raidGroupOf } from '../estate/relations';

const schema = z.object({ array: z.string(), drives: z.array(z.string()).min(1, 'name at least one drive') });
type Params = z.output<typeof schema>;

const against: Against = (view, drive) => {
  const group = raidGroupOf(view, drive);
  if (!group) return { code: 'no-member', why: 'is no member of a RAID group', mend: 'Choose a member.' };
  if (group.level === 'distributed')
    return {
      code: 'level-has-spare-space',
      why: `belongs to ${group.name}, which keeps its spare space on all drives`,
      mend: 'Replace the drive; the group rebuilds by itself.',
    };
  if (drive.state !== 'ok' && drive.state !== 'predicted')
    return { code: 'drive-not-readable', why: `is ${drive.state}`, mend: 'Replace it.' };
  if (view.table('job').countBy('partners', drive.id) > 0)
    return { code: 'drive-busy', why: 'is being copied already', mend: 'Wait until that is done.' };
  return null;
};

export const driveCopyToSpare: OperationType<Params> = {
  kind: 'drive.copy-to-spare',
  verb: 'Copy drives to spares',
  summary: 'Copies a member that expects to fail to a spare, which takes its place while redundancy stays whole.',
  schema,
  form: {
    columns: [],
    fields: {
      array: the.array,
      drives: the.drives,
    },
  },
  title: (p) => `Copy drives ${someOf(p.drives)} on ${p.array} to spares`,
  units: (p) => p.drives.map((drive) => ({ ...p, drives: [drive] })),
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const ref = p.drives[0]!;
    const drive = askDrive(view, asks, array, ref, against);
    const group = drive?.raidGroup ? raidGroupOf(view, drive) : undefined;
    const spare =
      drive && group && asks.refusals.length === 0
        ? spareFor(view, group, group.drives.indexOf(drive.id), context.now)
        : undefined;
    if (drive && group && asks.refusals.length === 0 && !spare)
      asks.refuse({
        code: 'spare-none',
        field: 'drives',
        subject: { kind: 'drive', id: drive.id, name: ref },
        message: `No spare fits ${group.name}.`,
        mend: 'Keep a drive of its kind as a spare first.',
      });
    if (asks.refusals.length > 0 || !array || !drive || !group || !spare) return refused(asks.refusals);
    const job = startedJob(
      {
        id: context.newId('job'),
        kind: 'drive-copy',
        array: array.id,
        raidGroup: group.id,
        drive: spare.id,
        partners: [drive.id],
        priority: group.priority,
        total: group.memberSize,
        rate: rateOfCopyBack(view, group, group.priority),
      },
      context.now,
    );
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Copy drive ${ref} to spare ${driveRef(view, spare)}: done after ${formatDuration(job.finishesAt - context.now)}, ${group.name} stays whole`,
      takes: SECOND,
      effects: [changed('drive', spare, { state: 'rebuilding' }), created('job', job)],
    });
  },
  foretell: (view, draft) => ({ fields: driveFields(view, draft, against).fields }),
};
