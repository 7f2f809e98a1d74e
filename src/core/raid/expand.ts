import { z } from 'zod';
import { folded, the } from '../operation/form';
import { created } from '../estate/effects';
import type { RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { workWords } from '../kinds/work-words';
import { startedJob } from '../job/work';
import { arrayChoices, byName, draftArray, draftList, draftText } from '../operation/draft';
import { driveRef, inquire, lookUp, lookUpDrive } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { flag } from '../operation/params';
import { subjectOf, type Refusal } from '../operation/refusal';
import { formatBytes } from '../units/bytes';
import { formatDuration, SECOND } from '../units/duration';
import { grownShape, levelFigures, levelText, shapeOfGroup, usableOf, usableOfDrive, type Shape } from './geometry';
import { groupHealth } from './health';
import { checkMembers, driveChoices, unfit } from './members';
import { rateOfExpansion } from './rates';

const schema = z.object({
  array: z.string(),
  name: z.string(),
  drives: z.array(z.string()).min(1, 'name at least one drive').describe('Drives that join, as enclosure:slot'),
  mixed: flag.default(false).describe('Agrees to classes of one medium being mixed'),
});
type Params = z.output<typeof schema>;

/** Why a group cannot be worked on now: it is not whole, or something else is at work on it. */
export function busyRefusal(view: EstateView, group: RaidGroup, field: string): Refusal | null {
  const { state, failed } = groupHealth(view, group);
  const subject = subjectOf('raidGroup', group);
  if (state === 'lost' || state === 'degraded')
    return {
      code: 'group-degraded',
      field,
      subject,
      message: `${group.name} is ${state}: ${failed.length} of its drives ${failed.length === 1 ? 'is' : 'are'} not whole.`,
      mend: 'Wait until it is rebuilt, or replace the drive.',
    };
  const job = view.table('job').by('raidGroup', group.id)[0];
  if (!job) return null;
  return {
    code: 'group-busy',
    field,
    subject,
    message: `${group.name} is at work: ${workWords[job.kind].busy}.`,
    mend: 'Wait until that is done.',
  };
}

const after = (group: RaidGroup, added: number): Shape | null => grownShape(shapeOfGroup(group), added);

export const raidGroupExpand: OperationType<Params> = {
  kind: 'raid-group.expand',
  verb: 'Expand a RAID group',
  summary: 'Adds drives to a RAID group; its stripes move while hosts work.',
  schema,
  form: {
    columns: [],
    fields: {
      array: the.array,
      name: the.group,
      drives: the.drives,
      mixed: folded({ label: 'Mixed classes', control: 'switch' }),
    },
  },
  title: (p) => `Expand RAID group ${p.name} on ${p.array} by ${p.drives.length} drives`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const group = array && asks.find('raidGroup', p.name, 'name', array);
    const drives = array ? p.drives.flatMap((ref) => asks.drive(ref, 'drives', array) ?? []) : [];
    checkMembers(view, asks, drives, p.mixed);
    const first = group && view.table('drive').get(group.drives[0]!)!;
    if (group && first) {
      const busy = busyRefusal(view, group, 'name');
      if (busy) asks.refuse(busy);
      for (const drive of drives) {
        const name = driveRef(view, drive);
        const subject = { kind: 'drive', id: drive.id, name } as const;
        if (drive.sector !== first.sector || drive.media !== first.media)
          asks.refuse({
            code: drive.sector === first.sector ? 'drive-class-mix' : 'drive-sector-mix',
            field: 'drives',
            subject,
            message: `Drive ${name} is not of the kind that ${group.name} is made of.`,
            mend: 'Choose drives of the same class and sector size.',
          });
        else if (usableOfDrive(drive.capacity) < group.memberSize)
          asks.refuse({
            code: 'drive-too-small',
            field: 'drives',
            subject,
            message: `Drive ${name} gives ${formatBytes(usableOfDrive(drive.capacity))}; every member of ${group.name} gives ${formatBytes(group.memberSize)}.`,
            mend: 'Choose a drive at least as large.',
          });
      }
      if (drives.length > 0 && !after(group, drives.length))
        asks.refuse({
          code: group.copies > 1 ? 'copies-not-divisible' : 'legs-not-divisible',
          field: 'drives',
          subject: subjectOf('raidGroup', group),
          message: `${levelText(shapeOfGroup(group))} cannot take ${drives.length} ${drives.length === 1 ? 'drive' : 'drives'} more.`,
          mend:
            group.copies > 1
              ? `Add drives by ${group.copies}.`
              : `Add drives by ${group.legs} (one a leg) or by ${group.drives.length / group.legs} (a leg more).`,
        });
    }
    if (asks.refusals.length > 0 || !array || !group) return refused(asks.refusals);
    const shape = after(group, drives.length)!;
    const usable = usableOf(shape, group.memberSize, group.chunk);
    const job = startedJob(
      {
        id: context.newId('job'),
        kind: 'raid-expand',
        array: array.id,
        raidGroup: group.id,
        partners: drives.map((drive) => drive.id),
        priority: group.priority,
        total: group.usable,
        rate: rateOfExpansion(view, group, group.priority),
      },
      context.now,
    );
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Expand ${group.name} to ${levelText(shape)}: ${formatBytes(usable - group.usable)} more after ${formatDuration(job.finishesAt - context.now)}`,
      takes: 5 * SECOND,
      effects: [created('job', job)],
      notes: [`The new room is there when all stripes have moved; the level stays ${levelFigures[group.level].label}.`],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const fields: Foretold['fields'] = { array: { choices: arrayChoices(view) }, name: {}, drives: {}, mixed: {} };
    if (!array) return { fields };
    fields.name!.choices = [...view.table('raidGroup').by('array', array.id)].sort(byName).map((group) => {
      const busy = busyRefusal(view, group, 'name');
      return {
        value: group.name,
        label: `${group.name} ${levelText(shapeOfGroup(group))}`,
        ...(busy ? { unfit: busy.code === 'group-busy' ? 'is at work' : 'is not whole' } : {}),
      };
    });
    const group = lookUp(view, 'raidGroup', draftText(draft, 'name'), array.id);
    const first = group && view.table('drive').get(group.drives[0]!);
    fields.drives!.choices = driveChoices(view, array, (v, drive) => {
      const problem = unfit(v, drive);
      if (problem || !first || !group) return problem;
      const alike = drive.media === first.media && drive.sector === first.sector;
      if (alike && usableOfDrive(drive.capacity) >= group.memberSize) return null;
      return { code: 'other-kind', why: alike ? 'is too small' : 'is of another kind', mend: '' };
    });
    if (!group) return { fields };
    const added = draftList(draft, 'drives').flatMap((ref) => lookUpDrive(view, ref, array.id) ?? []).length;
    const shape = added > 0 ? after(group, added) : null;
    fields.name!.says = `${levelText(shapeOfGroup(group))}, ${formatBytes(group.usable)} usable.`;
    fields.drives!.says = shape
      ? `${levelText(shape)}: ${formatBytes(usableOf(shape, group.memberSize, group.chunk))} usable after ${formatDuration((group.usable / rateOfExpansion(view, group, group.priority)) * 1000)}.`
      : joinWords(added);
    return { fields };
  },
};

const joinWords = (added: number): string => (added > 0 ? 'That many cannot join.' : 'Tick the drives that join.');
