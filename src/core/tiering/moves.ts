import type { ExtentRun } from '../estate/entities';
import { HYSTERESIS } from '../tier/exchange';

/** Extents of one volume in one class that are equally hot. */
export interface Piece {
  id: string;
  volume: string;
  run: ExtentRun;
  offset: number;
  count: number;
  heat: number;
  /** Place of its class, 0 the fastest. */
  tier: number;
}

/** What moves are decided by: what lies where, hottest first in each class, what is free, and what volumes may and must have where. */
export interface Picture {
  pieces: Piece[][];
  /** Free extents of each class, and those of them that stay free for what is written next. */
  places: { free: number; kept: number }[];
  /** Extents of each volume in each class. */
  counts: Map<string, number[]>;
  bounds: ReadonlyMap<string, { most: readonly number[]; least: readonly number[] }>;
}

/** One move, or the two of an exchange in the order in which there is room for them. */
export type Step = { piece: Piece; count: number; to: number }[];

const hotter = (a: Piece, b: Piece): number => b.heat - a.heat || (a.id < b.id ? -1 : a.id > b.id ? 1 : 0);

export function pictureOf(
  pieces: readonly Piece[],
  places: readonly { free: number; kept: number }[],
  bounds: Picture['bounds'],
): Picture {
  const counts = new Map<string, number[]>();
  for (const { volume, tier, count } of pieces) {
    const own = counts.get(volume) ?? places.map(() => 0);
    own[tier]! += count;
    counts.set(volume, own);
  }
  return {
    pieces: places.map((_, k) => pieces.filter(({ tier }) => tier === k).sort(hotter)),
    places: places.map((place) => ({ ...place })),
    counts,
    bounds,
  };
}

/** Whether a hot extent takes the place of a cold one (space.md I). */
const takesPlace = (hot: number, cold: number): boolean => hot >= (1 + HYSTERESIS.delta) * cold + HYSTERESIS.epsilon;

/** How many extents of a volume may still come into a class, or go out of it. */
const mayEnter = ({ bounds, counts }: Picture, volume: string, tier: number): number => {
  const own = bounds.get(volume);
  return own ? Math.max(0, own.most[tier]! - counts.get(volume)![tier]!) : Infinity;
};
const mayLeave = ({ bounds, counts }: Picture, volume: string, tier: number): number => {
  const own = bounds.get(volume);
  return own ? Math.max(0, counts.get(volume)![tier]! - own.least[tier]!) : Infinity;
};

/**
 * The next step, of at most `most` extents: what is hot into free room, which helps at once; then what breaks a bound; then exchanges of hot and
 * cold. Null where all lies as it should.
 */
export const nextStep = (picture: Picture, most = Infinity): Step | null =>
  upwards(picture, 'into room', most) ?? withinBounds(picture, most) ?? upwards(picture, 'in exchange', most);

/** Classes by how near they are to one: slower before faster. */
const nearest = (tier: number, all: number): number[] => [
  ...Array.from({ length: all - tier - 1 }, (_, k) => tier + 1 + k),
  ...Array.from({ length: tier }, (_, k) => tier - 1 - k),
];

/** The end of a volume's extents in a class that leaves it for another: the coldest downwards, the hottest upwards. */
const leaving = ({ pieces }: Picture, volume: string, from: number, to: number): Piece | undefined =>
  to > from
    ? pieces[from]!.findLast((one) => one.volume === volume)
    : pieces[from]!.find((one) => one.volume === volume);

/** One volume's extents from class to class: into free room, or in exchange with another's that may go the other way. */
function carried(picture: Picture, volume: string, from: number, to: number, wanted: number): Step | null {
  const piece = leaving(picture, volume, from, to);
  if (!piece) return null;
  const count = Math.min(wanted, piece.count);
  const { free } = picture.places[to]!;
  if (free > 0) return [{ piece, count: Math.min(count, free), to }];
  const back = picture.places[from]!.free;
  if (back === 0) return null;
  const fits = (one: Piece) =>
    one.volume !== volume && mayLeave(picture, one.volume, to) > 0 && mayEnter(picture, one.volume, from) > 0;
  const other = from < to ? picture.pieces[to]!.find(fits) : picture.pieces[to]!.findLast(fits);
  if (!other) return null;
  const swapped = Math.min(
    Math.max(1, Math.floor(count / 2)),
    other.count,
    back,
    mayLeave(picture, other.volume, to),
    mayEnter(picture, other.volume, from),
  );
  return [
    { piece: other, count: swapped, to: from },
    { piece, count: swapped, to },
  ];
}

