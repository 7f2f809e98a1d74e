import { z } from 'zod';
import { such, the } from '../operation/form';
import { changed, deleted, type Effect } from '../estate/effects';
import type { Drive } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { raidGroupOf } from '../estate/relations';
import { makeSerial } from '../naming/identity';
import { inquire } from '../operation/inquiry';
import { planned, refused, type OperationType, type PlanContext } from '../operation/operation';
import { sizeText } from '../operation/params';
import { usableOfDrive } from '../raid/geometry';
import { groupHealth } from '../raid/health';
import { tendGroup } from '../raid/tend';
import { formatBytes, formatDecimalBytes, parseBytes } from '../units/bytes';
import { formatDuration, SECOND } from '../units/duration';
import { askDrive, driveFields, type Against } from './drive-sheet';
import { someOf } from '../units/counted';

const schema = z.object({
  array: z.string(),
  drives: z.array(z.string()).min(1, 'name at least one drive'),
  capacity: sizeText.optional().describe('Of the new drive, as it is labelled; without it the same'),
});
type Params = z.output<typeof schema>;

const against: Against = (view, drive) => {
  const group = raidGroupOf(view, drive);
  if (!group || drive.state === 'failed' || drive.state === 'missing') return null;
  const { tolerates } = groupHealth(view, group);
  if (tolerates > 0) return null;
  return {
    code: 'drive-needed',
    why: `holds data that ${group.name} has no copy of just now`,
    mend: 'Wait until the group is whole again.',
  };
};

/** The rows after a new drive was put into the slot. */
function replaced(view: EstateView, drive: Drive, capacity: number, context: PlanContext): Effect[] {
  const overlay = new Overlay(view);
  const effects: Effect[] = [
    ...view
      .table('job')
      .by('drive', drive.id)
      .map((job) => deleted('job', job)),
    changed('drive', drive, {
      serial: makeSerial(`${drive.id} ${context.newId('drive')}`),
      capacity,
      state: drive.raidGroup ? 'rebuilding' : 'ok',
      wear: 0,
      mediaErrors: 0,
      recentErrors: 0,
      foreign: false,
      holdsData: false,
      located: false,
      rebuildFailedAt: null,
    }),
  ];
  overlay.apply(effects);
  const spare = view.table('drive').by('standsInFor', drive.id)[0];
  const group = drive.raidGroup ?? spare?.raidGroup;
  return group ? [...effects, ...tendGroup(overlay, group, context.now, context.newId)] : effects;
}

export const driveReplace: OperationType<Params> = {
  kind: 'drive.replace',
  verb: 'Replace drives',
  summary: 'A new drive is put into the slot of another: its group writes it again, or a spare hands its place back.',
  schema,
  form: {
    columns: [],
    fields: {
      array: the.array,
      drives: the.drives,
      capacity: such('New capacity', 'the same'),
    },
  },
  title: (p) => `Replace drives ${someOf(p.drives)} on ${p.array}`,
  units: (p) => p.drives.map((drive) => ({ ...p, drives: [drive] })),
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const ref = p.drives[0]!;
    const drive = askDrive(view, asks, array, ref, against);
    const capacity =
      p.capacity === undefined
        ? drive?.capacity
        : asks.value(parseBytes(p.capacity), 'capacity', { kind: 'drive', name: ref });
    const spare = drive && view.table('drive').by('standsInFor', drive.id)[0];
    const group = drive && view.table('raidGroup').get(drive.raidGroup ?? spare?.raidGroup ?? '');
    if (drive && group && capacity !== undefined && usableOfDrive(capacity) < group.memberSize)
      asks.refuse({
        code: 'drive-too-small',
        field: 'capacity',
        subject: { kind: 'drive', id: drive.id, name: ref },
        message: `A drive of ${formatDecimalBytes(capacity)} gives ${formatBytes(usableOfDrive(capacity))}; every member of ${group.name} gives ${formatBytes(group.memberSize)}.`,
        mend: `Put in one of at least ${formatDecimalBytes(drive.capacity)}.`,
      });
    if (asks.refusals.length > 0 || !array || !drive || capacity === undefined) return refused(asks.refusals);
    const effects = replaced(view, drive, capacity, context);
    const job = effects.find((effect) => effect.kind === 'job' && effect.after)?.after as
      { finishesAt: number; kind: string } | undefined;
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Replace drive ${ref}${job ? `: ${group!.name} ${job.kind === 'raid-copy-back' ? 'copies back to it' : 'writes it again'}, ${formatDuration(job.finishesAt - context.now)}` : ''}`,
      takes: 30 * SECOND,
      effects,
      destroys: drive.raidGroup || drive.holdsData ? `what drive ${ref} (serial ${drive.serial}) held` : null,
    });
  },
  foretell(view, draft) {
    const { fields, drives } = driveFields(view, draft, against);
    const [first] = drives;
    fields.capacity = { says: 'Left empty, the new one is as large as the old.' };
    if (first) {
      const group = raidGroupOf(view, first);
      const spare = view.table('drive').by('standsInFor', first.id)[0];
      const free = `Free drive, ${first.state === 'ok' ? 'whole' : first.state}.`;
      const stoodIn = spare ? 'The spare that stands in copies back to it and is free again.' : free;
      fields.drives!.says = group ? `${group.name} writes the new drive again from the others.` : stoodIn;
    }
    return { fields };
  },
};
