import { KIB } from '../units/bytes';
import { HOUR, MINUTE, SECOND, type Milliseconds } from '../units/duration';

/** What a cycle costs before the first byte: cutting, reading the map, agreeing with the other side (a choice). */
export const FIXED = 5 * SECOND;
/** Sessions between two arrays, and the window of each (choices). */
export const SESSIONS = 8;
export const WINDOW = 4 * 2 ** 20;
/** Share of a line that is left for data beside headers. */
export const EFFICIENCY = 0.94;
/** A slow line brings through so much of its speed and takes so many times as long; a lossy one loses such a share besides (choices). */
export const SLOW_SPEED = 0.1;
export const SLOW_TRIP = 5;
export const LOSSY = 0.01;
/** Hours of the day, UTC, between which it is day for the caps of lines (a choice). */
export const DAY_FROM = 6;
export const DAY_TO = 22;
/** Bytes that are sent for each that changed, as arrays usually pack them (a choice). */
export const USUAL_RATIO = 0.7;
/** How long a cycle that failed is left alone before it is tried again (choices: 10 s … 5 min). */
export const AGAIN = 5 * MINUTE;
/** Cycles that are remembered of one replication. */
export const CYCLES_KEPT = 300;

/** What a plan reckons with: how long an outage the source bridges, and how much more is kept (choices). */
export const OUTAGE: Milliseconds = 2 * HOUR;
export const SAFETY = 1.3;
/**
 * Of a first copy: extents that are compared, the checksum of one, how fast both sides are read, what differs in a copy that is there already, how
 * fast media are written and read, and how long they are on the road (choices).
 */
export const EXTENT = 2 ** 20;
export const CHECKSUM = 16;
export const SCAN = 400e6;
export const DIFFERS = 0.05;
export const IMPORT = 250e6;
export const TRANSIT: Milliseconds = 4 * HOUR;

/** Of a mirrored write: time of one device on the way, what frames add, what goes with the command, a burst, and a write at either end (choices). */
export const MIRRORED = {
  framingOverhead: 0.05,
  unsolicitedBytes: 64 * KIB,
  maxBurstBytes: 256 * KIB,
  localWriteS: 250e-6,
  remoteWriteS: 280e-6,
} as const;
/** Share of a line that mirrors may take in their busiest second, and what a mirror may add to a write unless said (choices). */
export const MOST_OF_LINE = 0.75;
export const USUAL_BUDGET: Milliseconds = 5;
/** What a log keeps beside each write, how long an outage it is to bridge, and how much larger it is made (choices). */
export const LOG_HEADER = 512;
export const LOG_OUTAGE: Milliseconds = 90 * MINUTE;
export const LOG_SAFETY = 1.25;

/** Seconds by which clocks of partners may differ, and protocol versions that arrays speak. */
export const PEER_SKEW = 60;
export const PEER_VERSIONS: readonly number[] = [1, 2, 3];
