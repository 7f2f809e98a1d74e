import { KEY_ENTRY, MAP_BLOCK, MAP_ENTRY, PAGE, wholePages } from '../content/page';
import { bytesIn, joined, union, within, without, type Runs } from '../estate/runs';
import { mappedRuns } from '../content/weave';
import { changed, created, deleted, type Effect } from '../estate/effects';
import type { ByteRun, ExtentRun, Kind, Pool, Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { poolOf } from '../estate/relations';
import { fitCopies } from '../copies/area';
import { showingFewer } from '../copies/parts';
import { placeExtents } from '../pool/allocate';
import { fitStore, storeSlack } from '../pool/store';
import { availableExtents, reducesAtOnce } from '../pool/usage';
import { startOf } from '../pool/tier-policy';
import { heldNumbers } from './held';
import type { Bytes } from '../units/bytes';
import type { Milliseconds } from '../units/duration';

type NewId = (kind: Kind) => string;
/** Runs of extent numbers `[start, end)` of a volume. */
type Numbers = ByteRun[];

/** Effects that give a volume the extents of these numbers, as many as there is room for. A run that goes on where one ends is made longer. */
export function giveNumbers(
  view: EstateView,
  volume: Volume,
  pool: Pool,
  numbers: Numbers,
  newId: NewId,
): { effects: Effect[]; given: number } {
  const wanted = bytesIn(numbers);
  if (wanted === 0) return { effects: [], given: 0 };
  const starts = new Set(numbers.map(([start]) => start));
  const ends = new Map<string, ExtentRun>();
  for (const run of view.table('extent').by('volume', volume.id))
    if (starts.has(run.at + run.count))
      ends.set(`${run.raidGroup} ${run.start + run.count} ${run.at + run.count}`, run);
  const { start, last } = startOf(view, volume);
  const places = placeExtents(view, pool, wanted, start, new Set(), last).map((place) => ({ ...place }));
  const effects: Effect[] = [];
  let given = 0;
  for (const [from, to] of numbers) {
    let at = from;
    while (at < to && places.length > 0) {
      const place = places[0]!;
      const count = Math.min(to - at, place.count);
      const key = `${place.raidGroup} ${place.start} ${at}`;
      const before = ends.get(key);
      effects.push(
        before
          ? changed('extent', before, { count: before.count + count })
          : created('extent', {
              id: newId('extent'),
              volume: volume.id,
              store: null,
              copies: null,
              raidGroup: place.raidGroup,
              start: place.start,
              count,
              at,
            }),
      );
      ends.delete(key);
      place.start += count;
      place.count -= count;
      if (place.count === 0) places.shift();
      at += count;
      given += count;
    }
  }
  return { effects, given };
}

/** Gives a volume all the extents of its size that it does not hold yet. */
export const giveAll = (view: EstateView, volume: Volume, pool: Pool, newId: NewId) =>
  giveNumbers(
    view,
    volume,
    pool,
    without([[0, Math.ceil(volume.size / pool.extentSize)]], heldNumbers(view, volume.id)),
    newId,
  );

/** Whether extents of a volume that hold nothing return to its pool: thick ones keep all, and so does one that is being made thick. */
export const givesBack = (view: EstateView, volume: Volume): boolean =>
  volume.provisioning === 'thin' && view.table('job').countBy('volume', volume.id) === 0;

/** Effects that give extents of these numbers back. */
export function freeNumbers(view: EstateView, volume: string, numbers: Runs, newId: NewId): Effect[] {
  if (bytesIn(numbers) === 0) return [];
  const effects: Effect[] = [];
  for (const run of view.table('extent').by('volume', volume)) {
    const kept = without([[run.at, run.at + run.count]], numbers);
    if (bytesIn(kept) === run.count) continue;
    const [first, ...others] = kept;
    if (!first) effects.push(deleted('extent', run));
    else effects.push(changed('extent', run, part(run, first)));
    for (const one of others) effects.push(created('extent', { ...run, ...part(run, one), id: newId('extent') }));
  }
  return effects;
}

const part = (run: ExtentRun, [from, to]: ByteRun): Pick<ExtentRun, 'start' | 'count' | 'at'> => ({
  start: run.start + from - run.at,
  count: to - from,
  at: from,
});

/** Numbers of the extents that runs of bytes lie in. */
export const numbersOf = (runs: Runs, extentSize: Bytes): Numbers =>
  joined(runs.map(([start, end]): ByteRun => [Math.floor(start / extentSize), Math.ceil(end / extentSize)]));

/** Room for new pages in the reduced store of a pool, shared by writes that are worked out together. */
export interface StoreRoom {
  left: Bytes;
}

export const storeRoom = (view: EstateView, pool: Pool): StoreRoom => ({
  left: Math.max(0, storeSlack(view, pool) + availableExtents(view, pool) * pool.extentSize - MAP_BLOCK),
});

/** What a page takes in the store at the most: raw, with its entries in both maps. */
const STORED_PAGE: Bytes = PAGE + MAP_ENTRY + KEY_ENTRY;

export interface Written {
  effects: Effect[];
  /** Bytes asked for that found no room. */
  missing: Bytes;
  /** The pool had no room for the rest. */
  full: boolean;
}

/** Whether what is written to a volume goes straight into its pool's reduced store. */
export const writesReduced = (pool: Pool, volume: Volume): boolean =>
  reducesAtOnce(pool) && volume.provisioning === 'thin' && volume.reduction && volume.reducedTo === volume.written;

/**
 * Hosts write runs of bytes of a volume. A thin volume takes extents where it has none, or room in the reduced store; where the pool is full
 * the writes that need room fail from there on. Overwriting what is allocated goes on, unless the pool stops all writes to thin volumes. With
 * `room` given the caller fits the store afterwards.
 */
export function writeRuns(
  view: EstateView,
  volume: Volume,
  wanted: Runs,
  newId: NewId,
  now: Milliseconds,
  room?: StoreRoom,
): Written {
  const pool = poolOf(view, volume);
  const runs = within(
    joined(wanted.map(([start, end]): ByteRun => [Math.floor(start / PAGE) * PAGE, wholePages(end)])),
    0,
    volume.size,
  );
  const fresh = without(runs, mappedRuns(volume));
  const asked = bytesIn(fresh);
  const thin = volume.provisioning === 'thin';
  if (thin && pool.whenFull === 'stop-thin-writes' && availableExtents(view, pool) === 0)
    return { effects: [], missing: bytesIn(runs), full: true };
  if (volume.origin !== null) return writtenToClone(view, volume, pool, fresh, newId, now);
  if (writesReduced(pool, volume)) {
    const budget = room ?? storeRoom(view, pool);
    const taken = firstBytes(fresh, Math.floor(budget.left / STORED_PAGE) * PAGE);
    budget.left -= (bytesIn(taken) / PAGE) * STORED_PAGE;
    const written = mapped(volume, taken, now, true);
    const effects: Effect[] = written ? [changed('volume', volume, written)] : [];
    if (!room && written) {
      const overlay = new Overlay(view);
      overlay.apply(effects);
      effects.push(...fitStore(overlay, pool, newId).effects);
    }
    return { effects, missing: asked - bytesIn(taken), full: bytesIn(taken) < asked };
  }
  // Where its data lies in the reduced store, pages that come back grow the store, though the pool reduces nothing new.
  const returning = within(fresh, 0, volume.reducedTo);
  const stored =
    returning.length === 0 ? [] : firstBytes(returning, Math.floor(storeRoom(view, pool).left / STORED_PAGE) * PAGE);
  const forStore =
    stored.length === 0 ? 0 : Math.ceil(((bytesIn(stored) / PAGE) * STORED_PAGE + MAP_BLOCK) / pool.extentSize);
  const touched = numbersOf(within(runs, volume.reducedTo, volume.size), pool.extentSize);
  const held = heldNumbers(view, volume.id, touched[0]?.[0] ?? 0, touched.at(-1)?.[1] ?? 0);
  const missing = without(touched, held);
  const most = thin ? Math.min(bytesIn(missing), Math.max(0, availableExtents(view, pool) - forStore)) : 0;
  const numbers = firstBytes(missing, most);
  const { effects } = giveNumbers(view, volume, pool, numbers, newId);
  const covered = union(held, numbers).map(([from, to]): ByteRun => [from * pool.extentSize, to * pool.extentSize]);
  const uncovered = union(without(returning, stored), without(within(runs, volume.reducedTo, volume.size), covered));
  // What lies beyond the first byte without room was never written, so that the device stays written from its start.
  const end = uncovered[0]?.[0] ?? Infinity;
  const taken = within(fresh, 0, end);
  const written = mapped(volume, taken, now, false);
  if (written) effects.push(changed('volume', volume, written));
  if (stored.length > 0) {
    const overlay = new Overlay(view);
    overlay.apply(effects);
    effects.push(...fitStore(overlay, pool, newId).effects);
  }
  return { effects, missing: asked - bytesIn(taken), full: uncovered.length > 0 };
}

/** New data of a clone lies with what the copies of its origin keep: as much as there is room for. */
function writtenToClone(
  view: EstateView,
  volume: Volume,
  pool: Pool,
  fresh: Runs,
  newId: NewId,
  now: Milliseconds,
): Written {
  const asked = bytesIn(fresh);
  const taken = firstBytes(fresh, Math.max(0, availableExtents(view, pool) - 1) * pool.extentSize);
  const written = mapped(volume, taken, now, false);
  if (!written) return { effects: [], missing: asked, full: asked > 0 };
  const effects: Effect[] = [changed('volume', volume, written)];
  const overlay = new Overlay(view);
  overlay.apply(effects);
  effects.push(...fitCopies(overlay, volume.id, newId).effects);
  return { effects, missing: asked - bytesIn(taken), full: bytesIn(taken) < asked };
}

/** The first `most` bytes (or numbers) of runs. */
function firstBytes(runs: Runs, most: number): ByteRun[] {
  const out: ByteRun[] = [];
  let left = most;
  for (const [start, end] of runs) {
    if (left <= 0) break;
    out.push([start, Math.min(end, start + left)]);
    left -= end - start;
  }
  return out;
}

/** The fields of a volume after pages became mapped. */
function mapped(volume: Volume, taken: Runs, now: Milliseconds, reduced: boolean): Partial<Volume> | null {
  if (taken.length === 0) return null;
  const written = Math.max(volume.written, taken.at(-1)![1]);
  const gaps = without([[volume.written, written]], taken);
  return {
    written,
    holes: union(without(volume.holes, taken), gaps),
    writtenAt: now,
    ...(reduced ? { reducedTo: written } : {}),
  };
}

/** Hosts write from the start of the device up to `target` bytes. */
export const writeUpTo = (view: EstateView, volume: Volume, target: Bytes, newId: NewId, now: Milliseconds): Written =>
  writeRuns(view, volume, target > 0 ? [[0, Math.min(target, volume.size)]] : [], newId, now);

/** Effects that give runs of bytes of a volume back: whole pages become unmapped, extents without a mapped page return to the pool. */
export function unmapRuns(
  view: EstateView,
  volume: Volume,
  runs: Runs,
  newId: NewId,
): { effects: Effect[]; freed: Bytes } {
  const pool = poolOf(view, volume);
  const whole = joined(
    runs.map(([start, end]): ByteRun => [Math.ceil(start / PAGE) * PAGE, Math.floor(end / PAGE) * PAGE]),
  );
  const going = without(whole, without(whole, mappedRuns(volume)));
  if (going.length === 0) return { effects: [], freed: 0 };
  const holes = union(volume.holes, within(going, 0, volume.written));
  const next = { ...volume, holes, ...showingFewer(volume, { ...volume, holes }) };
  const effects: Effect[] = [changed('volume', volume, next)];
  if (givesBack(view, volume)) {
    const needed = numbersOf(within(mappedRuns(next), volume.reducedTo, volume.size), pool.extentSize);
    effects.push(...freeNumbers(view, volume.id, without(heldNumbers(view, volume.id), needed), newId));
  }
  const overlay = new Overlay(view);
  overlay.apply(effects);
  const fitted = fitStore(overlay, pool, newId).effects;
  overlay.apply(fitted);
  effects.push(...fitted, ...fitCopies(overlay, volume.id, newId).effects);
  return { effects, freed: bytesIn(going) };
}
