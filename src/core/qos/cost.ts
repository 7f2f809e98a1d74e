import { KIB, type Bytes } from '../units/bytes';

/** An I/O of up to so many bytes counts as one operation (a choice of load.md H). */
export const COST_UNIT: Bytes = 64 * KIB;

/** Operations as which one I/O counts: max(1, ⌈size/unit⌉). */
export const ioCost = ({
  ioBytes,
  unitBytes = COST_UNIT,
}: {
  ioBytes: Bytes;
  unitBytes?: Bytes;
}): { cost: number } => ({
  cost: Math.max(1, Math.ceil(ioBytes / unitBytes)),
});

/** I/O a second by size: IOPS per GiB times the size, kept within the two ends; anew at each resize. */
export const densityLimit = ({
  iopsPerGiB,
  sizeBytes,
  minIops,
  maxIops,
}: {
  iopsPerGiB: number;
  sizeBytes: Bytes;
  minIops: number;
  maxIops: number;
}): { iops: number } => ({ iops: Math.min(maxIops, Math.max(minIops, (iopsPerGiB * sizeBytes) / 2 ** 30)) });
