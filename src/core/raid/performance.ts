import type { Bytes } from '../units/bytes';
import { FLASH_CHANNELS } from './choices';
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
  shape.copies > 1
    ? shape.copies
    : shape.parity === 0
      ? 1
      : Math.min(2 * (1 + shape.parity), shape.data + shape.parity);

/** The penalty as text books print it. */
export const textbookPenalty = (shape: Shape): number =>
  shape.copies > 1 ? shape.copies : shape.parity === 0 ? 1 : 2 * (1 + shape.parity);

/** Mean drive reads of a random read of one strip while one drive of a leg has failed: 1 + (d−1)/w; 1 with mirrors. */
export const degradedReads = (shape: Shape): number =>
  shape.copies > 1 ? 1 : shape.parity === 0 ? 1 : 1 + (shape.data - 1) / shape.width;

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
 * I/Os a second that `shape` serves: X = n·ρ/(φ_r·T_r + (1−φ_r)·T_w), T being drive seconds of one I/O, averaged over all start offsets on a
 * grid of 4096 bytes in one stripe (one strip with mirrors). `degraded` counts the extra reads while one drive is missing.
 */
export function frontEndRate(
  shape: Shape,
  chunk: Bytes,
  media: MediaFigures,
  load: Workload,
  degraded = false,
): { iops: number; bytesPerSecond: number } {
  const stripe = shape.copies > 1 ? chunk : chunk * (shape.level === 'raid0' ? shape.drives : shape.data);
  const size = load.sequential ? Math.max(load.size, stripe) : Math.min(load.size, stripe);
  const offsets = load.sequential ? 1 : stripe / 4096;
  // A wide stripe has thousands of offsets that fall alike in every strip: an even sample of them gives the same mean.
  const step = Math.max(1, Math.floor(offsets / 512));
  let readTime = 0;
  let writeTime = 0;
  let seen = 0;
  for (let k = 0; k < offsets; k += step) {
    const offset = k * 4096;
    let left = size;
    let at = offset;
    while (left > 0) {
      const part = Math.min(left, stripe - (at % stripe));
      const touched = Math.floor(((at % stripe) + part - 1) / chunk) - Math.floor((at % stripe) / chunk) + 1;
      const each = part / touched;
      const read = occupancy(media.readIops, media.readMBps, each);
      readTime += touched * read * (degraded ? degradedReads(shape) : 1);
      const plan = planWrite(shape, chunk, at % stripe, part);
      writeTime += plan.reads * read + plan.writes * occupancy(media.writeIops, media.writeMBps, each);
      at += part;
      left -= part;
    }
    seen += 1;
  }
  const drives = shape.drives - (degraded ? 1 : 0);
  const each = (load.reads * readTime + (1 - load.reads) * writeTime) / seen;
  const iops = (drives * load.utilisation) / each;
  return { iops, bytesPerSecond: iops * size };
}

/** Response time in ms at utilisation ρ: t/(1−ρ) of a disk, t/(1−ρ^c) of flash with c channels; null once saturated. */
export function responseTime(media: MediaFigures, utilisation: number, reads: number): number | null {
  if (utilisation >= 1) return null;
  const service = reads * media.readMs + (1 - reads) * media.writeMs;
  return service / (1 - (media.flash ? utilisation ** FLASH_CHANNELS : utilisation));
}
