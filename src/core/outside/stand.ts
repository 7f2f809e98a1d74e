import { changed, created, deleted, type Effect } from '../estate/effects';
import { rowOf, type Drive, type MediaClass, type OutsideLun, type RaidGroup, type Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { lookUp } from '../operation/inquiry';
import type { PlanContext } from '../operation/operation';
import { DEFAULT_CHUNK } from '../raid/choices';
import { MIB, parseBytes, type Bytes } from '../units/bytes';
import { backOf, outsideOf } from './ask';

/** A LUN is cut into pieces of this size: the smallest extents that volumes straight from a group are given. */
const PIECE: Bytes = 64 * MIB;

const chunkOf = (): Bytes => {
  const chunk = parseBytes(DEFAULT_CHUNK);
  return chunk.ok ? chunk.value : 0;
};

/** How an outside array's LUNs are called among the groups of the array behind which they stand. */
export function groupName(view: EstateView, row: OutsideLun): string {
  const stem = `${outsideOf(view, row).name}-lun-${row.lun}`;
  for (let number = 1; ; number++) {
    const name = number === 1 ? stem : `${stem}-${number}`;
    if (!lookUp(view, 'raidGroup', name, row.array)) return name;
  }
}

/** The enclosure that stands for an outside array at the one behind which its LUNs come. */
function enclosureFor(
  view: EstateView,
  row: OutsideLun,
  newId: PlanContext['newId'],
): { id: string; effects: Effect[] } {
  const outside = outsideOf(view, row).id;
  const own = view.table('enclosure').by('array', row.array);
  const present = own.find((one) => one.outside === outside);
  if (present)
    return {
      id: present.id,
      effects: row.lun < present.slots ? [] : [changed('enclosure', present, { slots: row.lun + 1 })],
    };
  const id = newId('enclosure');
  const number = Math.max(-1, ...own.map((one) => one.number)) + 1;
  const slots = Math.max(row.lun + 1, view.table('volume').countBy('array', outside));
  return { id, effects: [created('enclosure', rowOf('enclosure', { id, array: row.array, number, slots, outside }))] };
}

/**
 * A LUN stands behind its array like a drive, in a group of one: what it lacks in redundancy of its own is what the outside array is declared to
 * have. Used whole (its size rounded up to pieces, of which the volume in front takes all) or as room (rounded down).
 */
export function stood(
  view: EstateView,
  row: OutsideLun,
  how: { media: MediaClass; declared: number | null; whole: boolean },
  newId: PlanContext['newId'],
): { group: RaidGroup; drive: Drive; effects: Effect[] } {
  const volume = backOf(view, row);
  const enclosure = enclosureFor(view, row, newId);
  const pieces = how.whole ? Math.ceil(volume.size / PIECE) : Math.floor(volume.size / PIECE);
  const ids = { drive: newId('drive'), group: newId('raidGroup') };
  const drive = rowOf('drive', {
    id: ids.drive,
    array: row.array,
    enclosure: enclosure.id,
    slot: row.lun,
    serial: volume.serial,
    media: how.media,
    capacity: volume.size,
    sector: volume.blockSize,
    state: 'ok',
    raidGroup: ids.group,
    holdsData: how.whole,
    lun: volume.id,
  });
  const group = rowOf('raidGroup', {
    id: ids.group,
    name: groupName(view, row),
    array: row.array,
    level: 'raid0',
    chunk: chunkOf(),
    drives: [drive.id],
    memberSize: pieces * PIECE,
    usable: pieces * PIECE,
    pool: null,
    data: 1,
    parity: 0,
    declared: how.declared,
  });
  return { group, drive, effects: [...enclosure.effects, created('drive', drive), created('raidGroup', group)] };
}

/** What goes when a LUN no longer stands behind its array: its group, the drive, and with the last one the enclosure. */
export function takenOut(view: EstateView, row: OutsideLun): Effect[] {
  const drive = row.drive === null ? undefined : view.table('drive').get(row.drive);
  if (!drive) return [];
  const group = drive.raidGroup === null ? undefined : view.table('raidGroup').get(drive.raidGroup);
  const enclosure = view.table('enclosure').get(drive.enclosure)!;
  return [
    ...(group
      ? view
          .table('job')
          .by('raidGroup', group.id)
          .map((job) => deleted('job', job))
      : []),
    ...(group ? [deleted('raidGroup', group)] : []),
    deleted('drive', drive),
    ...(view.table('drive').countBy('enclosure', enclosure.id) === 1 ? [deleted('enclosure', enclosure)] : []),
  ];
}

/** What of a volume is its data and what hosts do with it, whichever array shows it. */
const carried = [
  'written',
  'holes',
  'content',
  'files',
  'writtenAt',
  'blockSize',
  'activity',
  'workload',
  'notes',
  'important',
  'boot',
  'shared',
] as const satisfies readonly (keyof Volume)[];

export const carriedOver = (volume: Volume): Pick<Volume, (typeof carried)[number]> =>
  Object.fromEntries(carried.map((field) => [field, volume[field]])) as Pick<Volume, (typeof carried)[number]>;
