import { ownArrays } from '../estate/own';
import { imageOf } from '../copies/cut';
import type { ArrayRow, HostDevice, OutsideLun, OutsideLunState, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { hostOf } from '../estate/relations';
import type { Inspected } from '../move/outside';
import { byName } from '../operation/draft';
import type { Inquiry } from '../operation/inquiry';
import { nextStep, type NextStep } from '../operation/next-step';
import type { Choice } from '../operation/operation';
import { subjectOf, type Refusal } from '../operation/refusal';
import { lunSilence } from '../raid/health';
import { formatBytes } from '../units/bytes';
import { momentText } from '../units/date';
import { SECOND, type Milliseconds } from '../units/duration';

/** Lines of its log that a LUN keeps. */
const LINES = 40;

export const noted = ({ log }: Pick<OutsideLun, 'log'>, at: Milliseconds, says: string): OutsideLun['log'] =>
  [...log, { at, says }].slice(-LINES);

export const stateWords: Record<OutsideLunState, string> = {
  found: 'was found, and not inspected yet',
  inspected: 'was inspected',
  fenced: 'is shown to its array alone',
  fronted: 'serves hosts from behind its array',
  member: 'is blank room of its array',
  done: 'was let go',
};

export const backOf = (view: EstateView, row: OutsideLun): Volume => view.table('volume').get(row.volume)!;

/** The outside array that shows a LUN. */
export const outsideOf = (view: EstateView, row: OutsideLun): ArrayRow =>
  view.table('array').get(backOf(view, row).array)!;

/** Arrays behind which LUNs may stand. */
export const ownArrayChoices = (view: EstateView): Choice[] =>
  ownArrays(view)
    .sort(byName)
    .map((row) => ({ value: row.name, label: row.name }));

/** LUNs that an array found, by name. */
export const lunsOf = (view: EstateView, array: string): OutsideLun[] =>
  [...view.table('outsideLun').by('array', array)].sort(byName);

export const refusalOn = (
  row: OutsideLun,
  code: string,
  message: string,
  mend: string,
  more: Partial<Refusal> = {},
): Refusal => ({ code, field: 'luns', subject: subjectOf('outsideLun', row), message, mend, ...more });

/** The LUN that is named, where it stands as it must; what stands otherwise is refused with what comes first. */
export function askLun(
  view: EstateView,
  asks: Inquiry,
  array: ArrayRow,
  ref: string,
  states: readonly OutsideLunState[],
  first: string,
  field = 'luns',
): OutsideLun | undefined {
  const row = asks.find('outsideLun', ref, field, array);
  if (!row || states.includes(row.state)) return row;
  asks.refuse(refusalOn(row, 'import-state', `${row.name} ${stateWords[row.state]}.`, first, { field }));
  return undefined;
}

/** Refuses what its array cannot read now. */
export function askReadable(view: EstateView, asks: Inquiry, row: OutsideLun): void {
  const silent = lunSilence(view, row.array, row.volume);
  if (silent)
    asks.refuse(
      refusalOn(
        row,
        'import-unreadable',
        `${row.name} cannot be read: ${outsideOf(view, row).name} ${silent}.`,
        'Mend that first; nothing of it is lost meanwhile.',
      ),
    );
}

/** Refuses that a device is in use, with what lets go of it. */
export function refuseMounted(
  view: EstateView,
  asks: Inquiry,
  row: OutsideLun,
  device: HostDevice,
  code: string,
): void {
  const host = hostOf(view, device);
  const { name } = view.table('volume').get(device.volume)!;
  asks.refuse(
    refusalOn(
      row,
      code,
      `${host.name} has ${name} mounted at ${device.mountPoint}.`,
      `Unmount ${device.name} at ${host.name} first.`,
      { subject: subjectOf('hostDevice', device), offer: unmounting(view, device) },
    ),
  );
}

export const unmounting = (view: EstateView, device: HostDevice): NextStep =>
  nextStep(`Unmount ${device.name}`, 'host-device.unmount', {
    host: hostOf(view, device).name,
    device: device.name,
  });

/** The host that holds a reservation lets it go. */
export const releasing = (view: EstateView, row: OutsideLun): { offer?: NextStep } => {
  const { reservedBy, name } = backOf(view, row);
  const host = reservedBy === null ? undefined : view.table('host').get(reservedBy)!.name;
  return host ? { offer: nextStep(`Release it at ${host}`, 'host-device.release', { host, device: name }) } : {};
};

/** LUNs of an array, with why one cannot be chosen. */
export const lunChoices = (
  view: EstateView,
  array: ArrayRow | undefined,
  unfit: (row: OutsideLun) => string | null,
): Choice[] =>
  (array ? lunsOf(view, array.id) : []).map((row) => {
    const why = unfit(row);
    const size = row.inspectedAt === null ? 'not inspected' : formatBytes(row.size);
    return { value: row.name, label: `${row.name}, ${size}`, ...(why === null ? {} : { unfit: why }) };
  });

/** What lies on a volume, as whoever reads it raw can tell; null where nothing was ever written. */
export function holdsWords(view: EstateView, volume: Volume): string | null {
  const image = imageOf(view, volume);
  if (image) return `${image.fileSystem} file system, ${formatBytes(image.used, 'used')} used`;
  return volume.written > 0 ? `${formatBytes(volume.written, 'used')} of no known form` : null;
}

/** When a volume was last written; now where a host writes to it without a pause. */
export function lastWrite(view: EstateView, volume: Volume, now: Milliseconds): Milliseconds | null {
  const busy = view
    .table('hostDevice')
    .by('volume', volume.id)
    .some((device) => device.mountPoint !== null && device.writeRate > 0 && device.noPathSince === null);
  return busy ? now : volume.writtenAt;
}

/** What a LUN shows whoever reads it now. */
export function foundOn(view: EstateView, row: OutsideLun, now: Milliseconds): Inspected {
  const volume = backOf(view, row);
  const holds = holdsWords(view, volume);
  const writtenAt = lastWrite(view, volume, now);
  const [seen] = view.table('mapping').by('volume', volume.id);
  const elsewhere = view
    .table('outsideLun')
    .by('volume', volume.id)
    .find((one) => one.id !== row.id && one.drive !== null);
  const reserved = volume.reservedBy === null ? undefined : view.table('host').get(volume.reservedBy);
  return {
    serial: volume.serial,
    sectorBytes: volume.blockSize,
    reservedBy: reserved?.name ?? null,
    writtenS: writtenAt === null ? null : Math.max(0, (now - writtenAt) / SECOND),
    holds: holds === null ? null : `${holds}${writtenAt === null ? '' : `, last written ${momentText(writtenAt)}`}`,
    seenBy: seen ? hostOf(view, seen).name : null,
    pool: elsewhere ? view.table('array').get(elsewhere.array)!.name : null,
  };
}
