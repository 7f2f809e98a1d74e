import type { RaidGroup, RaidLevel } from '../estate/entities';
import type { Bytes } from '../units/bytes';
import { DRIVE_RESERVE, LEG_WIDTH, RIGHT_SIZE } from './choices';

export interface LevelFigures {
  label: string;
  minDrives: number;
  /** Parity strips in a stripe; for the distributed level what it has unless another number is asked for. */
  parity: number;
  mirror: boolean;
  /** Made of legs, each with parity of its own. */
  legs: boolean;
}

export const levelFigures: Record<RaidLevel, LevelFigures> = {
  raid0: { label: 'RAID 0', minDrives: 2, parity: 0, mirror: false, legs: false },
  raid1: { label: 'RAID 1', minDrives: 2, parity: 0, mirror: true, legs: false },
  raid10: { label: 'RAID 10', minDrives: 4, parity: 0, mirror: true, legs: false },
  raid5: { label: 'RAID 5', minDrives: 3, parity: 1, mirror: false, legs: false },
  raid50: { label: 'RAID 50', minDrives: 6, parity: 1, mirror: false, legs: true },
  raid6: { label: 'RAID 6', minDrives: 4, parity: 2, mirror: false, legs: false },
  raid60: { label: 'RAID 60', minDrives: 8, parity: 2, mirror: false, legs: true },
  'triple-parity': { label: 'Triple parity', minDrives: 5, parity: 3, mirror: false, legs: false },
  distributed: { label: 'Distributed', minDrives: 3, parity: 2, mirror: false, legs: false },
};

/** What a drive can give to a group: its capacity less the reserve, down to a whole {@link RIGHT_SIZE}. */
export const usableOfDrive = (capacity: Bytes): Bytes =>
  Math.max(0, Math.floor((capacity - DRIVE_RESERVE) / RIGHT_SIZE) * RIGHT_SIZE);

/** What is asked for; what is left out is chosen. */
export interface ShapeWish {
  level: RaidLevel;
  /** Copies of levels 1 and 10. Level 1 keeps one on every drive. */
  copies?: number | undefined;
  /** Legs of levels 50 and 60. */
  legs?: number | undefined;
  /** Data and parity strips of a distributed stripe. */
  data?: number | undefined;
  parity?: number | undefined;
  /** Drives' worth of spare space in a distributed group. */
  spareColumns?: number | undefined;
}

/** How the drives of a group work together: `legs` sets of `width` drives, of which each stripe takes `data` strips and `parity` more. */
export interface Shape {
  level: RaidLevel;
  drives: number;
  /** Copies of every strip; 1 where nothing is mirrored. */
  copies: number;
  /** Parity legs, mirror sets, or 1. */
  legs: number;
  /** Drives of a leg or set; strips of a stripe in a distributed group. */
  width: number;
  data: number;
  parity: number;
  spareColumns: number;
}

/** Drives of one leg or mirror set that may fail, whichever they are, before data is lost. */
export const lossesOf = (shape: Pick<Shape, 'copies' | 'parity'>): number =>
  shape.copies > 1 ? shape.copies - 1 : shape.parity;

/** Failures that a group survives, whichever they are: what is declared of an outside array under it, else what its members give. */
export const survivesOf = (group: Pick<RaidGroup, 'copies' | 'parity' | 'declared'>): number =>
  group.declared ?? lossesOf(group);

export interface Geometry extends Shape {
  /** What each member contributes: the smallest member, down to a whole chunk. */
  memberSize: Bytes;
  usable: Bytes;
  /** Failures survived whichever drives they hit, and at best. */
  survives: number;
  survivesAtBest: number;
  /** Usable space of larger members that goes to waste. */
  stranded: Bytes;
}

export type GeometryFailure =
  | 'too-few-drives'
  | 'drive-too-small'
  | 'too-few-copies'
  | 'copies-not-divisible'
  | 'legs-not-divisible'
  | 'leg-too-narrow'
  | 'stripe-without-data'
  | 'stripe-without-parity'
  | 'stripe-wider-than-drives'
  | 'too-many-drives';

/** Two or three parities are computed over GF(2^8), which tells no more strips of a stripe apart. */
export const WIDEST_STRIPE = 255;

const narrowestLeg = (level: RaidLevel): number => (level === 'raid60' ? 4 : 3);

