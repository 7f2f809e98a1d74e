import { notParsed, parsed, type Parsed } from '../units/parsed';
import { byCodePoint } from '../units/order';

export interface Packed {
  id: string;
  bytes: number;
  /** Units a second. */
  perf: number;
  /** Volumes that share this go to one pool. */
  together?: string | null;
  /** Volumes that share this go to different pools. */
  apart?: string | null;
  /** Pools it may go to; any without. */
  allowed?: readonly string[] | null;
}

export interface PackPool {
  id: string;
  freeBytes: number;
  freePerf: number;
}

/** `spread` leaves the fullest pool as free as it can, `fill` leaves as little as it can in the pool it takes. */
export type PackStrategy = 'spread' | 'fill';
export type PackReason = 'apart' | 'capacity' | 'not-allowed' | 'performance';

export interface Packing {
  placed: Record<string, string>;
  unplaced: { ids: string[]; reasons: PackReason[] }[];
}

/** Volumes that go together, as one. */
interface Item {
  /** The smallest of its ids. */
  id: string;
  ids: string[];
  bytes: number;
  perf: number;
  aparts: string[];
  allowed: ReadonlySet<string> | null;
}

interface Room {
  id: string;
  bytes: number;
  perf: number;
  freeBytes: number;
  freePerf: number;
  aparts: Set<string>;
}

function itemsOf(volumes: readonly Packed[]): Parsed<Item[]> {
  const groups = new Map<string, Packed[]>();
  for (const volume of volumes) {
    const key = volume.together ? `t ${volume.together}` : `v ${volume.id}`;
    const group = groups.get(key);
    if (group) group.push(volume);
    else groups.set(key, [volume]);
  }
  const items: Item[] = [];
  // Those of one list share one set: that they are alike is seen by it.
  const sets = new Map<readonly string[], ReadonlySet<string>>();
  const setOf = (pools: readonly string[]): ReadonlySet<string> => {
    let known = sets.get(pools);
    if (!known) sets.set(pools, (known = new Set(pools)));
    return known;
  };
  for (const group of groups.values()) {
    const seen = new Map<string, string>();
    let allowed: ReadonlySet<string> | null = null;
    for (const { id, apart, allowed: own } of group) {
      if (apart) {
        const other = seen.get(apart);
        if (other !== undefined)
          return notParsed('pack-together-and-apart', `${other} and ${id} must be together and apart.`);
        seen.set(apart, id);
      }
      if (own) allowed = allowed === null ? setOf(own) : setOf(own.filter((pool) => allowed!.has(pool)));
    }
    const ids = group.map(({ id }) => id).sort(byCodePoint);
    items.push({
      id: ids[0]!,
      ids,
      bytes: group.reduce((sum, { bytes }) => sum + bytes, 0),
      perf: group.reduce((sum, { perf }) => sum + perf, 0),
      aparts: [...seen.keys()],
      allowed,
    });
  }
  return parsed(items);
}

function partOf(wanted: number, all: number): number {
  if (wanted === 0) return 0;
  return all > 0 ? wanted / all : Infinity;
}

/** The largest first: by the larger of its shares of all that is free. */
function inOrder(items: readonly Item[], pools: readonly PackPool[]): Item[] {
  const bytes = pools.reduce((sum, { freeBytes }) => sum + freeBytes, 0);
  const perf = pools.reduce((sum, { freePerf }) => sum + freePerf, 0);
  const weight = (item: Item) => Math.max(partOf(item.bytes, bytes), partOf(item.perf, perf));
  const weights = new Map(items.map((item) => [item, weight(item)]));
  return [...items].sort((a, b) => {
    const [one, two] = [weights.get(a)!, weights.get(b)!];
    return one === two ? byCodePoint(a.id, b.id) : two - one;
  });
}

const roomsOf = (pools: readonly PackPool[]): Room[] =>
  [...pools]
    .sort((a, b) => byCodePoint(a.id, b.id))
    .map(({ id, freeBytes, freePerf }) => ({
      id,
      bytes: freeBytes,
      perf: freePerf,
      freeBytes,
      freePerf,
      aparts: new Set(),
    }));

