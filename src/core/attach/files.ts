import { dataOf } from '../copies/legs';
import { fileSystemTables } from './device-format';
import { pathFinder } from './paths';
import { readOnlyDevice } from './write-access';
import { bytesIn, without } from '../estate/runs';
import { fitCopies } from '../copies/area';
import { shownBytes } from '../copies/parts';
import { changed, type Effect } from '../estate/effects';
import type { HostDevice, Kind } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { hexFrom } from '../estate/random';
import { hostOf } from '../estate/relations';
import type { NamedFile } from '../kinds/file-image';
import { subjectOf, type Refusal } from '../operation/refusal';
import { formatBytes, type Bytes } from '../units/bytes';
import type { Milliseconds } from '../units/duration';
import { writeRuns } from '../volume/grow';
import { deleteFiles, placesFor } from './file-places';

type NewId = (kind: Kind) => string;
type FileResult = { ok: true; effects: Effect[]; said: string } | { ok: false; refusal: Refusal };

/** Named files that one file system lists at most. */
const MOST_FILES = 500;

const no = (device: HostDevice, code: string, message: string, mend: string): FileResult => ({
  ok: false,
  refusal: { code, subject: subjectOf('hostDevice', device), message, mend },
});

function whyNot(view: EstateView, device: HostDevice): FileResult | null {
  const { name } = hostOf(view, device);
  const bar = readOnlyDevice(view, device);
  if (bar !== null || device.readOnly)
    return no(
      device,
      'read-only',
      `${name} cannot write to ${device.mountPoint}: ${bar === null ? 'its file system stands read-only since a write was refused' : `the volume ${bar}`}.`,
      bar === null ? 'Unmount it and mount it again.' : 'Let the host write first.',
    );
  if (!pathFinder(view).reaches(device))
    return no(device, 'no-path', `No path leads from ${name} to ${device.mountPoint}.`, 'Mend its paths first.');
  return null;
}

/** A file's content as a pure function of where and when it was written. */
const checksumOf = (volume: string, path: string, at: Milliseconds, size: Bytes): string =>
  hexFrom(`${volume} ${path} ${at} ${size}`, 16);

/** A host writes a named file: a new one where its file system puts it, an older one over itself. */
export function writeFile(
  view: EstateView,
  device: HostDevice,
  { path, size, checksum }: { path: string; size: Bytes; checksum?: string },
  now: Milliseconds,
  newId: NewId,
): FileResult {
  const bar = whyNot(view, device);
  if (bar) return bar;
  const overlay = new Overlay(view);
  const effects: Effect[] = [];
  const put = (made: readonly Effect[]) => {
    overlay.apply(made);
    effects.push(...made);
  };
  const volume = dataOf(overlay, device);
  const before = volume.files.find((file) => file.path === path);
  if (!before && volume.files.length >= MOST_FILES)
    return no(device, 'too-many-files', `${device.mountPoint} lists ${MOST_FILES} named files.`, 'Delete one first.');
  const more = Math.max(0, size - (before?.size ?? 0));
  const places = placesFor(device, more);
  if (bytesIn(places) < more)
    return no(
      device,
      'file-system-full',
      `${device.mountPoint} has ${formatBytes(device.fileSystemSize - device.used, 'used')} left; ${formatBytes(more)} more are asked for.`,
      'Grow it, or write less.',
    );
  const written = writeRuns(overlay, volume, places, newId, now);
  if (written.full || written.missing > 0)
    return no(device, 'pool-full', `The pool under ${volume.name} has no room for it.`, 'Extend the pool first.');
  put(written.effects);
  put([changed('hostDevice', device, { used: device.used + more, free: without(device.free, places) })]);
  const file: NamedFile = { path, size, writtenAt: now, checksum: checksum ?? checksumOf(volume.id, path, now, size) };
  const present = overlay.table('volume').get(volume.id)!;
  // What is written over counts wherever it lies.
  const over = Math.min(before?.size ?? 0, size);
  const left = shownBytes(present) > 0 ? Math.max(0, 1 - over / shownBytes(present)) : 1;
  put([
    changed('volume', present, {
      files: [...present.files.filter((one) => one.path !== path), file].sort((a, b) => (a.path < b.path ? -1 : 1)),
      writtenAt: now,
      ...(present.base === null || over === 0 ? {} : { stands: present.stands.map((share) => share * left) }),
    }),
  ]);
  const fitted = fitCopies(overlay, volume.id, newId);
  if (fitted.short > 0)
    return no(
      device,
      'pool-full',
      `The pool under ${volume.name} has no room for what its copies keep of it.`,
      'Extend the pool, or delete copies first.',
    );
  put(fitted.effects);
  return {
    ok: true,
    effects,
    said: `${hostOf(view, device).name} writes ${formatBytes(size)} ${before ? 'over' : 'to'} ${device.mountPoint}/${path}`,
  };
}

/** A host deletes a named file: its blocks become free in the file system. The array hears of it when they are reclaimed. */
export function deleteFile(
  view: EstateView,
  device: HostDevice,
  path: string,
  now: Milliseconds,
  _newId: NewId,
): FileResult {
  const bar = whyNot(view, device);
  if (bar) return bar;
  const volume = dataOf(view, device);
  const file = volume.files.find((one) => one.path === path);
  if (!file)
    return no(
      device,
      'file-unknown',
      `${device.mountPoint} has no file ${path}.`,
      volume.files.length > 0
        ? `There are: ${volume.files
            .slice(0, 6)
            .map((one) => one.path)
            .join(', ')}.`
        : 'Write one first.',
    );
  return {
    ok: true,
    effects: [
      ...deleteFiles(device, fileSystemTables(device.fileSystemSize), file.size),
      changed('volume', volume, { files: volume.files.filter((one) => one !== file), writtenAt: now }),
    ],
    said: `${hostOf(view, device).name} deletes ${device.mountPoint}/${path}`,
  };
}
