import type { Pool, Volume } from '../estate/entities';
import type { Bytes } from '../units/bytes';
import { KEY_ENTRY, MAP_BLOCK, MAP_ENTRY, PAGE, WEAVE } from './page';
import { pagesIn, sharedParts, type Holding } from './sharing';
import { bytesIn, type Runs } from '../estate/runs';
import { compressedRectangle, countPlaces, mappedRuns, rectanglesOf, reducedRuns, templateRectangles } from './weave';

/** What a volume's pages in the reduced store come to, in bytes; each line is what the one before leaves. */
export interface ReducedVolume {
  volume: string;
  /** Written pages of it that lie in the store. */
  mapped: Bytes;
  zeros: Bytes;
  /** Pages that are stored once and counted here, since this volume was the first to hold them. */
  stored: Bytes;
  /** The same after compression. */
  compressed: Bytes;
  metadata: Bytes;
  /** Stored (after compression) for it alone, and together with others. */
  exclusive: Bytes;
  shared: Bytes;
}

export interface ReducedStore {
  volumes: ReducedVolume[];
  /** Compressed bytes of all volumes. */
  data: Bytes;
  metadata: Bytes;
  /** What the store takes: data and metadata. */
  bytes: Bytes;
}

type Mode = Pick<Pool, 'compression' | 'dedupe'>;

/** Own pages of runs: how many, and what they take. */
function ownPages(volume: Volume, runs: Runs, compression: boolean): { pages: number; bytes: Bytes } {
  const { family, zero, common, squeeze } = volume.content;
  const low = Math.min(WEAVE, zero + (family === null ? 0 : common));
  let pages = 0;
  let bytes = 0;
  for (const [start, end] of runs) {
    const [from, to] = [start / PAGE, end / PAGE];
    const count = countPlaces(from, to, low, WEAVE);
    pages += count;
    if (!compression) bytes += count * PAGE;
    else
      for (const one of rectanglesOf(from, to, low, WEAVE))
        bytes += compressedRectangle(squeeze, volume.id, one.from, one.to, one.low, one.high);
  }
  return { pages, bytes };
}

/** Common pages of runs without dedupe: every one is stored. */
function commonPages(volume: Volume, runs: Runs, compression: boolean): { pages: number; bytes: Bytes } {
  const { family, zero, common, squeeze, span } = volume.content;
  if (family === null || common === 0) return { pages: 0, bytes: 0 };
  let pages = 0;
  let bytes = 0;
  for (const [start, end] of runs)
    for (const one of rectanglesOf(start / PAGE, end / PAGE, zero, Math.min(WEAVE, zero + common))) {
      pages += pagesIn(one);
      bytes += compression
        ? repeated(squeeze, family, span, { ...one, low: one.low - zero, high: one.high - zero })
        : pagesIn(one) * PAGE;
    }
  return { pages, bytes };
}

/** Compressed bytes of a rectangle of a template that repeats after `span` bytes. */
function repeated(
  squeeze: Volume['content']['squeeze'],
  family: string,
  span: Bytes,
  { from, to, low, high }: { from: number; to: number; low: number; high: number },
): Bytes {
  const length = Math.ceil(span / (WEAVE * PAGE));
  if (length === 0) return compressedRectangle(squeeze, family, from, to, low, high);
  const upTo = (weave: number) =>
    Math.floor(weave / length) * compressedRectangle(squeeze, family, 0, length, low, high) +
    compressedRectangle(squeeze, family, 0, weave % length, low, high);
  return upTo(to) - upTo(from);
}

/**
 * The reduced store of a pool from its volumes, in the order in which they are given: zeros are not kept, equal pages are kept once (with
 * dedupe), kept pages are compressed (with compression), and both maps cost metadata. A page that several hold is counted with the first.
 */
export function reducedStore(mode: Mode, volumes: readonly Volume[], runsOf = reducedRuns): ReducedStore {
  const dedupe = mode.dedupe !== 'off';
  const rows = new Map<string, ReducedVolume>();
  const families = new Map<string, { holding: Holding; volume: Volume; row: ReducedVolume }[]>();
  let instances = 0;
  let keys = 0;
  for (const volume of volumes) {
    const runs = runsOf(volume);
    if (runs.length === 0) continue;
    const mapped = bytesIn(runs);
    const { zero, family } = volume.content;
    const zeros = runs.reduce((sum, [start, end]) => sum + countPlaces(start / PAGE, end / PAGE, 0, zero), 0) * PAGE;
    const own = ownPages(volume, runs, mode.compression);
    const row: ReducedVolume = {
      volume: volume.id,
      mapped,
      zeros,
      stored: own.pages * PAGE,
      compressed: own.bytes,
      metadata: 0,
      exclusive: own.bytes,
      shared: 0,
    };
    const pages = (mapped - zeros) / PAGE;
    instances += pages;
    let ownKeys = own.pages;
    if (dedupe && family !== null) {
      const list = families.get(family) ?? [];
      list.push({ holding: { rectangles: templateRectangles(volume.content, runs) }, volume, row });
      families.set(family, list);
    } else {
      const shared = commonPages(volume, runs, mode.compression);
      row.stored += shared.pages * PAGE;
      row.compressed += shared.bytes;
      row.exclusive += shared.bytes;
      ownKeys += shared.pages;
    }
    keys += ownKeys;
    row.metadata = pages * MAP_ENTRY + ownKeys * KEY_ENTRY;
    rows.set(volume.id, row);
  }
  for (const [family, list] of families) {
    const squeeze = list[0]!.volume.content.squeeze;
    for (const part of sharedParts(list.map((one) => one.holding))) {
      const pages = pagesIn(part);
      const bytes = mode.compression
        ? compressedRectangle(squeeze, family, part.from, part.to, part.low, part.high)
        : pages * PAGE;
      const first = list[part.holders[0]!]!.row;
      first.stored += pages * PAGE;
      first.compressed += bytes;
      first.metadata += pages * KEY_ENTRY;
      keys += pages;
      for (const holder of part.holders) {
        const { row } = list[holder]!;
        if (part.holders.length === 1) row.exclusive += bytes;
        else row.shared += bytes;
      }
    }
  }
  const list = [...rows.values()];
  const data = list.reduce((sum, row) => sum + row.compressed, 0);
  const metadata = Math.ceil((instances * MAP_ENTRY + keys * KEY_ENTRY) / MAP_BLOCK) * MAP_BLOCK;
  return { volumes: list, data, metadata, bytes: data + metadata };
}

/** What would come free if all of `going` went: parts of the store that nobody else refers to. */
export function freedBy(mode: Mode, volumes: readonly Volume[], going: ReadonlySet<string>): Bytes {
  const all = reducedStore(mode, volumes).data;
  return (
    all -
    reducedStore(
      mode,
      volumes.filter((volume) => !going.has(volume.id)),
    ).data
  );
}

/** Mapped bytes of a volume, in the store or not. */
export const mappedBytes = (volume: Volume): Bytes => bytesIn(mappedRuns(volume));
