import type { Drive, MediaClass, Priority } from '../estate/entities';
import type { Bytes } from '../units/bytes';
import { REPLENISH_DAYS, SHARES, SPARES_RUN_OUT } from './choices';
import { usableOfDrive, type Shape } from './geometry';
import { mediaFigures, type MediaFigures } from './media';

/** Share of the members' rate a background job gets at foreground utilisation ρ: clamp(1−ρ, floor, cap) of its priority. */
export function backgroundShare(priority: Priority, load: number): number {
  const { floor, cap } = SHARES[priority];
  return Math.min(cap, Math.max(floor, 1 - load));
}

/** Share of its rate that the foreground keeps beside the job: min(1, (1−φ)/ρ). */
export const foregroundKept = (share: number, load: number): number =>
  load <= 0 ? 1 : Math.min(1, (1 - share) / load);

/** Drives read for one rebuilt strip. */
export const rebuildSources = (shape: Shape): number => (shape.copies > 1 ? 1 : shape.data);

/**
 * Bytes a second at which a member is rebuilt. To a spare: min(φ·B_w, φ·B_r, C/(src+1)). Distributed, each survivor reads dU/(n−1) and writes
 * U/(n−1), longer by the measured imbalance of the layout (max/mean − 1). A controller that gives `budget` C bytes a second to rebuilds moves (d+1)U in all.
 */
export function rebuildRate(
  shape: Shape,
  media: MediaFigures,
  share: number,
  imbalance = 0,
  budget = Infinity,
): number {
  const [read, write] = [media.readMBps * 1e6, media.writeMBps * 1e6];
  const moved = budget / (rebuildSources(shape) + 1);
  if (shape.level !== 'distributed') return Math.min(share * read, share * write, moved);
  const survivors = shape.drives - 1;
  const secondsPerByte = shape.data / survivors / read + 1 / survivors / write;
  return Math.min(share / (secondsPerByte * (1 + imbalance)), moved);
}

/**
 * Of the stripes on the drive that failed last, the share that lacks all of `failures` drives: Π_{j<i}(w−j)/(n−j). A distributed group rebuilds
 * these first, so that its second failure is over after that share of a whole rebuild. 1 for every other level.
 */
export function criticalShare(shape: Shape, failures: number): number {
  if (shape.level !== 'distributed') return 1;
  let share = 1;
  for (let j = 1; j < failures; j++) share *= (shape.width - j) / (shape.drives - j);
  return share;
}

/** Bytes to be rebuilt of one lost member: all it gives, or of a distributed group its filled active columns. */
export const rebuildBytes = (shape: Shape, memberSize: Bytes, fill = 1): Bytes =>
  shape.level === 'distributed'
    ? Math.floor(((memberSize * (shape.drives - shape.spareColumns)) / shape.drives) * fill)
    : memberSize;

/** Bytes a second of the way back to a replaced drive; redundancy is whole meanwhile. */
export function copyBackRate(shape: Shape, media: MediaFigures, share: number): number {
  const [read, write] = [media.readMBps * 1e6, media.writeMBps * 1e6];
  return share * (shape.level === 'distributed' ? Math.min(write, (shape.drives - 1) * read) : Math.min(read, write));
}

/** What a spare must be for a member of a group. */
export interface SpareNeed {
  group: string;
  memberSize: Bytes;
  sector: 512 | 4096;
  media: MediaClass;
  /** Members in each enclosure. */
  enclosures: ReadonlyMap<string, number>;
}

/** Why a drive cannot stand in for a member, or null. `now` bars a drive that failed a rebuild within the last hour. */
export function spareUnfit(drive: Drive, need: SpareNeed): { code: string; why: string } | null {
  const [own, wanted] = [mediaFigures[drive.media], mediaFigures[need.media]];
  if (drive.state !== 'ok') return { code: 'spare-not-whole', why: `is ${drive.state}` };
  if (drive.raidGroup) return { code: 'drive-in-use', why: 'is a member of a RAID group' };
  if (drive.foreign) return { code: 'drive-foreign-label', why: 'carries foreign data' };
  if (drive.spareGroup && drive.spareGroup !== need.group)
    return { code: 'spare-of-another', why: 'is kept for another group' };
  if (drive.sector !== need.sector)
    return { code: 'drive-sector-mix', why: `has sectors of ${drive.sector} bytes, the group ${need.sector}` };
  if (own.flash !== wanted.flash) return { code: 'drive-medium-mix', why: own.flash ? 'is flash' : 'is disk' };
  if (own.rank > wanted.rank) return { code: 'spare-slower', why: `is ${own.label}, slower than ${wanted.label}` };
  if (usableOfDrive(drive.capacity) < need.memberSize) return { code: 'spare-too-small', why: 'is too small' };
  return null;
}

/**
 * The spare that stands in: dedicated to this group first, then the least excess of class, the smallest that fits, the enclosure with the
 * fewest members of the group, the lowest id. Undefined where none fits: a drive of another group is never taken.
 */
export function chooseSpare(drives: readonly Drive[], need: SpareNeed): Drive | undefined {
  const key = (drive: Drive) => [
    drive.spareGroup === need.group ? 0 : 1,
    mediaFigures[need.media].rank - mediaFigures[drive.media].rank,
    usableOfDrive(drive.capacity),
    need.enclosures.get(drive.enclosure) ?? 0,
  ];
  return drives
    .filter((drive) => drive.spare !== 'no' && !spareUnfit(drive, need))
    .sort((a, b) => {
      const [one, two] = [key(a), key(b)];
      for (let k = 0; k < one.length; k++) if (one[k] !== two[k]) return one[k]! - two[k]!;
      return a.id < b.id ? -1 : 1;
    })[0];
}

/**
 * Spares so that they run out with a chance of at most ε before new ones come: λ = −ln(1−AFR)·N·L/365.25, smallest s with
 * 1 − Σ_{k≤s} e^{−λ}λ^k/k! ≤ ε.
 */
export function sparesAdvised(
  drives: number,
  annualFailureRate: number,
  days = REPLENISH_DAYS,
  chance = SPARES_RUN_OUT,
): number {
  const lambda = (-Math.log1p(-annualFailureRate) * drives * days) / 365.25;
  let term = Math.exp(-lambda);
  let covered = term;
  let spares = 0;
  while (1 - covered > chance) {
    spares += 1;
    term *= lambda / spares;
    covered += term;
  }
  return spares;
}
