import type { Drive, RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { raidGroupOf } from '../estate/relations';
import { driveRef } from '../operation/inquiry';
import { strandedOf } from '../raid/members';
import { STRANDED_SHARE } from '../raid/choices';
import { groupHealth } from '../raid/health';
import { mediaFigures, slowestOf } from '../raid/media';
import { spareFor } from '../raid/tend';
import { formatBytes } from '../units/bytes';
import { arrayName, each, type Look } from './each';
import { offer, type Check, type Severity } from './finding';

const WORN = 80;
const WORN_OUT = 100;
/** New read errors within seven days that make a drive suspect. */
const RISING_ERRORS = 10;

const nameOf = (view: EstateView, drive: Drive): string => `${arrayName(view, drive)} ${driveRef(view, drive)}`;
const groupOf = (view: EstateView, drive: Drive): RaidGroup | undefined => raidGroupOf(view, drive);
export const membersOf = (view: EstateView, group: RaidGroup): Drive[] =>
  group.drives.flatMap((id) => view.table('drive').get(id) ?? []);

const one = (view: EstateView, drive: Drive) => ({ array: arrayName(view, drive), drives: [driveRef(view, drive)] });

const eachDrive = each('drive', driveRef);

/** A check that looks at each RAID group and its members. */
const eachGroup = (id: string, severity: Severity, title: string, look: Look<RaidGroup, Drive[]>): Check =>
  each('raidGroup', (_view, group) => group.name)(id, severity, title, (view, group) =>
    look(view, group, membersOf(view, group)),
  );

export const driveChecks: Check[] = [
  eachDrive('drive-failed-in-group', 'error', 'Failed members', (view, drive) => {
    const group = groupOf(view, drive);
    if (!group || (drive.state !== 'failed' && drive.state !== 'missing')) return null;
    const { tolerates } = groupHealth(view, group);
    return {
      says: `Drive ${nameOf(view, drive)} of group ${group.name} ${drive.state === 'failed' ? 'has failed' : 'is missing'}; ${tolerates} more ${tolerates === 1 ? 'failure' : 'failures'} survivable.`,
      advice: 'Replace it; the group writes the new one again.',
      mend: offer('Replace the drive', 'drive.replace', one(view, drive)),
    };
  }),
  eachDrive('drive-predicted-failure', 'warning', 'Drives that expect to fail', (view, drive) => {
    if (drive.state !== 'predicted') return null;
    const group = groupOf(view, drive);
    const spare =
      group && group.level !== 'distributed' && spareFor(view, group, group.drives.indexOf(drive.id), Infinity);
    return {
      says: `Drive ${nameOf(view, drive)} expects to fail.`,
      advice: spare ? 'Copy it to a spare, then replace it.' : 'Replace it before it fails.',
      mend: spare
        ? offer('Copy it to a spare', 'drive.copy-to-spare', one(view, drive))
        : offer('Replace the drive', 'drive.replace', one(view, drive)),
    };
  }),
  eachDrive('drive-wear-high', 'warning', 'Worn flash', (view, drive) =>
    drive.wear >= WORN && drive.wear < WORN_OUT && mediaFigures[drive.media].flash
      ? {
          says: `Drive ${nameOf(view, drive)}: ${Math.ceil(drive.wear)} % of its rated writes are used.`,
          advice: 'Plan its replacement, or keep busy volumes off it.',
          mend: offer('Replace the drive', 'drive.replace', one(view, drive)),
        }
      : null,
  ),
  eachDrive('drive-wear-out', 'error', 'Flash beyond its rated writes', (view, drive) =>
    drive.wear >= WORN_OUT && mediaFigures[drive.media].flash
      ? {
          says: `Drive ${nameOf(view, drive)} is beyond its rated writes: ${Math.ceil(drive.wear)} %.`,
          advice: 'Replace it now.',
          mend: offer('Replace the drive', 'drive.replace', one(view, drive)),
        }
      : null,
  ),
  eachDrive('drive-foreign-label', 'error', 'Foreign labels', (view, drive) =>
    drive.foreign
      ? {
          says: `Drive ${nameOf(view, drive)} carries data of another array.`,
          advice: 'Clear its label, if that data is not needed.',
          mend: offer('Clear the label', 'drive.clear-label', one(view, drive)),
        }
      : null,
  ),
  eachDrive('drive-media-errors-rising', 'warning', 'Read errors', (view, drive) =>
    drive.recentErrors >= RISING_ERRORS || (drive.recentErrors > 1 && drive.recentErrors * 2 >= drive.mediaErrors)
      ? {
          says: `Drive ${nameOf(view, drive)}: ${drive.recentErrors} read errors in 7 days, ${drive.mediaErrors} ever.`,
          advice: groupOf(view, drive) ? 'Scrub its group, and replace it.' : 'Replace it before it is used.',
          mend: groupOf(view, drive)
            ? offer('Scrub the group', 'raid-group.scrub', {
                array: arrayName(view, drive),
                name: groupOf(view, drive)!.name,
              })
            : offer('Replace the drive', 'drive.replace', one(view, drive)),
        }
      : null,
  ),
  eachDrive('drive-single-path', 'warning', 'Drives with one path', (view, drive) =>
    drive.links < 2
      ? {
          says: `Drive ${nameOf(view, drive)} has ${drive.links === 1 ? 'one path' : 'no path'} to the controllers.`,
          advice: 'Check the cabling of its enclosure.',
          mend: offer('Locate it', 'drive.locate', { ...one(view, drive), on: 'true' }),
        }
      : null,
  ),
  eachGroup('drive-sector-mix', 'error', 'Mixed sector sizes', (_view, group, members) => {
    const sizes = [...new Set(members.map((drive) => drive.sector))];
    return sizes.length > 1
      ? {
          says: `${group.name} mixes ${sizes.join(' and ')} byte sectors.`,
          advice: 'Carve it anew from drives of one sector size.',
          mend: null,
        }
      : null;
  }),
  eachGroup('drive-class-mix', 'warning', 'Mixed classes', (view, group, members) => {
    const media = [...new Set(members.map((drive) => drive.media))];
    if (media.length < 2 || new Set(media.map((one) => mediaFigures[one].flash)).size > 1) return null;
    return {
      says: `${group.name} runs at the speed of ${mediaFigures[slowestOf(media)].label}, its slowest class.`,
      advice: 'Regroup by class.',
      mend: offer('Carve another group', 'raid-group.create', { array: arrayName(view, group) }),
    };
  }),
  eachGroup('drive-medium-mix', 'error', 'Mixed media', (_view, group, members) =>
    new Set(members.map((drive) => mediaFigures[drive.media].flash)).size > 1
      ? { says: `${group.name} mixes flash and disk.`, advice: 'Regroup by medium.', mend: null }
      : null,
  ),
  eachGroup('drive-size-stranded', 'warning', 'Room lost to mixed sizes', (_view, group, members) => {
    const { stranded, total } = strandedOf(members);
    return stranded > STRANDED_SHARE * total
      ? {
          says: `${formatBytes(stranded)} of ${group.name} cannot be used: its drives differ in size.`,
          advice: 'Group drives by size.',
          mend: null,
        }
      : null;
  }),
];
