import type { Bytes } from '../units/bytes';
import { FLASH_AMPLIFICATION, FLASH_CHANNELS, RATED_YEARS } from './choices';
import type { Shape } from './geometry';
import type { MediaFigures } from './media';

/** What a write costs the drives of one stripe. */
export interface WritePlan {
  mode: 'full stripe' | 'read-modify-write' | 'reconstruct' | 'mirror' | 'plain';
  reads: number;
  writes: number;
}

/**
 * Drive I/Os of a write that touches `touched` data strips of a stripe, `whole` of them over the whole range of the parity written. Of
 * read-modify-write (k+m reads) and reconstruct (d−f reads) the one with fewer reads, ties to the first; nothing is read for a full stripe.
 */
export function writePlan(shape: Shape, touched: number, whole: number): WritePlan {
  const { data, parity } = shape;
  if (shape.copies > 1) return { mode: 'mirror', reads: 0, writes: shape.copies * touched };
  if (parity === 0) return { mode: 'plain', reads: 0, writes: touched };
  const writes = touched + parity;
  if (data - whole === 0) return { mode: 'full stripe', reads: 0, writes };
  return touched + parity <= data - whole
    ? { mode: 'read-modify-write', reads: touched + parity, writes }
    : { mode: 'reconstruct', reads: data - whole, writes };
}

/** The plan of a write of `length` bytes at `offset` of a stripe whose strips hold `chunk` bytes. The write ends inside the stripe. */
export function planWrite(shape: Shape, chunk: Bytes, offset: Bytes, length: Bytes): WritePlan {
  const first = Math.floor(offset / chunk);
  const last = Math.floor((offset + length - 1) / chunk);
  let low = chunk;
  let high = 0;
  const ranges: [number, number][] = [];
  for (let strip = first; strip <= last; strip++) {
    const from = strip === first ? offset - strip * chunk : 0;
    const to = strip === last ? offset + length - strip * chunk : chunk;
    ranges.push([from, to]);
    low = Math.min(low, from);
    high = Math.max(high, to);
  }
  const whole = ranges.filter(([from, to]) => from === low && to === high).length;
  return writePlan(shape, ranges.length, whole);
}

/** Drive I/Os of a small aligned write: min(2(1+m), d+m) with parity, c copies, or 1. */
export const writePenalty = (shape: Shape): number =>
  shape.copies === 1 && shape.parity > 0
    ? Math.min(textbookPenalty(shape), shape.data + shape.parity)
    : textbookPenalty(shape);

/** The penalty as text books print it. */
export function textbookPenalty({ copies, parity }: Shape): number {
  if (copies > 1) return copies;
  return parity === 0 ? 1 : 2 * (1 + parity);
}

/** Mean drive reads of a random read of one strip while one of the n drives has failed: 1 + (d−1)/n; 1 with mirrors. */
export const degradedReads = (shape: Shape): number =>
  shape.copies > 1 || shape.parity === 0 ? 1 : 1 + (shape.data - 1) / shape.drives;

/**
 * Mean drive I/Os of an aligned write of one strip while one of the n drives has failed. Where it held the strip itself (1 of n), the others are
 * read and only parity is written: d−1 and m; where it held one of the stripe's parities (m of n), that one is left out, and with one parity
 * nothing is read; else the write costs what it always does. A mirror leaves the missing copy out.
 */
export function degradedWrite(shape: Shape): { reads: number; writes: number } {
  const { drives: n, data: d, parity: m, copies } = shape;
  if (copies > 1) return { reads: 0, writes: copies - copies / n };
  if (m === 0) return { reads: 0, writes: 1 };
  const whole = writePlan(shape, 1, 1);
  const lostParity = { reads: m === 1 ? 0 : Math.min(m, d - 1), writes: m };
  const mean = (kind: 'reads' | 'writes', lostStrip: number) =>
    (lostStrip + m * lostParity[kind] + (n - 1 - m) * whole[kind]) / n;
  return { reads: mean('reads', d - 1), writes: mean('writes', m) };
}

export interface Workload {
  /** Share of reads, 0 to 1. */
  reads: number;
  /** Bytes of one I/O. */
  size: Bytes;
  /** Utilisation of the drives that is allowed, 0 to 1. */
  utilisation: number;
  /** Sequential streams start at stripe borders and are written as whole stripes. */
  sequential?: boolean;
}

