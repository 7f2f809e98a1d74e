import { SLOT_S } from './choices';
import { quantileOf, type LoadRow } from './row';

/** What charts draw of five minutes: rates a second, times in seconds. */
export interface LoadPart {
  iops: number;
  mostIops: number;
  latency: number;
  mostLatency: number;
  p95: number;
  unserved: number;
  bytesPerS: number;
  /** Of a resource, 0 to 1. */
  rho: number;
  mostRho: number;
}
const fields = [
  'iops',
  'mostIops',
  'latency',
  'mostLatency',
  'p95',
  'unserved',
  'bytesPerS',
  'rho',
  'mostRho',
] as const;

/** `capacity` is that of a resource; of a volume it says nothing. */
export function partOf(row: LoadRow, capacity = 0): LoadPart {
  const seconds = Math.max(SLOT_S, row.slots * SLOT_S);
  return {
    iops: row.served / seconds,
    mostIops: row.mostIops,
    latency: row.served > 0 ? row.latency / row.served : 0,
    mostLatency: row.mostLatency,
    p95: quantileOf(row, 0.95) ?? 0,
    unserved: row.refused / seconds,
    bytesPerS: row.bytes / seconds,
    rho: capacity > 0 ? row.used / seconds / capacity : 0,
    mostRho: row.mostRho,
  };
}

export function packParts(parts: readonly LoadPart[]): Uint8Array {
  const values = new Float32Array(parts.length * fields.length);
  let at = 0;
  for (const part of parts) for (const field of fields) values[at++] = part[field];
  return new Uint8Array(values.buffer);
}

export function unpackParts(bytes: Uint8Array): LoadPart[] {
  const values = new Float32Array(bytes.slice().buffer);
  return Array.from({ length: values.length / fields.length }, (_, k) => {
    const part = {} as LoadPart;
    fields.forEach((field, f) => (part[field] = values[k * fields.length + f]!));
    return part;
  });
}
