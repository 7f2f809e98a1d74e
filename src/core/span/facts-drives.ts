import type { Drive } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, raidGroupOf } from '../estate/relations';
import { driveRef } from '../operation/inquiry';
import { mediaFigures } from '../raid/media';
import { formatDecimalBytes } from '../units/bytes';
import { groupLine, type Told } from './facts-lines';
import { outsideLines } from './facts-outside';
import { drivePost } from './storey';

function roleOf(view: EstateView, drive: Drive): string {
  const group = (id: string | null) => (id ? view.table('raidGroup').get(id)?.name : undefined);
  const original = drive.standsInFor ? view.table('drive').get(drive.standsInFor) : undefined;
  if (drive.raidGroup)
    return `member of ${group(drive.raidGroup)}${original ? `, stands in for ${driveRef(view, original)}` : ''}`;
  if (drive.spare === 'dedicated') return `spare of ${group(drive.spareGroup)}`;
  if (drive.spare === 'shared') return 'shared spare';
  return drive.holdsData ? 'free, carries old data' : 'free';
}

function driveVerbs(drive: Drive, params: { array: string; drives: string[] }): Told['verbs'] {
  const verbs: Told['verbs'] = [];
  const add = (label: string, kind: string, more: Record<string, unknown> = {}) =>
    verbs.push({ label, do: kind, params: { ...params, ...more } });
  const gone = drive.state === 'failed' || drive.state === 'missing';
  if (drive.lun !== null) return [{ label: 'Let it go', do: 'outside.release', params: { array: params.array } }];
  if (!drive.raidGroup && !gone && drive.spare === 'no') {
    add('Carve RAID group', 'raid-group.create');
    add('Keep as spare', 'drive.assign-spare');
    if (drive.holdsData) add('Erase', 'drive.erase');
    if (drive.foreign) add('Clear label', 'drive.clear-label');
  }
  if (drive.spare !== 'no' && !drive.raidGroup) add('Release spare', 'drive.release-spare');
  if (drive.state === 'predicted' && drive.raidGroup) add('Copy to spare', 'drive.copy-to-spare');
  add('Replace', 'drive.replace');
  if (drive.state !== 'missing')
    add(drive.located ? 'Put lamp out' : 'Locate', 'drive.locate', { on: drive.located ? 'false' : 'true' });
  return verbs;
}

export function driveFacts(view: EstateView, id: string): Told {
  const drive = view.table('drive').get(id)!;
  const array = arrayOf(view, drive);
  const group = raidGroupOf(view, drive);
  const ref = driveRef(view, drive);
  return {
    name: `${array.name} ${ref}`,
    post: drivePost(view, drive),
    line: `${formatDecimalBytes(drive.capacity)} ${mediaFigures[drive.media].label}, ${roleOf(view, drive)}`,
    verbs: driveVerbs(drive, { array: array.name, drives: [ref] }),
    cells: [
      {
        title: 'Drive',
        rows: [
          { label: 'Serial', value: drive.serial, mono: true },
          { label: 'Sector', value: `${drive.sector} B` },
          { label: 'State', value: drive.located ? `${drive.state}, lamp blinks` : drive.state },
          ...(mediaFigures[drive.media].flash
            ? [{ label: 'Rated writes used', value: `${Math.ceil(drive.wear)} %` }]
            : []),
          { label: 'Read errors, 7 days', value: String(drive.recentErrors) },
        ],
      },
      {
        title: 'Carries',
        lines: group ? [groupLine(view, group.id)] : [{ text: 'Nothing yet. It can join a RAID group.' }],
      },
      ...(drive.lun === null ? [] : [{ title: 'Outside array', lines: outsideLines(view, [drive.id]) }]),
    ],
  };
}
