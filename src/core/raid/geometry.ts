import type { RaidLevel } from '../estate/entities';
import { GIB, KIB, MIB, type Bytes } from '../units/bytes';

/** Kept on every drive for label, configuration copy and bad-block map. */
export const DRIVE_RESERVE: Bytes = 256 * MIB;
/** Drives are cut down to a multiple of this, so that a replacement a few megabytes smaller still fits. */
export const RIGHT_SIZE: Bytes = GIB;
export const MIN_CHUNK: Bytes = 16 * KIB;
export const MAX_CHUNK: Bytes = MIB;
export const DEFAULT_CHUNK = '64 KiB';

export interface LevelFigures {
  label: string;
  minDrives: number;
  /** Parity strips in a stripe. */
  parity: number;
  /** Copies of every strip; 1 where nothing is mirrored, 'all' where every drive holds a copy. */
  copies: 1 | 2 | 'all';
}

export const levelFigures: Record<RaidLevel, LevelFigures> = {
  raid0: { label: 'RAID 0', minDrives: 2, parity: 0, copies: 1 },
  raid1: { label: 'RAID 1', minDrives: 2, parity: 0, copies: 'all' },
  raid10: { label: 'RAID 10', minDrives: 4, parity: 0, copies: 2 },
  raid5: { label: 'RAID 5', minDrives: 3, parity: 1, copies: 1 },
  raid6: { label: 'RAID 6', minDrives: 4, parity: 2, copies: 1 },
};

/** What a drive can give to a group: its capacity less the reserve, down to a whole {@link RIGHT_SIZE}. */
export const usableOfDrive = (capacity: Bytes): Bytes =>
  Math.max(0, Math.floor((capacity - DRIVE_RESERVE) / RIGHT_SIZE) * RIGHT_SIZE);

export interface Geometry {
  /** What each member contributes: the smallest member, down to a whole chunk. */
  memberSize: Bytes;
  usable: Bytes;
  /** Chunks of data and of redundancy in one stripe. */
  data: number;
  redundancy: number;
  /** Failures survived whichever drives they hit, and at best. */
  survives: number;
  survivesAtBest: number;
  /** Usable space of larger members that goes to waste. */
  stranded: Bytes;
}

export type GeometryFailure = 'too-few-drives' | 'drive-too-small' | 'copies-not-divisible';

/**
 * Capacity and tolerance of a group from the capacities of its drives (bytes, any order). Every member contributes the same amount.
 * Usable: level 0 n·u; 1 u; 10 (n/2)·u; 5 (n−1)·u; 6 (n−2)·u.
 */
export function geometry(level: RaidLevel, capacities: readonly Bytes[], chunk: Bytes): Geometry | GeometryFailure {
  const { minDrives, parity, copies } = levelFigures[level];
  const n = capacities.length;
  if (n < minDrives) return 'too-few-drives';
  const usables = capacities.map(usableOfDrive);
  const memberSize = Math.floor(Math.min(...usables) / chunk) * chunk;
  if (memberSize === 0) return 'drive-too-small';
  const mirror = copies === 'all' ? n : copies;
  if (n % mirror !== 0) return 'copies-not-divisible';
  const data = n / mirror - parity;
  return {
    memberSize,
    usable: data * memberSize,
    data,
    redundancy: n - data,
    survives: mirror - 1 + parity,
    survivesAtBest: (n / mirror) * (mirror - 1) + parity,
    stranded: usables.reduce((sum, usable) => sum + usable, 0) - n * memberSize,
  };
}

/** `8+2`, `4×2`, `×3`: how wide a group is. */
export function widthText(level: RaidLevel, drives: number): string {
  const { parity, copies } = levelFigures[level];
  if (copies === 'all') return `×${drives}`;
  if (copies === 2) return `${drives / 2}×2`;
  return `${drives - parity}+${parity}`;
}