/** Legs for levels 50 and 60: of the legal leg widths the one nearest {@link LEG_WIDTH}, ties to the narrower; null where none divides n. */
export function chooseLegs(level: RaidLevel, n: number): number | null {
  let best: number | null = null;
  for (let s = 2; s <= n / narrowestLeg(level); s++) {
    if (n % s !== 0) continue;
    const away = (legs: number) => Math.abs(n / legs - LEG_WIDTH);
    if (best === null || away(s) <= away(best)) best = s;
  }
  return best;
}

/** The strips of a distributed stripe and its spare columns, where nothing was asked for. */
export function chooseStripe(n: number, wish: ShapeWish): { data: number; parity: number; spareColumns: number } {
  const spareColumns = wish.spareColumns ?? Math.max(1, Math.ceil(n / 30));
  const parity = wish.parity ?? levelFigures.distributed.parity;
  return { spareColumns, parity, data: wish.data ?? Math.max(1, Math.min(8, n - spareColumns - parity)) };
}

/** The shape of `n` drives, or the first reason why they have none, tested in the order of the reference. */
export function shapeOf(wish: ShapeWish, n: number): Shape | GeometryFailure {
  const shape = shapeOfLevel(wish, n);
  return typeof shape !== 'string' && shape.parity > 1 && shape.width > WIDEST_STRIPE ? 'too-many-drives' : shape;
}

function shapeOfLevel(wish: ShapeWish, n: number): Shape | GeometryFailure {
  const { level } = wish;
  const { minDrives, parity, legs: legged } = levelFigures[level];
  if (n < minDrives) return 'too-few-drives';
  const plain = { level, drives: n, copies: 1, legs: 1, width: n, data: n - parity, parity, spareColumns: 0 };
  if (level === 'raid1') return { ...plain, copies: n, data: 1 };
  if (level === 'raid10') {
    const copies = wish.copies ?? 2;
    if (copies < 2) return 'too-few-copies';
    if (n % copies !== 0 || n / copies < 2) return 'copies-not-divisible';
    return { ...plain, copies, legs: n / copies, width: copies, data: 1 };
  }
  if (legged) {
    const legs = wish.legs ?? chooseLegs(level, n);
    if (legs === null || legs < 2 || n % legs !== 0) return 'legs-not-divisible';
    const width = n / legs;
    if (width < narrowestLeg(level)) return 'leg-too-narrow';
    return { ...plain, legs, width, data: width - parity };
  }
  if (level === 'distributed') {
    const stripe = chooseStripe(n, wish);
    if (stripe.data < 1) return 'stripe-without-data';
    if (stripe.parity < 1) return 'stripe-without-parity';
    const width = stripe.data + stripe.parity;
    if (width > n - stripe.spareColumns) return 'stripe-wider-than-drives';
    return { ...plain, ...stripe, width };
  }
  return plain;
}

export const gcd = (a: number, b: number): number => (b === 0 ? a : gcd(b, a % b));

/** Rows and stripes of one tile of a distributed group: w/g rows hold A/g stripes over the A active columns. */
export function tileOf(shape: Pick<Shape, 'drives' | 'width' | 'spareColumns'>): { rows: number; stripes: number } {
  const active = shape.drives - shape.spareColumns;
  const g = gcd(shape.width, active);
  return { rows: shape.width / g, stripes: active / g };
}

/** Bytes for data in a group of this shape whose members give `memberSize` each. */
export function usableOf(shape: Shape, memberSize: Bytes, chunk: Bytes): Bytes {
  if (shape.level === 'distributed') {
    const { rows, stripes } = tileOf(shape);
    return Math.floor(memberSize / chunk / rows) * stripes * shape.data * chunk;
  }
  return shape.legs * shape.data * memberSize;
}

/**
 * Capacity and tolerance of a group from the capacities of its drives (bytes, any order). Every member contributes the same amount.
 * Usable: level 0 n·u; 1 u; 10 (n/c)·u; 5, 6 and triple parity (n−m)·u; 50 and 60 s·(w−m)·u; distributed tiles·K·d·S.
 */
