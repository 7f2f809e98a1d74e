import { brought } from './brought';
import { keptBytes, withoutReserve } from './reserve';
import { devicesOn } from '../copies/legs';
import { changedWithin } from '../copies/activity';
import { cutOf, imageOf } from '../copies/cut';
import { isFenced, isMirrored, replicaBar } from '../copies/replica';
import { copiesOf } from '../copies/area';
import { dropped } from '../copies/drop';
import { shownBytes } from '../copies/parts';
import { changed, type Effect } from '../estate/effects';
import type { Kind, Replication, Snapshot, Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import type { Carried } from '../kinds/replication';
import { nameByPattern } from '../protect/names';
import { formatBytes, type Bytes } from '../units/bytes';
import { DAY, SECOND, type Milliseconds } from '../units/duration';
import { AGAIN, CHECKSUM, DIFFERS, EXTENT, FIXED, IMPORT, SCAN, TRANSIT } from './choices';
import { sidesOf } from './sides';

type NewId = (kind: Kind) => string;

/** Bytes of a volume that hosts changed in [from, to): what came new, and what was overwritten of what stood. */
export function changedOf(volume: Volume, had: Bytes, from: Milliseconds, to: Milliseconds): Bytes {
  const grown = Math.max(0, shownBytes(volume) - had);
  return grown + (volume.activity === null || to <= from ? 0 : changedWithin(volume.activity, had, from, to));
}

/** Whether a host works with a volume, so that it changes. */
export const isWritten = (view: EstateView, volume: Volume): boolean =>
  devicesOn(view, volume.id).some((device) => device.mountPoint !== null && !device.readOnly) &&
  replicaBar(view, volume.id) === null;

/** What the target holds is as of then; null before the first copy is whole. While hosts of a lost mirror wait, nothing goes on either. */
export const pitOf = (row: Replication, now: Milliseconds): Milliseconds | null =>
  isMirrored(row) || (row.stretch === null && isFenced(row) && row.pit !== null) ? now : row.pit;

/** How far the target is behind. */
export const lagOf = (row: Replication, now: Milliseconds): Milliseconds =>
  Math.max(0, now - (pitOf(row, now) ?? row.startedAt));

/** What changed at the source since the target's point in time: what a disaster would cost now. */
export const bytesAtRisk = (view: EstateView, row: Replication, now: Milliseconds): Bytes =>
  differing(view, row, now, (volume) => isWritten(view, volume));

/** What changed since the target's point in time is more than the source keeps room for: which extents did is no longer known (protect.md H5). */
export function outgrown(view: EstateView, row: Replication, now: Milliseconds): boolean {
  const { source } = keptBytes(view, row);
  return source > 0 && row.pit !== null && row.mode === 'async' && bytesAtRisk(view, row, now) > source;
}

/** What a cut has to send. */
function toSend(view: EstateView, row: Replication, now: Milliseconds): Bytes {
  if (row.compare === 'all' || outgrown(view, row, now))
    return sidesOf(view, row).source.reduce((sum, volume) => sum + shownBytes(volume), 0);
  // After a turn each side has changed by itself: together they count as one that was at work all along.
  return row.compare === 'union' ? differing(view, row, now, () => true) : bytesAtRisk(view, row, now);
}

function differing(view: EstateView, row: Replication, now: Milliseconds, atWork: (volume: Volume) => boolean): Bytes {
  const { source, target } = sidesOf(view, row);
  return source.reduce((sum, volume, k) => {
    const pit = pitOf(row, now);
    const shown = isMirrored(row) ? volume : target[k]!;
    const had = pit === null ? 0 : shownBytes(shown);
    return sum + changedOf(volume, had, atWork(volume) ? (pit ?? now) : now, now);
  }, 0);
}

/** Whether a volume at the target holds an older copy of its source: the same file system stands on it. */
export const isSeed = (source: Pick<Volume, 'image'>, target: Pick<Volume, 'image'>): boolean =>
  target.image !== null &&
  source.image?.fileSystem === target.image.fileSystem &&
  source.image.size === target.image.size;

/** Bytes of a source that differ from what its target holds already; an expectation where an older copy lies there. */
function unlike(view: EstateView, row: Replication): Bytes {
  const { source, target } = sidesOf(view, row);
  return source.reduce((sum, volume, k) => {
    const [own, there] = [shownBytes(volume), shownBytes(target[k]!)];
    const seed = isSeed({ image: imageOf(view, volume) }, { image: imageOf(view, target[k]!) });
    return sum + (seed ? Math.abs(own - there) + DIFFERS * Math.min(own, there) : own);
  }, 0);
}

/** What a first copy that does not simply go over the line sends, and what is done before the first byte (protect.md H5). */
function firstSending(view: EstateView, row: Replication, bytes: Bytes): { wire: Bytes; before: Milliseconds } | null {
  if (row.first === 'seeded')
    return { wire: (bytes / EXTENT) * CHECKSUM + unlike(view, row) * row.wireRatio, before: (bytes / SCAN) * SECOND };
  if (row.first === 'shipped') return { wire: 0, before: TRANSIT + 2 * (bytes / IMPORT) * SECOND };
  return null;
}

/** Cuts the source at one instant: what is to be carried to the target. */
export function cutSource(view: EstateView, row: Replication, now: Milliseconds): Carried {
  const { source } = sidesOf(view, row);
  const changedBytes = toSend(view, row, now);
  const first = row.pit === null ? firstSending(view, row, changedBytes) : null;
  return {
    pit: now,
    startedAt: now,
    changed: changedBytes,
    wire: first?.wire ?? changedBytes * row.wireRatio,
    sent: 0,
    asOf: now,
    from: now + FIXED + (first?.before ?? 0),
    rate: 0,
    lagBefore: lagOf(row, now),
    volumes: source.map((volume) => ({
      written: volume.written,
      holes: volume.holes,
      image: imageOf(view, volume),
      files: volume.files,
    })),
  };
}

/** What goes over a road a part at a time: `sent` of `wire` bytes at `asOf`, the rest at `rate`, nothing before `from`. */
export type Sent = Pick<Carried, 'wire' | 'sent' | 'asOf' | 'from' | 'rate'>;

/** When the last byte of a cycle is over; null where nothing gets through. */
export function finishOf({ wire, sent, asOf, from, rate }: Sent): Milliseconds | null {
  const left = wire - sent;
  const begins = Math.max(asOf, from);
  if (left <= 0) return begins;
  return rate > 0 ? begins + Math.ceil((left / rate) * 1000) : null;
}

/** The same cycle at another rate from `now` on. */
export function atRate<S extends Sent>(one: S, rate: number, now: Milliseconds): S {
  const going = Math.max(0, now - Math.max(one.asOf, one.from)) / 1000;
  return { ...one, sent: Math.min(one.wire, one.sent + going * one.rate), asOf: now, rate };
}

/** Bytes of a cycle that are over by now. */
export const sentBy = (one: Sent, now: Milliseconds): Bytes => atRate(one, one.rate, now).sent;

/**
 * Effects that bring the target of a mirror to what its source shows now, since it was written along. Where the target's pools have no room the
 * mirror is lost: it is copied from its last point in time once there is.
 */
export function mirrored(
  view: EstateView,
  row: Replication,
  now: Milliseconds,
  newId: NewId,
): { effects: Effect[]; said: string[] } {
  if (!isMirrored(row)) return { effects: [], said: [] };
  const { source, target, targetSite } = sidesOf(view, row);
  const carrying = cutSource(view, row, now);
  const still = target.every((volume, k) => showsAlready(view, source[k]!, volume, carrying.volumes[k]!));
  // What it shows is of now as long as it is mirrored (pitOf); the row's moment is from when copies under it are reckoned on.
  const counts = !still || target.some(({ base }) => base !== null);
  const pointed = row.pit === now || !counts ? [] : [changed('replication', row, { pit: now })];
  if (still) return { effects: pointed, said: [] };
  const { effects, short } = applied(view, { ...row, carrying }, newId, false);
  if (short === 0) return { effects: [...effects, ...pointed], said: [] };
  const reason = `the pool at ${targetSite} has no room for ${formatBytes(short)} of it`;
  return {
    effects: [changed('replication', row, { state: 'copying', since: now, nextAt: now + AGAIN, reason })],
    said: [`${row.name} is mirrored no more: ${reason}`],
  };
}

const alike = (a: unknown, b: unknown): boolean => a === b || JSON.stringify(a) === JSON.stringify(b);

/** Whether the target of a mirror shows what was cut of its source, and nothing under it moves on. */
const showsAlready = (view: EstateView, source: Volume, target: Volume, cut: Carried['volumes'][number]): boolean =>
  target.written === cut.written &&
  alike(target.holes, cut.holes) &&
  alike(target.files, cut.files) &&
  alike(target.image, cut.image) &&
  (target.base === null || source.activity === null || !isWritten(view, source));

/**
 * What was carried is applied at the target: all volumes go from one point in time to the next. Images that are kept are cut before. `short` are
 * bytes for which the target's pools have no room; then nothing may be applied.
 */
export function applied(
  view: EstateView,
  row: Replication,
  newId: NewId,
  keeping = true,
): { effects: Effect[]; short: Bytes } {
  const carrying = row.carrying!;
  const { source, target } = sidesOf(view, row);
  // What it keeps back is for this.
  const overlay = new Overlay(withoutReserve(view, row));
  const effects: Effect[] = [];
  let short = 0;
  const put = (made: readonly Effect[]) => {
    overlay.apply(made);
    effects.push(...made);
  };
  const present = (k: number) => overlay.table('volume').get(target[k]!.id)!;
  if (keeping && row.images + row.imagesDaily > 0 && row.image && row.pit !== null) {
    const name = nameByPattern(`${row.name}-{date}-{time}`, row.pit);
    const taken = target.some((volume) =>
      view
        .table('snapshot')
        .by('volume', volume.id)
        .some((copy) => copy.name === name),
    );
    if (!taken)
      put(
        cutOf(
          overlay,
          target.map((_, k) => present(k)),
          { name, at: row.pit, madeBy: row.name, workload: null },
          newId,
        ).effects,
      );
  }
  target.forEach((_, k) => {
    const one = brought(
      overlay,
      present(k),
      carrying.volumes[k]!,
      { activity: source[k]!.activity, from: row.pit, at: carrying.pit },
      newId,
    );
    put(one.effects);
    short += one.short;
  });
  if (keeping) put(imagesPruned(overlay, row, newId));
  return { effects, short };
}

/** Images beyond those that the target keeps go: the newest stay, and of each day the first; so does whatever is held or locked. */
function imagesPruned(view: EstateView, row: Replication, newId: NewId): Effect[] {
  const { target } = sidesOf(view, row);
  const going = target.flatMap((volume) => {
    const own = copiesOf(view, volume.id).filter((copy) => copy.madeBy === row.name && copy.plan === null);
    const daily = new Set(row.imagesDaily === 0 ? [] : firstOfDays(own).slice(-row.imagesDaily));
    return own
      .slice(0, Math.max(0, own.length - row.images))
      .filter((copy) => !daily.has(copy))
      .filter(
        (copy) => copy.hold === '' && copy.lockedUntil === null && view.table('volume').countBy('base', copy.id) === 0,
      );
  });
  // The image on which the volume itself stands is the newest, and is never among them.
  return going.length === 0 ? [] : dropped(view, going, newId).effects;
}

/** Of copies in the order in which they were made, the first of each day UTC. */
const firstOfDays = (copies: readonly Snapshot[]): Snapshot[] =>
  copies.filter((copy, k) => k === 0 || Math.floor(copy.at / DAY) > Math.floor(copies[k - 1]!.at / DAY));
