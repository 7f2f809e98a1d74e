import type { MediaClass } from '../estate/entities';

/** Sober, sustained figures of a class of drives (not of a product), for random I/O of 4 KiB. MB are 10^6 bytes. */
export interface MediaFigures {
  label: string;
  flash: boolean;
  /** Slower classes have a higher rank. */
  rank: number;
  readIops: number;
  writeIops: number;
  readMBps: number;
  writeMBps: number;
  /** Service time of one small I/O, ms. */
  readMs: number;
  writeMs: number;
  /** Share of such drives that fail within a year, 0 to 1. */
  annualFailureRate: number;
  /** Unrecoverable read errors for each bit read. */
  readErrorRate: number;
  /** Rated writes: whole drives a day over five years; null where wear is not counted in writes. */
  drivesADay: number | null;
}

const figures = (
  label: string,
  rank: number,
  [readIops, writeIops]: [number, number],
  [readMBps, writeMBps]: [number, number],
  [readMs, writeMs]: [number, number],
  annualFailureRate: number,
  readErrorRate: number,
  drivesADay: number | null,
): MediaFigures => ({
  label,
  flash: drivesADay !== null,
  rank,
  readIops,
  writeIops,
  readMBps,
  writeMBps,
  readMs,
  writeMs,
  annualFailureRate,
  readErrorRate,
  drivesADay,
});

export const mediaFigures: Record<MediaClass, MediaFigures> = {
  'ssd-nvme': figures('NVMe flash', 0, [500_000, 120_000], [3000, 1800], [0.1, 0.03], 0.005, 1e-17, 1),
  'ssd-sas': figures('SAS flash', 1, [150_000, 60_000], [1000, 800], [0.12, 0.06], 0.005, 1e-17, 3),
  'ssd-sata': figures('SATA flash', 2, [70_000, 25_000], [500, 400], [0.15, 0.08], 0.006, 1e-17, 1),
  'hdd-15k': figures('15K disk', 3, [190, 180], [220, 220], [5.3, 5.6], 0.01, 1e-16, null),
  'hdd-10k': figures('10K disk', 4, [140, 130], [200, 200], [7.1, 7.7], 0.01, 1e-16, null),
  'hdd-7k': figures('7.2K disk', 5, [80, 75], [180, 180], [12.5, 13.3], 0.015, 1e-15, null),
};

/** The slowest class of some drives: a group runs at its speed. */
export const slowestOf = (classes: Iterable<MediaClass>): MediaClass => {
  let slowest: MediaClass = 'ssd-nvme';
  for (const media of classes) if (mediaFigures[media].rank > mediaFigures[slowest].rank) slowest = media;
  return slowest;
};