function withinBounds(picture: Picture, most: number): Step | null {
  const { bounds, counts, places } = picture;
  for (const [volume, own] of bounds) {
    const has = counts.get(volume);
    if (!has) continue;
    for (let tier = 0; tier < places.length; tier++) {
      const over = has[tier]! - own.most[tier]!;
      if (over > 0)
        for (const to of nearest(tier, places.length)) {
          const room = mayEnter(picture, volume, to);
          const step = room > 0 ? carried(picture, volume, tier, to, Math.min(over, room, most)) : null;
          if (step) return step;
        }
      const lack = own.least[tier]! - has[tier]!;
      if (lack > 0)
        for (const from of nearest(tier, places.length)) {
          const spare = mayLeave(picture, volume, from);
          const step = spare > 0 ? carried(picture, volume, from, tier, Math.min(lack, spare, most)) : null;
          if (step) return step;
        }
    }
  }
  return null;
}

function upwards(picture: Picture, how: 'into room' | 'in exchange', most: number): Step | null {
  const { pieces, places } = picture;
  for (let fast = 0; fast + 1 < places.length; fast++) {
    const room = places[fast]!.free - places[fast]!.kept;
    if (room > 0 !== (how === 'into room')) continue;
    const coldest = pieces[fast]!.at(-1);
    for (const hot of hottestBelow(pieces, fast)) {
      if (hot.heat < HYSTERESIS.epsilon) break;
      const leave = mayLeave(picture, hot.volume, hot.tier);
      if (leave === 0) continue;
      const enter = mayEnter(picture, hot.volume, fast);
      if (room > 0) {
        if (enter === 0) continue;
        return [{ piece: hot, count: Math.min(hot.count, room, enter, leave, most), to: fast }];
      }
      if (!coldest || !takesPlace(hot.heat, coldest.heat)) break;
      const step = exchanged(picture, hot, fast, most);
      if (step) return step;
    }
  }
  return null;
}

/** A hot extent upwards against the coldest that may make way for it. */
function exchanged(picture: Picture, hot: Piece, fast: number, most: number): Step | null {
  const { pieces, places } = picture;
  const below = [hot.tier, ...places.keys()].find((k) => k > fast && places[k]!.free > 0);
  if (below === undefined) return null;
  const enter = mayEnter(picture, hot.volume, fast);
  const leave = mayLeave(picture, hot.volume, hot.tier);
  for (let at = pieces[fast]!.length - 1; at >= 0; at--) {
    const cold = pieces[fast]![at]!;
    if (!takesPlace(hot.heat, cold.heat)) return null;
    const own = cold.volume === hot.volume;
    // Of one volume the exchange leaves what it has in the fast class alone, and in the other where both change places.
    const makes = own && below === hot.tier ? Infinity : mayEnter(picture, cold.volume, below);
    const gives = own ? Infinity : mayLeave(picture, cold.volume, fast);
    const takes = own ? Infinity : enter;
    const goes = own && below === hot.tier ? Infinity : leave;
    const count = Math.min(
      Math.max(1, Math.floor(most / 2)),
      hot.count,
      cold.count,
      places[below]!.free,
      makes,
      gives,
      takes,
      goes,
    );
    if (count <= 0) continue;
    return [
      { piece: cold, count, to: below },
      { piece: hot, count, to: fast },
    ];
  }
  return null;
}

/** Pieces of all classes below one, the hottest first. */
function* hottestBelow(pieces: readonly (readonly Piece[])[], fast: number): Generator<Piece> {
  const next = pieces.map(() => 0);
  for (;;) {
    let best: Piece | undefined;
    for (let k = fast + 1; k < pieces.length; k++) {
      const one = pieces[k]![next[k]!];
      if (one && (!best || hotter(one, best) < 0)) best = one;
    }
    if (!best) return;
    next[best.tier]! += 1;
    yield best;
  }
}

/** A step done to the picture. */
export function apply(picture: Picture, step: Step): void {
  for (const { piece, count, to } of step) {
    const { tier, volume } = piece;
    const from = picture.pieces[tier]!;
    const at = from.indexOf(piece);
    if (count === piece.count) from.splice(at, 1);
    else from[at] = { ...piece, offset: piece.offset + count, count: piece.count - count };
    insert(picture.pieces[to]!, { ...piece, id: `${piece.id}/${to}`, count, tier: to });
    picture.places[tier]!.free += count;
    picture.places[to]!.free -= count;
    const counts = picture.counts.get(volume)!;
    counts[tier]! -= count;
    counts[to]! += count;
  }
}

function insert(sorted: Piece[], piece: Piece): void {
  let [low, high] = [0, sorted.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (hotter(sorted[middle]!, piece) <= 0) low = middle + 1;
    else high = middle;
  }
  sorted.splice(low, 0, piece);
}