/** The first reason for which an item does not fit, or null. */
function whyNot(item: Item, room: Room): PackReason | null {
  if (item.allowed && !item.allowed.has(room.id)) return 'not-allowed';
  if (item.aparts.some((apart) => room.aparts.has(apart))) return 'apart';
  if (item.bytes > room.bytes) return 'capacity';
  return item.perf > room.perf ? 'performance' : null;
}

function put(item: Item, room: Room): void {
  room.bytes -= item.bytes;
  room.perf -= item.perf;
  for (const apart of item.aparts) room.aparts.add(apart);
}

const left = (after: number, free: number): number => (free > 0 ? after / free : 0);

/**
 * Places several volumes over pools: the largest first, each where its strategy likes it best (move.md F). Bytes, units a second. Reasons:
 * pack-together-and-apart.
 */
export function packVolumes({
  volumes,
  pools,
  strategy,
}: {
  volumes: readonly Packed[];
  pools: readonly PackPool[];
  strategy: PackStrategy;
}): Parsed<Packing> {
  const items = itemsOf(volumes);
  if (!items.ok) return items;
  const rooms = roomsOf(pools);
  const placed: Packing['placed'] = {};
  const unplaced: Packing['unplaced'] = [];
  for (const item of inOrder(items.value, pools)) {
    const reasons = new Set<PackReason>();
    let best: { room: Room; likes: number } | null = null;
    for (const room of rooms) {
      const reason = whyNot(item, room);
      if (reason) {
        reasons.add(reason);
        continue;
      }
      const bytes = left(room.bytes - item.bytes, room.freeBytes);
      const perf = left(room.perf - item.perf, room.freePerf);
      const likes = strategy === 'spread' ? Math.min(bytes, perf) : -(bytes + perf);
      if (!best || likes > best.likes) best = { room, likes };
    }
    if (!best) {
      unplaced.push({ ids: item.ids, reasons: [...reasons].sort(byCodePoint) });
      continue;
    }
    put(item, best.room);
    for (const id of item.ids) placed[id] = best.room.id;
  }
  return parsed({ placed, unplaced });
}

/** Items up to which every way is tried. */
const EXACTLY = 12;

/**
 * The same by every means before it says that something does not fit: the strategy asked for, the other, then every way for up to twelve items.
 * Where nothing places all, what the first strategy places.
 */
export function packAll(asked: {
  volumes: readonly Packed[];
  pools: readonly PackPool[];
  strategy: PackStrategy;
}): Parsed<Packing & { how: PackStrategy | 'search' }> {
  const first = packVolumes(asked);
  if (!first.ok) return first;
  if (first.value.unplaced.length === 0) return parsed({ ...first.value, how: asked.strategy });
  const other: PackStrategy = asked.strategy === 'spread' ? 'fill' : 'spread';
  const second = packVolumes({ ...asked, strategy: other });
  if (second.ok && second.value.unplaced.length === 0) return parsed({ ...second.value, how: other });
  const found = searched(asked.volumes, asked.pools);
  return parsed(found ? { placed: found, unplaced: [], how: 'search' } : { ...first.value, how: asked.strategy });
}

const alike = (a: Item, b: Item): boolean =>
  a.bytes === b.bytes &&
  a.perf === b.perf &&
  a.allowed === b.allowed &&
  a.aparts.length === b.aparts.length &&
  a.aparts.every((apart, k) => apart === b.aparts[k]);

function searched(volumes: readonly Packed[], pools: readonly PackPool[]): Record<string, string> | null {
  const items = itemsOf(volumes);
  if (!items.ok || items.value.length > EXACTLY) return null;
  const order = inOrder(items.value, pools);
  const rooms = roomsOf(pools);
  const places: Room[] = [];
  const place = (k: number, from: number): boolean => {
    const item = order[k];
    if (!item) return true;
    for (let r = from; r < rooms.length; r++) {
      const room = rooms[r]!;
      if (whyNot(item, room)) continue;
      put(item, room);
      places[k] = room;
      // One like it goes no further ahead: which of the two lies where makes no difference.
      if (place(k + 1, order[k + 1] && alike(item, order[k + 1]!) ? r : 0)) return true;
      room.bytes += item.bytes;
      room.perf += item.perf;
      for (const apart of item.aparts) room.aparts.delete(apart);
    }
    return false;
  };
  if (!place(0, 0)) return null;
  return Object.fromEntries(order.flatMap((item, k) => item.ids.map((id) => [id, places[k]!.id])));
}
