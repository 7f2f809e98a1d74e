import { placesFor } from '../attach/file-places';
import { pathFinder, type PathFinder } from '../attach/paths';
import { readOnlyDevice } from '../attach/write-access';
import { bytesIn, without } from '../estate/runs';
import { standsAfter } from '../copies/activity';
import { copiesOf, fitCopies } from '../copies/area';
import { dataOf, devicesOn } from '../copies/legs';
import { writesAreHeld } from '../copies/replica';
import { dropped } from '../copies/drop';
import { shownBytes } from '../copies/parts';
import { changed, type Effect } from '../estate/effects';
import type { HostDevice, Kind, Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { hostOf, poolOf, volumeOf } from '../estate/relations';
import { fitStore } from '../pool/store';
import { formatDuration, type Milliseconds } from '../units/duration';
import { lockedCopies, purged } from '../volume/delete';
import { storeRoom, writeRuns, writesReduced, type StoreRoom } from '../volume/grow';
import { isLocked } from '../copies/locked';

type NewId = (kind: Kind) => string;

/** Devices the write generator is at work on. */
export const writers = (view: EstateView): HostDevice[] =>
  [...view.table('hostDevice').values()].filter((device) => device.writeRate > 0 && device.mountPoint !== null);

interface WayGiven {
  effects: Effect[];
  said: string;
}

/**
 * What gives way to writes that need room: retired volumes, the one retired longest ago first; then, of volumes that may give up copies, the
 * oldest, never the last of a volume nor one that is locked, held or made by hand.
 */
function makeRoom(view: EstateView, pool: string, now: Milliseconds, newId: NewId): WayGiven | null {
  const [oldest] = [...view.table('volume').by('kept', pool)]
    .filter((volume) => lockedCopies(view, volume, now).length === 0)
    .sort((a, b) => a.deletedAt! - b.deletedAt!);
  if (oldest)
    return {
      effects: purged(view, oldest, newId),
      said: `${oldest.name}, which was retired and kept, gave way: the pool needed its room`,
    };
  const [copy] = view
    .table('volume')
    .by('givingUp', pool)
    .flatMap((volume) => copiesOf(view, volume.id).slice(0, -1))
    .filter((one) => one.plan !== null && one.hold === '' && !isLocked(view, one, now))
    .sort((a, b) => a.at - b.at);
  if (!copy) return null;
  return {
    effects: dropped(view, [copy], newId).effects,
    said: `${copy.name} of ${volumeOf(view, copy).name} was given up before its time: the pool needed its room`,
  };
}

/** The device through which hosts rewrite a volume now, if there is one. */
function writingThrough(view: EstateView, finder: PathFinder, volume: Volume): HostDevice | undefined {
  return devicesOn(view, volume.id).find(
    (device) =>
      device.mountPoint !== null &&
      !device.readOnly &&
      readOnlyDevice(view, device) === null &&
      !writesAreHeld(view, volume.id) &&
      finder.reaches(device),
  );
}

/** Whether hosts write anything by themselves as time goes on. */
export const writesGoOn = (view: EstateView): boolean =>
  writers(view).length > 0 || view.table('volume').countBy('rewritten', '') > 0;

/**
 * What hosts write within `span` up to `now`: each mounted device with a rate fills its file system and, through it, takes extents of a thin
 * volume. Where no path leads, writes wait for as long as their host says and then fail: the file system turns read-only. Nothing is written beyond the
 * file system; where the pool is full the writes that need room fail.
 */
export const writeTraffic = (
  view: EstateView,
  span: Milliseconds,
  now: Milliseconds,
  newId: NewId,
): { effects: Effect[]; said: string[] } => writeTrafficOn(new Overlay(view), span, now, newId);

/** The same, with what is written applied to the overlay that is given, to which nothing was done before. */
export function writeTrafficOn(
  overlay: Overlay,
  span: Milliseconds,
  now: Milliseconds,
  newId: NewId,
): { effects: Effect[]; said: string[] } {
  const view = overlay.below;
  const effects: Effect[] = [];
  const said: string[] = [];
  const busy = writers(view);
  const rewritten = view.table('volume').by('rewritten', '');
  if ((busy.length === 0 && rewritten.length === 0) || span <= 0) return { effects, said };
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
    if (!finder.reaches(device)) {
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
    // What a lost mirror or a cut holds up waits, and does not fail.
    if (writesAreHeld(overlay, device.volume)) continue;
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
      const volume = dataOf(overlay, device);
      return writeRuns(overlay, volume, places, newId, now, roomOf(volume));
    };
    let written = write();
    for (let tries = 0; written.full && tries < 100; tries++) {
      const { pool } = dataOf(overlay, device);
      if (rooms.has(pool)) fit(pool);
      const way = makeRoom(overlay, pool, now, newId);
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
  for (const { id } of rewritten) {
    const before = overlay.table('volume').get(id);
    if (!before || before.base === null) continue;
    const device = writingThrough(overlay, finder, before);
    if (!device) continue;
    const stands = standsAfter(before.activity!, { ...before, bytes: shownBytes(before) }, now - span, now);
    put([changed('volume', before, { stands, writtenAt: now })]);
    let fitted = fitCopies(overlay, id, newId);
    for (let tries = 0; fitted.short > 0 && tries < 100; tries++) {
      const way = makeRoom(overlay, before.pool, now, newId);
      if (!way) break;
      put(way.effects);
      said.push(way.said);
      fitted = fitCopies(overlay, id, newId);
    }
    if (fitted.short === 0) put(fitted.effects);
    else {
      // What copies would have to keep apart finds no room: the writes fail, and what stands goes on standing.
      const present = overlay.table('volume').get(id)!;
      const same = present.base === before.base ? { stands: before.stands, writtenAt: before.writtenAt } : {};
      put([changed('volume', present, same), ...fitCopies(withRow(overlay, present, same), id, newId).effects]);
      put([changed('hostDevice', overlay.table('hostDevice').get(device.id)!, { writeRate: 0, readOnly: true })]);
      said.push(
        `${hostOf(view, device).name} cannot write on to ${device.mountPoint}: the pool under ${before.name} has no room for what its copies keep (27h/07h, space allocation failed, write protect)`,
      );
    }
  }
  return { effects, said };
}

/** The estate with some fields of a volume otherwise. */
function withRow(view: EstateView, volume: Volume, fields: Partial<Volume>): EstateView {
  const overlay = new Overlay(view);
  overlay.apply([changed('volume', volume, fields)]);
  return overlay;
}
