import { KIB, type Bytes } from '../units/bytes';

/** The grain of fingerprints, zeros and compression; sizes of volumes are whole pages, so that space sums add up to the byte. */
export const PAGE: Bytes = 16 * KIB;
/** What a compressed page is rounded up to. */
export const CELL: Bytes = KIB;
/** Pages after which the made-up content repeats its pattern of zero, common and own pages. */
export const WEAVE = 120;
/** Bytes of map kept for every page written and for every page stored. */
export const MAP_ENTRY: Bytes = 32;
export const KEY_ENTRY: Bytes = 48;
/** Metadata is written in whole blocks of this. */
export const MAP_BLOCK: Bytes = 4 * KIB;

export const wholePages = (size: Bytes): Bytes => Math.ceil(size / PAGE) * PAGE;
