import { z } from 'zod';
import { pick, the } from '../operation/form';
import { changed } from '../estate/effects';
import type { Drive, RaidGroup } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { byName, draftText } from '../operation/draft';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type OperationType } from '../operation/operation';
import { levelText, shapeOfGroup } from '../raid/geometry';
import { mediaFigures } from '../raid/media';
import { unfit } from '../raid/members';
import { spareUnfit, sparesAdvised } from '../raid/rebuild';
import { needOf, tendGroup } from '../raid/tend';
import { SECOND } from '../units/duration';
import { askDrive, driveFields } from './drive-sheet';
import { someOf } from '../units/counted';

const schema = z.object({
  array: z.string(),
  drives: z.array(z.string()).min(1, 'name at least one drive'),
  raidGroup: z.string().optional().describe('Kept for this group alone; without it for every group it fits'),
});
type Params = z.output<typeof schema>;

/** Groups of the array that a spare could stand in for. */
export const groupsServed = (view: EstateView, drive: Drive): RaidGroup[] =>
  view
    .table('raidGroup')
    .by('array', drive.array)
    .filter((group) => group.level !== 'distributed' && !spareUnfit(drive, needOf(view, group, 0)));

/** Drives of the class in use, and spares that stand by for it. */
export function spareFigures(view: EstateView, array: string, media: Drive['media']) {
  const alike = view
    .table('drive')
    .by('array', array)
    .filter((drive) => drive.media === media);
  const used = alike.filter((drive) => drive.raidGroup).length;
  const ready = alike.filter((drive) => drive.spare !== 'no' && !drive.raidGroup && drive.state === 'ok').length;
  return { used, ready, advised: sparesAdvised(used, mediaFigures[media].annualFailureRate) };
}

export const driveAssignSpare: OperationType<Params> = {
  kind: 'drive.assign-spare',
  verb: 'Keep drives as spares',
  summary: 'Keeps free drives ready to stand in for failed members, of one group or of all.',
  schema,
  form: {
    columns: [],
    fields: {
      array: the.array,
      drives: the.drives,
      raidGroup: pick('For'),
    },
  },
  title: (p) => `Keep ${someOf(p.drives)} on ${p.array} as ${p.raidGroup ? `spares of ${p.raidGroup}` : 'spares'}`,
  units: (p) => p.drives.map((drive) => ({ ...p, drives: [drive] })),
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const ref = p.drives[0]!;
    const drive = askDrive(view, asks, array, ref, unfit);
    const group = array && p.raidGroup ? asks.find('raidGroup', p.raidGroup, 'raidGroup', array) : undefined;
    const why =
      drive && group && !drive.raidGroup ? spareUnfit({ ...drive, spare: 'no' }, needOf(view, group, 0)) : null;
    if (drive && group && why)
      asks.refuse({
        code: why.code,
        field: 'drives',
        subject: { kind: 'drive', id: drive.id, name: ref },
        message: `Drive ${ref} cannot stand in for a member of ${group.name}: it ${why.why}.`,
        mend: 'Choose a drive of the same medium and sector size, at least as large and as fast.',
      });
    if (asks.refusals.length > 0 || !array || !drive) return refused(asks.refusals);
    const effects = [
      changed('drive', drive, {
        spare: group ? 'dedicated' : 'shared',
        spareGroup: group?.id ?? null,
      }),
    ];
    const overlay = new Overlay(view);
    overlay.apply(effects);
    // A group that waits for a spare takes it at once.
    for (const one of view.table('raidGroup').by('array', array.id)) {
      const made = tendGroup(overlay, one.id, context.now, context.newId);
      overlay.apply(made);
      effects.push(...made);
    }
    const served = groupsServed(overlay, drive);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Keep drive ${ref} as ${group ? `a spare of ${group.name}` : 'a spare'}${effects.length > 1 ? '; it begins to stand in at once' : ''}`,
      takes: SECOND,
      effects,
      notes:
        !group && served.length === 0 && effects.length === 1
          ? [`Drive ${ref} fits no group of ${array.name}: it is too small, too slow or of another kind.`]
          : [],
    });
  },
  foretell(view, draft) {
    const { fields, array, drives } = driveFields(view, draft, unfit);
    fields.raidGroup = {};
    if (!array) return { fields };
    fields.raidGroup.choices = [
      { value: '', label: 'Every group it fits' },
      ...[...view.table('raidGroup').by('array', array.id)]
        .filter((group) => group.level !== 'distributed')
        .sort(byName)
        .map((group) => ({ value: group.name, label: `${group.name} ${levelText(shapeOfGroup(group))}` })),
    ];
    const group = lookUp(view, 'raidGroup', draftText(draft, 'raidGroup'), array.id);
    fields.raidGroup.says = group ? 'No other group may take it.' : 'Whichever group fails first takes it.';
    const [first] = drives;
    if (first) {
      const { used, ready, advised } = spareFigures(view, array.id, first.media);
      const served = groupsServed(view, first);
      fields.drives!.says = `Fits ${served.length === 0 ? 'no group' : served.map((one) => one.name).join(', ')}. ${ready + drives.length} spares for ${used} drives of ${mediaFigures[first.media].label}, ${advised} advised.`;
    }
    return { fields };
  },
};
