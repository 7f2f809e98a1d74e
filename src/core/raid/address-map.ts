import type { Bytes } from '../units/bytes';
import { stripePlaces } from './distributed';
import type { Shape } from './geometry';

/** One strip of a stripe: which member holds it, in which row of strips, and what it is. */
export interface Strip {
  drive: number;
  row: number;
  /** `data` with its number in the group, `copy` of it, or `parity` with its number in the stripe. */
  what: 'data' | 'copy' | 'parity';
  number: number;
}

/** A block's place: its data member first, then copies or parity of its stripe. */
export interface BlockPlace {
  drive: number;
  /** Bytes from the start of the member. */
  offset: Bytes;
  others: { drive: number; offset: Bytes; what: 'copy' | 'parity' }[];
}

/** Strips of data in one stripe (of one leg, or of one mirror set). */
export function stripWidth(shape: Shape): number {
  if (shape.level === 'raid0') return shape.drives;
  return shape.copies > 1 ? 1 : shape.data;
}

/**
 * The strips of stripe `q`, left-symmetric with m parities: leg = q mod s, r = ⌊q/s⌋, P = (w−1) − (r mod w); parity i on leg·w + ((P+i) mod w),
 * data j on leg·w + ((P+m+j) mod w). Mirrors: set q mod G holds c copies; level 0 lays n strips side by side.
 */
export function stripeStrips(shape: Shape, seed: number, q: number): Strip[] {
  const { drives: n, width: w, parity: m, data: d, legs } = shape;
  if (shape.level === 'raid0')
    return Array.from({ length: n }, (_, j) => ({ drive: j, row: q, what: 'data' as const, number: q * n + j }));
  if (shape.copies > 1) {
    const sets = shape.level === 'raid1' ? 1 : legs;
    const set = q % sets;
    return Array.from({ length: shape.copies }, (_, c) => ({
      drive: set * shape.copies + c,
      row: Math.floor(q / sets),
      what: c === 0 ? ('data' as const) : ('copy' as const),
      number: q,
    }));
  }
  if (shape.level === 'distributed')
    return stripePlaces(shape, seed, q).map(({ drive, row }, i) =>
      i < d ? { drive, row, what: 'data', number: q * d + i } : { drive, row, what: 'parity', number: i - d },
    );
  const leg = q % legs;
  const row = Math.floor(q / legs);
  const first = w - 1 - (row % w);
  return Array.from({ length: w }, (_, i): Strip => {
    const drive = leg * w + ((first + i) % w);
    return i < m ? { drive, row, what: 'parity', number: i } : { drive, row, what: 'data', number: q * d + i - m };
  });
}

/** Where byte `address` of the group lies: strip ⌊a/S⌋, offset a mod S inside it. */
export function placeOf(shape: Shape, seed: number, chunk: Bytes, address: Bytes): BlockPlace {
  const strip = Math.floor(address / chunk);
  const within = address % chunk;
  const strips = stripeStrips(shape, seed, Math.floor(strip / stripWidth(shape)));
  const data = strips.find((one) => one.what === 'data' && one.number === strip)!;
  const at = (one: Strip) => ({ drive: one.drive, offset: one.row * chunk + within });
  return {
    ...at(data),
    others: strips.flatMap((one) => (one.what === 'data' ? [] : [{ ...at(one), what: one.what }])),
  };
}
