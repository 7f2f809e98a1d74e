import type { Priority } from '../estate/entities';
import { GIB, KIB, MIB, type Bytes } from '../units/bytes';

/** Free design decisions about drives and RAID groups, in one place. */

/** Kept on every drive for label, configuration copy, bad-block and write-intent maps. */
export const DRIVE_RESERVE: Bytes = 256 * MIB;
/** Drives are cut down to a multiple of this, so that a replacement a few megabytes smaller still fits. */
export const RIGHT_SIZE: Bytes = GIB;
export const MIN_CHUNK: Bytes = 16 * KIB;
export const MAX_CHUNK: Bytes = MIB;
export const DEFAULT_CHUNK = '64 KiB';
/** Width towards which the legs of levels 50 and 60 are chosen. */
export const LEG_WIDTH = 8;
/** Wider parity stripes than this are warned about: with one parity, with more. */
export const WIDE_SINGLE = 9;
export const WIDE = 16;
/** Permutations a distributed layout goes through before it repeats. */
export const PERMUTATIONS = 2048;
/** Seeds tried when a distributed group is formed; the best balanced one stays. */
export const SEEDS_TRIED = 4;
/** Share of the larger members that may go to waste before it is warned about. */
export const STRANDED_SHARE = 0.05;

/** Least and most share of the members' rate that a background job takes, by its priority. */
export const SHARES: Record<Priority, { floor: number; cap: number }> = {
  low: { floor: 0.05, cap: 0.3 },
  normal: { floor: 0.2, cap: 0.6 },
  high: { floor: 0.5, cap: 0.9 },
};
/** Utilisation by hosts that a group is thought to have where nothing is known. */
export const USUAL_LOAD = 0.3;
/** Share of the drives' rate that is promised. */
export const PROMISED_UTILISATION = 0.7;
/** Bytes a second that one controller moves between its ports and its drives. */
export const CONTROLLER_BANDWIDTH = 10e9;
/** I/Os a flash drive serves side by side. */
export const FLASH_CHANNELS = 32;

/** Years over which flash is rated to take its drive writes a day, and how often it writes a byte that is written to it at random. */
export const RATED_YEARS = 5;
export const FLASH_AMPLIFICATION = 2;

/** Days until a failed drive is replaced, and the chance that spares run out within them. */
export const REPLENISH_DAYS = 14;
export const SPARES_RUN_OUT = 0.001;
/** Hours until a failure is noticed, and until a drive is replaced where no spare stands by. */
export const DETECT_HOURS = 0.1;
export const REPLACE_HOURS = 72;
/** A chance of loss within a year above this is a finding. */
export const LOSS_TARGET = 1e-4;
/** A drive that failed a rebuild is not taken again for so long. */
export const REBUILD_BAN_HOURS = 1;
/** Days after which a full scrub is due. */
export const SCRUB_DAYS = 30;
