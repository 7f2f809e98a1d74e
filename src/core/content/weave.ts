import type { ByteRun, ContentProfile, Squeeze, Volume } from '../estate/entities';
import { hash32 } from '../estate/random';
import type { Bytes } from '../units/bytes';
import { CELL, PAGE, WEAVE } from './page';
import { within, without, type Runs } from '../estate/runs';

/**
 * What stands on a page, as a pure function of the volume and the page number; nothing is stored. The pattern repeats every weave of 120
 * pages: first the zeros, then pages of the volume's template, then its own. Because the pattern is even instead of random, counts and
 * sums over any run of pages are exact and cost the same however long the run is.
 */
export type PageContent =
  | { what: 'zero' }
  | { what: 'common'; family: string; weave: number; slot: number }
  | { what: 'own'; volume: string; weave: number; slot: number };

export function pageContent(volume: Pick<Volume, 'id' | 'content'>, page: number): PageContent {
  const { zero, common, family } = volume.content;
  const weave = Math.floor(page / WEAVE);
  const place = page % WEAVE;
  if (place < zero) return { what: 'zero' };
  if (place < zero + common && family !== null)
    return { what: 'common', family, weave: templateWeave(volume.content, weave), slot: place - zero };
  return { what: 'own', volume: volume.id, weave, slot: place };
}

/** Weaves of a template before it repeats; 0 where it never does. */
const templateLength = (content: ContentProfile): number => Math.ceil(content.span / (WEAVE * PAGE));

function templateWeave(content: ContentProfile, weave: number): number {
  const length = templateLength(content);
  return length === 0 ? weave : weave % length;
}

/** Pages of [from, to) whose place in their weave is in [low, high). */
export function countPlaces(from: number, to: number, low: number, high: number): number {
  const upTo = (page: number) =>
    Math.floor(page / WEAVE) * (high - low) + Math.min(Math.max((page % WEAVE) - low, 0), high - low);
  return high <= low ? 0 : upTo(to) - upTo(from);
}

/** Runs of bytes a volume has mapped: written, and not given back. */
export const mappedRuns = (volume: Pick<Volume, 'written' | 'holes'>): ByteRun[] =>
  volume.written === 0 ? [] : without([[0, volume.written]], volume.holes);

/** The part of them that lies in the pool's reduced store. */
export const reducedRuns = (volume: Pick<Volume, 'written' | 'holes' | 'reducedTo'>): ByteRun[] =>
  volume.reducedTo === 0 ? [] : within(mappedRuns(volume), 0, volume.reducedTo);

/** Compressed share of a page at the tenths of all pages, from the best to the worst: what stand-ins write (made-up quantiles). */
const quantiles: Record<Squeeze, readonly number[]> = {
  text: [0.08, 0.12, 0.16, 0.2, 0.24, 0.28, 0.32, 0.38, 0.46, 0.6, 0.9],
  database: [0.15, 0.22, 0.28, 0.34, 0.4, 0.46, 0.53, 0.61, 0.72, 0.88, 1],
  image: [0.2, 0.3, 0.38, 0.46, 0.54, 0.62, 0.7, 0.8, 0.9, 1, 1],
  media: [0.9, 0.96, 0.98, 0.99, 1, 1, 1, 1, 1, 1, 1],
};

/** Pages after which the sizes of compressed pages repeat. */
const CYCLE = 64;

interface Sizes {
  /** sums[w·(WEAVE+1) + s]: bytes of the places below s of the weaves below w. */
  sums: Float64Array;
  of: (weave: number, slot: number) => Bytes;
}

const sizesOf = new Map<Squeeze, Sizes>();

