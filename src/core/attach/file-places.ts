import { PAGE } from '../content/page';
import { bytesIn, union, within, without } from '../estate/runs';
import { changed, type Effect } from '../estate/effects';
import type { ByteRun, HostDevice } from '../estate/entities';
import type { Bytes } from '../units/bytes';
import { usedEnd } from './device-grow';

/** Where a file system puts new files: first where others were deleted, from the start of the device, then beyond its last file. */
export function placesFor(device: HostDevice, bytes: Bytes): ByteRun[] {
  const places: ByteRun[] = [];
  let left = bytes;
  for (const [start, end] of device.free) {
    if (left <= 0) break;
    places.push([start, Math.min(end, start + left)]);
    left -= end - start;
  }
  const beyond = usedEnd(device);
  if (left > 0 && beyond < device.fileSystemSize) places.push([beyond, Math.min(device.fileSystemSize, beyond + left)]);
  return places;
}

/**
 * A host deletes files: runs of whole pages become free in its file system, from behind its tables on. The array does not hear of it until
 * blocks are reclaimed.
 */
export function deleteFiles(device: HostDevice, tables: Bytes, bytes: Bytes): Effect[] {
  const used = without(
    within([[Math.ceil(tables / PAGE) * PAGE, usedEnd(device)]], 0, device.fileSystemSize),
    device.free,
  );
  const going: ByteRun[] = [];
  let left = Math.floor(bytes / PAGE) * PAGE;
  for (const [start, end] of used) {
    if (left <= 0) break;
    going.push([start, Math.min(end, start + left)]);
    left -= end - start;
  }
  if (going.length === 0) return [];
  return [changed('hostDevice', device, { used: device.used - bytesIn(going), free: union(device.free, going) })];
}
