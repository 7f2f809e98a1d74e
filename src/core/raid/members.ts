import type { ArrayRow, Drive } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { enclosureOf } from '../estate/relations';
import { byName } from '../operation/draft';
import { driveRef, type Inquiry } from '../operation/inquiry';
import { formatBytes, formatDecimalBytes, type Bytes } from '../units/bytes';
import { STRANDED_SHARE } from './choices';
import { usableOfDrive } from './geometry';
import { mediaFigures, slowestOf } from './media';

interface Unfit {
  code: string;
  why: string;
  mend: string;
}

/** Why a drive cannot join a group now, or null. */
export function unfit(view: EstateView, drive: Drive): Unfit | null {
  const groupName = (id: string) => view.table('raidGroup').get(id)?.name ?? 'another group';
  const no = (code: string, why: string, mend: string): Unfit => ({ code, why, mend });
  if (drive.lun !== null)
    return no(
      'drive-outside',
      'is a LUN of an outside array, in a group of its own',
      'Choose a drive of metal, or let the LUN go.',
    );
  if (drive.raidGroup)
    return no('drive-in-use', `is a member of ${groupName(drive.raidGroup)}`, 'Choose a free drive.');
  if (drive.state === 'failed')
    return no('drive-failed', 'has failed', 'Choose a drive that stands, or replace this one.');
  if (drive.state === 'missing') return no('drive-missing', 'is missing', 'Put it back, or choose another.');
  if (drive.foreign)
    return no(
      'drive-foreign-label',
      'carries data of another array',
      'Clear its label first, if that data is not needed.',
    );
  if (drive.spare !== 'no')
    return no(
      'drive-is-spare',
      drive.spareGroup ? `is kept as a spare of ${groupName(drive.spareGroup)}` : 'is kept as a spare',
      'Release the spare first, or choose another drive.',
    );
  const joining = view.table('job').by('partners', drive.id)[0];
  if (joining?.kind === 'raid-expand')
    return no('drive-in-use', `is joining ${groupName(joining.raidGroup!)}`, 'Choose a free drive.');
  const job = view.table('job').by('drive', drive.id)[0];
  if (job?.kind === 'drive-erase')
    return no('drive-erasing', 'is being erased', 'Wait until it is erased, or choose another.');
  if (job || drive.state === 'rebuilding') return no('drive-in-use', 'is being rebuilt', 'Choose a free drive.');
  if (enclosureOf(view, drive).state === 'down')
    return no('enclosure-down', 'stands in an enclosure that does not answer', 'Mend the enclosure first.');
  if (drive.state === 'predicted')
    return no('drive-predicted-failure', 'expects to fail', 'Choose another, or replace it first.');
  return null;
}

/** What speaks against drives working together. `mixed` allows classes of one medium to be mixed. */
export function checkMembers(view: EstateView, asks: Inquiry, drives: readonly Drive[], mixed: boolean): void {
  const seen = new Set<string>();
  for (const drive of drives) {
    const name = driveRef(view, drive);
    const subject = { kind: 'drive', id: drive.id, name } as const;
    const problem = unfit(view, drive);
    if (problem)
      asks.refuse({
        code: problem.code,
        field: 'drives',
        subject,
        message: `Drive ${name} ${problem.why}.`,
        mend: problem.mend,
      });
    if (seen.has(drive.id))
      asks.refuse({
        code: 'drive-twice',
        field: 'drives',
        subject,
        message: `Drive ${name} is named twice.`,
        mend: 'Name each drive once.',
      });
    seen.add(drive.id);
  }
  const [first] = drives;
  if (!first) return;
  const against = (other: Drive | undefined, code: string, said: (a: string, b: string) => string, mend: string) => {
    if (!other) return false;
    const names = [driveRef(view, first), driveRef(view, other)] as const;
    asks.refuse({
      code,
      field: 'drives',
      subject: { kind: 'drive', id: other.id, name: names[1] },
      message: said(...names),
      mend,
    });
    return true;
  };
  const kind = (drive: Drive) => mediaFigures[drive.media];
  const media = drives.find((drive) => kind(drive).flash !== kind(first).flash);
  against(
    media,
    'drive-medium-mix',
    (a, b) => `Drive ${a} is ${kind(first).label}, ${b} is ${kind(media!).label}: a group takes one medium.`,
    'Choose flash alone or disk alone.',
  );
  const sector = drives.find((drive) => drive.sector !== first.sector);
  against(
    sector,
    'drive-sector-mix',
    (a, b) => `Drive ${a} has sectors of ${first.sector} bytes, ${b} of ${sector!.sector}.`,
    'Choose drives of one sector size.',
  );
  const other = media || mixed ? undefined : drives.find((drive) => drive.media !== first.media);
  against(
    other,
    'drive-class-mix',
    (a, b) =>
      `Drive ${a} is ${kind(first).label}, ${b} is ${kind(other!).label}: the group would run at the speed of the slower.`,
    'Choose one class, or agree to mixed classes.',
  );
}

/** What an administrator should know of drives that may work together. */
export function memberNotes(view: EstateView, drives: readonly Drive[], survives: number, width: number): string[] {
  const said: string[] = [];
  const { stranded, total } = strandedOf(drives);
  if (stranded > STRANDED_SHARE * total)
    said.push(
      `${formatBytes(stranded)} of the larger drives cannot be used, since every member gives as much as the smallest.`,
    );
  const slowest = slowestOf(drives.map((drive) => drive.media));
  if (drives.some((drive) => drive.media !== slowest))
    said.push(`Classes are mixed: the group runs at the speed of ${mediaFigures[slowest].label}.`);
  const lost = fatalEnclosure(drives, survives, width);
  if (lost) {
    const number = enclosureOf(view, lost).number;
    said.push(
      lost.members === drives.length
        ? `All ${drives.length} stand in enclosure ${number}: lose the enclosure, lose the group.`
        : `${lost.members} members of one leg stand in enclosure ${number}, ${survives} may fail: lose the enclosure, lose the group.`,
    );
  }
  return said;
}

export function strandedOf(drives: readonly Drive[]): { stranded: Bytes; total: Bytes; smallest: Bytes } {
  const usables = drives.map((drive) => usableOfDrive(drive.capacity));
  const total = usables.reduce((sum, one) => sum + one, 0);
  const smallest = Math.min(...usables);
  return { stranded: total - smallest * drives.length, total, smallest };
}

/** The enclosure whose loss takes a group down: it holds more members of a leg (of `width` drives) than that survives. */
export function fatalEnclosure(
  drives: readonly Drive[],
  survives: number,
  width: number,
): { enclosure: string; members: number } | null {
  let worst: { enclosure: string; members: number } | null = null;
  for (let from = 0; from < drives.length; from += width) {
    const held = new Map<string, number>();
    for (const { enclosure } of drives.slice(from, from + width)) {
      const members = (held.get(enclosure) ?? 0) + 1;
      held.set(enclosure, members);
      if (members > survives && members > (worst?.members ?? 0)) worst = { enclosure, members };
    }
  }
  return worst;
}

/** Every drive of the array with what speaks against it, in the order of their slots. */
export function driveChoices(view: EstateView, array: ArrayRow, against = unfit) {
  return view
    .table('drive')
    .by('array', array.id)
    .map((drive) => ({ drive, name: driveRef(view, drive) }))
    .sort((a, b) => byName(a, b))
    .map(({ drive, name }) => {
      const problem = against(view, drive);
      return {
        value: name,
        label: `${name} ${mediaFigures[drive.media].label} ${formatDecimalBytes(drive.capacity)}`,
        ...(problem ? { unfit: problem.why } : {}),
      };
    });
}