/** Bytes that the pages of a class of content take when compressed: ⌈page·r / cell⌉ cells, raw where nothing is gained. */
function sizes(squeeze: Squeeze): Sizes {
  const known = sizesOf.get(squeeze);
  if (known) return known;
  const q = quantiles[squeeze];
  const table = Array.from({ length: CYCLE }, (_, k) => {
    const x = ((k + 0.5) / CYCLE) * 10;
    const low = Math.floor(x);
    const share = q[low]! + (q[low + 1]! - q[low]!) * (x - low);
    return Math.min(PAGE, Math.ceil((PAGE * share) / CELL) * CELL);
  });
  // 27 and 11 are odd, so that every row and every column of a cycle goes through the whole table.
  const of = (weave: number, slot: number) => table[(slot * 27 + weave * 11) % CYCLE]!;
  const sums = new Float64Array((CYCLE + 1) * (WEAVE + 1));
  for (let w = 0; w < CYCLE; w++) {
    let row = 0;
    for (let s = 0; s <= WEAVE; s++) {
      sums[(w + 1) * (WEAVE + 1) + s] = sums[w * (WEAVE + 1) + s]! + row;
      row += of(w, s);
    }
  }
  const made = { sums, of };
  sizesOf.set(squeeze, made);
  return made;
}

const streamOffset = (stream: string): number => hash32(stream) % CYCLE;

/** Bytes one page takes when it is compressed. The same content always takes the same. */
export function compressedSize(squeeze: Squeeze, content: PageContent): Bytes {
  if (content.what === 'zero') return 0;
  const stream = content.what === 'common' ? content.family : content.volume;
  return sizes(squeeze).of(content.weave + streamOffset(stream), content.slot);
}

/** Bytes of the places [low, high) of the weaves [from, to) of a stream when compressed. */
export function compressedRectangle(
  squeeze: Squeeze,
  stream: string,
  from: number,
  to: number,
  low: number,
  high: number,
): Bytes {
  if (to <= from || high <= low) return 0;
  const { sums } = sizes(squeeze);
  const offset = streamOffset(stream);
  const upTo = (weave: number, place: number) =>
    Math.floor(weave / CYCLE) * sums[CYCLE * (WEAVE + 1) + place]! + sums[(weave % CYCLE) * (WEAVE + 1) + place]!;
  const below = (weave: number) => upTo(weave + offset, high) - upTo(weave + offset, low);
  return below(to) - below(from);
}

/** A rectangle of content: the places [low, high) of the weaves [from, to). */
export interface Rectangle {
  from: number;
  to: number;
  low: number;
  high: number;
}

/** The places [low, high) of every weave that a run of pages [start, end) covers, as at most three rectangles. */
export function rectanglesOf(start: number, end: number, low: number, high: number): Rectangle[] {
  const out: Rectangle[] = [];
  const add = (from: number, to: number, first: number, last: number) => {
    const rectangle = { from, to, low: Math.max(low, first), high: Math.min(high, last) };
    if (to > from && rectangle.high > rectangle.low) out.push(rectangle);
  };
  const first = Math.floor(start / WEAVE);
  const last = Math.floor(end / WEAVE);
  if (first === last) {
    add(first, first + 1, start % WEAVE, end % WEAVE);
    return out;
  }
  const head = start % WEAVE;
  if (head > 0) add(first, first + 1, head, WEAVE);
  add(head > 0 ? first + 1 : first, last, 0, WEAVE);
  if (end % WEAVE > 0) add(last, last + 1, 0, end % WEAVE);
  return out;
}

/** The parts of its template that runs of a volume hold, in the template's own places; each part once. */
export function templateRectangles(content: ContentProfile, runs: Runs): Rectangle[] {
  const { zero, common } = content;
  if (content.family === null || common === 0) return [];
  const length = templateLength(content);
  const out: Rectangle[] = [];
  for (const [start, end] of runs)
    for (const { from, to, low, high } of rectanglesOf(
      start / PAGE,
      end / PAGE,
      zero,
      Math.min(WEAVE, zero + common),
    )) {
      const slots = { low: low - zero, high: high - zero };
      if (length === 0) out.push({ from, to, ...slots });
      else if (to - from >= length) out.push({ from: 0, to: length, ...slots });
      else {
        const at = from % length;
        const until = at + to - from;
        out.push({ from: at, to: Math.min(until, length), ...slots });
        if (until > length) out.push({ from: 0, to: until - length, ...slots });
      }
    }
  return out;
}
