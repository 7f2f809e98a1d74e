import { bucketValue } from '../load/histogram';
import { BUCKETS, FIRST_BUCKET_S, GAMMA, SLOT_S } from './choices';

/**
 * What was asked and done over a stretch of time: sums, the greatest five seconds of each, and the histogram of latency. Rows add up in any order.
 * Of a resource only `used` and its greatest speak.
 */
export interface LoadRow {
  /** Slots of five seconds that it covers. */
  slots: number;
  /** Operations: asked, done, given up, and those among them that waited for a limit. */
  asked: number;
  served: number;
  refused: number;
  held: number;
  bytes: number;
  /** Seconds of all that was done. */
  latency: number;
  /** Greatest of five seconds, each with the slot it was in. */
  mostIops: number;
  mostIopsAt: number;
  mostBytesPerS: number;
  mostLatency: number;
  mostLatencyAt: number;
  mostQueue: number;
  mostQueueAt: number;
  mostRefused: number;
  /** Of a resource: units taken, and the greatest share of what it gives. */
  used: number;
  mostRho: number;
  mostRhoAt: number;
  /** Operations by bucket of latency. */
  counts: Float64Array;
}

// Written out: a row that is spread from another is several times as slow to add to.
export const emptyRow = (): LoadRow => ({
  slots: 0,
  asked: 0,
  served: 0,
  refused: 0,
  held: 0,
  bytes: 0,
  latency: 0,
  mostIops: 0,
  mostIopsAt: 0,
  mostBytesPerS: 0,
  mostLatency: 0,
  mostLatencyAt: 0,
  mostQueue: 0,
  mostQueueAt: 0,
  mostRefused: 0,
  used: 0,
  mostRho: 0,
  mostRhoAt: 0,
  counts: new Float64Array(BUCKETS),
});

/** Makes a row empty again. */
export function clearRow(row: LoadRow): void {
  for (const field of PLAIN) row[field] = 0;
  row.counts.fill(0);
}

const sums = ['slots', 'asked', 'served', 'refused', 'held', 'bytes', 'latency', 'used'] as const;
const greatest = [
  ['mostIops', 'mostIopsAt'],
  ['mostLatency', 'mostLatencyAt'],
  ['mostQueue', 'mostQueueAt'],
  ['mostRho', 'mostRhoAt'],
] as const;

const greater = (most: number, at: number, than: number, then: number): boolean =>
  most > than || (most === than && most > 0 && at < then);

/** Adds one row to another; ties of the greatest go to the earlier slot, so that the order is of no account. */
export function addRow(into: LoadRow, row: LoadRow): void {
  // Field by field: it is done some hundred thousand times an hour, and names that are looked up cost several times as much.
  into.slots += row.slots;
  into.asked += row.asked;
  into.served += row.served;
  into.refused += row.refused;
  into.held += row.held;
  into.bytes += row.bytes;
  into.latency += row.latency;
  into.used += row.used;
  if (greater(row.mostIops, row.mostIopsAt, into.mostIops, into.mostIopsAt)) {
    into.mostIops = row.mostIops;
    into.mostIopsAt = row.mostIopsAt;
  }
  if (greater(row.mostLatency, row.mostLatencyAt, into.mostLatency, into.mostLatencyAt)) {
    into.mostLatency = row.mostLatency;
    into.mostLatencyAt = row.mostLatencyAt;
  }
  if (greater(row.mostQueue, row.mostQueueAt, into.mostQueue, into.mostQueueAt)) {
    into.mostQueue = row.mostQueue;
    into.mostQueueAt = row.mostQueueAt;
  }
  if (greater(row.mostRho, row.mostRhoAt, into.mostRho, into.mostRhoAt)) {
    into.mostRho = row.mostRho;
    into.mostRhoAt = row.mostRhoAt;
  }
  into.mostBytesPerS = Math.max(into.mostBytesPerS, row.mostBytesPerS);
  into.mostRefused = Math.max(into.mostRefused, row.mostRefused);
  const [to, from] = [into.counts, row.counts];
  for (let k = 0; k < BUCKETS; k++) to[k]! += from[k]!;
}

/** The row of somebody who asks this share of it: rates and counts are less, latency and time are what they are. */
export function scaledRow(row: LoadRow, share: number): LoadRow {
  const scaled = { ...row, counts: row.counts.map((n) => n * share) };
  for (const field of ['asked', 'served', 'refused', 'held', 'bytes', 'latency'] as const) scaled[field] *= share;
  for (const field of ['mostIops', 'mostBytesPerS', 'mostQueue', 'mostRefused'] as const) scaled[field] *= share;
  return scaled;
}

export function mergedRows(rows: Iterable<LoadRow>): LoadRow {
  const all = emptyRow();
  for (const row of rows) addRow(all, row);
  return all;
}

/** Means and percentiles of a row, seconds and a second; latency is null where nothing was done. */
export function figuresOfRow(row: LoadRow) {
  const seconds = row.slots * SLOT_S;
  const per = (sum: number) => (seconds === 0 ? 0 : sum / seconds);
  return {
    seconds,
    iops: per(row.served),
    askedIops: per(row.asked),
    unservedIops: per(Math.max(0, row.refused)),
    bytesPerS: per(row.bytes),
    latencyS: row.served > 0 ? row.latency / row.served : null,
    p50S: quantileOf(row, 0.5),
    p95S: quantileOf(row, 0.95),
    p99S: quantileOf(row, 0.99),
    used: per(row.used),
  };
}

/** A percentile of a row's latency, from its histogram: `histogramQuantile` over plain counts. */
export function quantileOf({ counts }: LoadRow, q: number): number | null {
  let total = 0;
  for (let k = 0; k < BUCKETS; k++) total += counts[k]!;
  if (total === 0) return null;
  let seen = 0;
  for (let k = 0; k < BUCKETS; k++) {
    seen += counts[k]!;
    if (counts[k]! > 0 && seen >= q * total * (1 - 1e-12)) return bucketValue(k, GAMMA, FIRST_BUCKET_S);
  }
  return null;
}

const PLAIN = [...sums, ...greatest.flat(), 'mostBytesPerS', 'mostRefused'] as const;
/** Fields, the first bucket that counts, how many follow, and those. */
const HEAD = PLAIN.length + 2;

/** A row as bytes: doubles, since slots are counted from 1970 and sums run long. */
export function packRow(row: LoadRow): Uint8Array {
  let [first, last] = [0, -1];
  for (let k = 0; k < BUCKETS; k++)
    if (row.counts[k]! > 0) {
      if (last < 0) first = k;
      last = k;
    }
  const counts = last < 0 ? 0 : last - first + 1;
  const fields = Float64Array.of(...PLAIN.map((field) => row[field]), first, counts);
  const all = new Uint8Array(HEAD * 8 + counts * 4);
  all.set(new Uint8Array(fields.buffer), 0);
  if (counts > 0) all.set(new Uint8Array(Float32Array.from(row.counts.subarray(first, last + 1)).buffer), HEAD * 8);
  return all;
}

/** @throws where the bytes are no row. */
export function unpackRow(bytes: Uint8Array): LoadRow {
  const whole = bytes.slice();
  if (whole.length < HEAD * 8) throw new Error('too short for a row of telemetry');
  const fields = new Float64Array(whole.buffer, 0, HEAD);
  const row = emptyRow();
  PLAIN.forEach((field, k) => (row[field] = fields[k]!));
  const [first, counts] = [fields[HEAD - 2]!, fields[HEAD - 1]!];
  row.counts.set(new Float32Array(whole.buffer, HEAD * 8, counts), first);
  return row;
}
