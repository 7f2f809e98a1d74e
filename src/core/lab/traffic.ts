import { usedEnd } from '../attach/device-grow';
import { mappingOf, pathFinder, reachesVolume } from '../attach/paths';
import { readOnlyDevice } from '../attach/write-access';
import { PAGE } from '../content/page';
import { bytesIn, union, within, without } from '../content/runs';
import { changed, type Effect } from '../estate/effects';
import type { ByteRun, HostDevice, Kind, Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { hostOf, poolOf, volumeOf } from '../estate/relations';
import { fitStore } from '../pool/store';
import type { Bytes } from '../units/bytes';
import { formatDuration, type Milliseconds } from '../units/duration';
import { purged } from '../volume/delete';
import { storeRoom, writeRuns, writesReduced, type StoreRoom } from '../volume/grow';

type NewId = (kind: Kind) => string;

/** Devices the write generator is at work on. */
export const writers = (view: EstateView): HostDevice[] =>
  [...view.table('hostDevice').values()].filter((device) => device.writeRate > 0 && device.mountPoint !== null);

/** Where a file system puts new files: first where others were deleted, from the start of the device, then beyond its last file. */
function placesFor(device: HostDevice, bytes: Bytes): ByteRun[] {
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

/** Retired volumes of a pool give way to writes that need room, the one retired longest ago first. */
function makeRoom(view: EstateView, pool: string, newId: NewId): { effects: Effect[]; said: string } | null {
  const [oldest] = [...view.table('volume').by('kept', pool)].sort((a, b) => a.deletedAt! - b.deletedAt!);
  if (!oldest) return null;
  return {
    effects: purged(view, oldest, newId),
    said: `${oldest.name}, which was retired and kept, gave way: the pool needed its room`,
  };
}

/**
 * What hosts write within `span` up to `now`: each mounted device with a rate fills its file system and, through it, takes extents of a thin
 * volume. Where no path leads, writes wait for as long as their host says and then fail: the file system turns read-only. Nothing is written beyond the
 * file system; where the pool is full the writes that need room fail.
 */
export function writeTraffic(
  view: EstateView,
  span: Milliseconds,
  now: Milliseconds,
  newId: NewId,
): { effects: Effect[]; said: string[] } {
  const effects: Effect[] = [];
  const said: string[] = [];
  const busy = writers(view);
  if (busy.length === 0 || span <= 0) return { effects, said };
  const overlay = new Overlay(view);
  const finder = pathFinder(view);
  const rooms = new Map<string, StoreRoom>();
  const put = (made: Effect[]) => {
    overlay.apply(made);
    effects.push(...made);
  };
  /** Gives the store of a pool the extents that what was written so far takes. */
  const fit = (id: string) => {
    rooms.delete(id);
    put(fitStore(overlay, overlay.table('pool').get(id)!, newId).effects);
  };
  const roomOf = (volume: Volume): StoreRoom | undefined => {
    const pool = poolOf(overlay, volume);
    if (!writesReduced(pool, volume)) {
      // It takes extents of the same pool: those that the store counts on are taken first.
      if (rooms.has(pool.id)) fit(pool.id);
      return undefined;
    }
    let room = rooms.get(pool.id);
    if (!room) rooms.set(pool.id, (room = storeRoom(overlay, pool)));
    return room;
  };
  for (const writer of busy) {
    let device = writer;
    if (!volumeOf(overlay, device)) continue;
    if (!reachesVolume(finder, mappingOf(view, device.host, device.volume))) {
      const { name, noPathWait } = hostOf(view, device);
      const since = device.noPathSince ?? now - span;
      if (now - since < noPathWait) put([changed('hostDevice', device, { noPathSince: since })]);
      else {
        put([changed('hostDevice', device, { writeRate: 0, readOnly: true, noPathSince: null })]);
        said.push(
          `${name} cannot write on to ${device.mountPoint}: no path led to ${volumeOf(overlay, device).name} for ${formatDuration(noPathWait)}`,
        );
      }
      continue;
    }
    if (device.noPathSince !== null) {
      put([changed('hostDevice', device, { noPathSince: null })]);
      device = { ...device, noPathSince: null };
    }
    const bar = readOnlyDevice(overlay, device);
    if (bar !== null) {
      put([changed('hostDevice', device, { writeRate: 0, readOnly: true })]);
      said.push(
        `${hostOf(view, device).name} cannot write on to ${device.mountPoint}: ${volumeOf(overlay, device).name} ${bar} (27h/00h, write protected)`,
      );
      continue;
    }
    const places = placesFor(device, Math.floor((device.writeRate * span) / 1000));
    const wanted = bytesIn(places);
    const room = device.fileSystemSize - device.used;
    // Less than a byte is due yet.
    if (wanted === 0 && room > 0) continue;
    const write = () => {
      const volume = volumeOf(overlay, device);
      return writeRuns(overlay, volume, places, newId, now, roomOf(volume));
    };
    let written = write();
    for (let tries = 0; written.full && tries < 100; tries++) {
      const { pool } = volumeOf(overlay, device);
      if (rooms.has(pool)) fit(pool);
      const way = makeRoom(overlay, pool, newId);
      if (!way) break;
      put(way.effects);
      said.push(way.said);
      written = write();
    }
    const done = Math.max(0, Math.min(wanted, wanted - written.missing));
    if (done === 0) {
      put([changed('hostDevice', device, { writeRate: 0 })]);
      const volume = volumeOf(overlay, device);
      said.push(
        `${hostOf(view, device).name} cannot write on to ${device.mountPoint}: ${written.full ? `the pool under ${volume.name} is full (27h/07h, space allocation failed, write protect)` : 'the file system is full'}`,
      );
      continue;
    }
    const filled = placesFor(device, done);
    put([
      ...written.effects,
      changed('hostDevice', device, { used: device.used + done, free: without(device.free, filled) }),
    ]);
  }
  for (const id of [...rooms.keys()]) fit(id);
  return { effects, said };
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