export function geometry(
  wish: ShapeWish | RaidLevel,
  capacities: readonly Bytes[],
  chunk: Bytes,
): Geometry | GeometryFailure {
  const asked = typeof wish === 'string' ? { level: wish } : wish;
  const n = capacities.length;
  if (n < levelFigures[asked.level].minDrives) return 'too-few-drives';
  const usables = capacities.map(usableOfDrive);
  const memberSize = Math.floor(Math.min(...usables) / chunk) * chunk;
  if (memberSize === 0) return 'drive-too-small';
  const shape = shapeOf(asked, n);
  if (typeof shape === 'string') return shape;
  const usable = usableOf(shape, memberSize, chunk);
  if (usable === 0) return 'drive-too-small';
  const lossesOfLeg = lossesOf(shape);
  return {
    ...shape,
    memberSize,
    usable,
    survives: lossesOfLeg,
    survivesAtBest: shape.legs * lossesOfLeg + shape.spareColumns,
    stranded: usables.reduce((sum, one) => sum + one, 0) - n * memberSize,
  };
}

/** The shape of a group on record. */
export function shapeOfGroup(
  group: Pick<RaidGroup, 'level' | 'drives' | 'copies' | 'legs' | 'data' | 'parity' | 'spareColumns'>,
): Shape {
  const { level, copies, legs, data, parity, spareColumns } = group;
  const drives = group.drives.length;
  const width = level === 'distributed' ? data + parity : drives / legs;
  return { level, drives, copies, legs, width, data, parity, spareColumns };
}

/** The fields of a group's row that keep its shape. */
export const shapeFields = ({ copies, legs, data, parity, spareColumns }: Shape) => ({
  copies,
  legs,
  data,
  parity,
  spareColumns,
});

/**
 * The shape after `added` more drives, or null where the level cannot take so many: level 10 takes whole sets, levels 50 and 60 whole legs,
 * or a drive more for every leg.
 */
export function grownShape(shape: Shape, added: number): Shape | null {
  const drives = shape.drives + added;
  const { level, width, legs, copies, parity } = shape;
  if (added < 1) return null;
  if (level === 'raid1') return { ...shape, drives, copies: drives, width: drives };
  if (level === 'raid10') return added % copies === 0 ? { ...shape, drives, legs: drives / copies } : null;
  if (level === 'distributed') return { ...shape, drives };
  if (legs > 1) {
    if (added % width === 0) return { ...shape, drives, legs: drives / width };
    if (added % legs !== 0) return null;
    return { ...shape, drives, width: drives / legs, data: drives / legs - parity };
  }
  return { ...shape, drives, width: drives, data: drives - parity };
}

/** Data and redundancy in drives' worth, as a sketch shows them. */
export const sketchOf = (shape: Shape): { data: number; parity: number; mirror: boolean } => {
  const data = shape.level === 'distributed' ? shape.data : shape.legs * shape.data;
  const all = shape.level === 'distributed' ? shape.width : shape.drives;
  return { data, parity: all - data, mirror: shape.copies > 1 };
};

/** `8+2`, `4×2`, `×3`, `2×(5+1)`, `8+2 on 20`: how wide a group is. */
export function widthText(shape: Shape): string {
  if (shape.level === 'raid1') return `×${shape.drives}`;
  if (shape.copies > 1) return `${shape.legs}×${shape.copies}`;
  if (shape.level === 'distributed') return `${shape.data}+${shape.parity} on ${shape.drives}`;
  const leg = `${shape.data}+${shape.parity}`;
  return shape.legs > 1 ? `${shape.legs}×(${leg})` : leg;
}

/** `RAID 6 8+2` */
export const levelText = (shape: Shape): string =>
  shape.drives === 1 ? 'One member' : `${levelFigures[shape.level].label} ${widthText(shape)}`;

/**
 * Share of the ways in which k drives of the group may fail that lose nothing: the coefficient of x^k in (Σ_{j≤m} C(w,j)x^j)^s over C(n,k);
 * mirrors have w = c and m = c−1. A distributed group survives its parity, whichever drives they hit.
 */
export function survivalOf(shape: Shape, k: number): number {
  if (k === 0) return 1;
  if (k > shape.drives) return 0;
  const width = shape.level === 'distributed' ? shape.drives : shape.width;
  const most = shape.copies > 1 ? shape.width - 1 : shape.parity;
  let ways = [1];
  for (let leg = 0; leg < shape.legs; leg++) {
    const next = Array<number>(Math.min(k, ways.length + most) + 1).fill(0);
    ways.forEach((count, a) => {
      for (let j = 0; j <= most && a + j <= k; j++) next[a + j]! += count * choose(width, j);
    });
    ways = next;
  }
  return (ways[k] ?? 0) / choose(shape.drives, k);
}

function choose(n: number, k: number): number {
  let result = 1;
  for (let i = 1; i <= k; i++) result = (result * (n - k + i)) / i;
  return Math.round(result);
}