/** Seconds a drive is busy with one I/O of so many bytes: 1/IOPS + max(0, b − 4096)/(MB/s). */
const occupancy = (iops: number, mbps: number, bytes: Bytes): number =>
  1 / iops + Math.max(0, bytes - 4096) / (mbps * 1e6);

/**
 * Drive seconds of one read and of one write, averaged over all start offsets on a grid of 4096 bytes in one stripe (one strip with mirrors): an
 * I/O of b bytes touches k strips in one stripe or several, each with b/k bytes. The offset inside a strip decides k, and the strip it begins in
 * where stripes are crossed: strips from which none is crossed cost alike, so that each case is worked out once and weighed.
 */
function driveSeconds(shape: Shape, chunk: Bytes, media: MediaFigures, size: Bytes, aligned: boolean) {
  const striped = shape.level === 'raid0' ? shape.drives : shape.data;
  const strips = shape.copies > 1 ? 1 : striped;
  const stripe = strips * chunk;
  let read = 0;
  let write = 0;
  let seen = 0;
  const at = (offset: Bytes, weight: number) => {
    const touched = Math.floor((offset + size - 1) / chunk) - Math.floor(offset / chunk) + 1;
    const readEach = occupancy(media.readIops, media.readMBps, size / touched);
    const writeEach = occupancy(media.writeIops, media.writeMBps, size / touched);
    let reads = 0;
    let writes = 0;
    for (let from = offset, left = size; left > 0;) {
      const part = Math.min(left, stripe - (from % stripe));
      const plan = planWrite(shape, chunk, from % stripe, part);
      reads += plan.reads;
      writes += plan.writes;
      from += part;
      left -= part;
    }
    read += weight * touched * readEach;
    write += weight * (reads * readEach + writes * writeEach);
    seen += weight;
  };
  if (aligned) at(0, 1);
  else
    for (let offset = 0; offset < chunk; offset += GRID) {
      const touched = Math.floor((offset + size - 1) / chunk) + 1;
      const uncrossed = Math.max(0, strips - touched + 1);
      if (uncrossed > 0) at(offset, uncrossed);
      for (let strip = uncrossed; strip < strips; strip++) at(strip * chunk + offset, 1);
    }
  return { read: read / seen, write: write / seen };
}

/** Start offsets of I/O lie on multiples of this. */
const GRID: Bytes = 4096;

/**
 * I/Os a second that `shape` serves: X = n·ρ/(φ_r·T_r + (1−φ_r)·T_w), T being the mean drive seconds of one I/O. `degraded` counts the extra reads
 * while one drive is missing.
 */
export function frontEndRate(
  shape: Shape,
  chunk: Bytes,
  media: MediaFigures,
  load: Workload,
  degraded = false,
): { iops: number; bytesPerSecond: number } {
  const stripe = shape.copies > 1 ? chunk : chunk * (shape.level === 'raid0' ? shape.drives : shape.data);
  const size = load.sequential ? Math.max(load.size, stripe) : load.size;
  const { read, write } = driveSeconds(shape, chunk, media, size, load.sequential === true);
  const drives = shape.drives - (degraded ? 1 : 0);
  const each = load.reads * read * (degraded ? degradedReads(shape) : 1) + (1 - load.reads) * write;
  const iops = (drives * load.utilisation) / each;
  return { iops, bytesPerSecond: iops * size };
}

/**
 * Years until flash has taken its rated writes: DWPD·5·365·capacity over what is written to a drive in a year, which is what hosts write times the
 * write amplification of the level (`penalty` over n drives) and of the flash itself. Null where wear is not counted in writes or nothing is written.
 */
export function yearsOfWrites(
  media: MediaFigures,
  capacity: Bytes,
  writesADay: Bytes,
  { drives, amplification, flash = FLASH_AMPLIFICATION }: { drives: number; amplification: number; flash?: number },
): number | null {
  if (media.drivesADay === null || writesADay <= 0) return null;
  const rated = media.drivesADay * RATED_YEARS * 365 * capacity;
  return rated / ((writesADay * 365 * amplification * flash) / drives);
}

/** Response time in ms at utilisation ρ: t/(1−ρ) of a disk, t/(1−ρ^c) of flash with c channels; null once saturated. */
export function responseTime(media: MediaFigures, utilisation: number, reads: number): number | null {
  if (utilisation >= 1) return null;
  const service = reads * media.readMs + (1 - reads) * media.writeMs;
  return service / (1 - (media.flash ? utilisation ** FLASH_CHANNELS : utilisation));
}
