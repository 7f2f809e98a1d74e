import type { MediaClass } from '../estate/entities';

/** Sober, sustained figures of a class of drives (not of a product). MB are 10^6 bytes. */
export interface MediaFigures {
  label: string;
  flash: boolean;
  /** Sequential write, MB/s. */
  writeMBps: number;
  /** Slower classes have a higher rank. */
  rank: number;
}

export const mediaFigures: Record<MediaClass, MediaFigures> = {
  'ssd-nvme': { label: 'NVMe flash', flash: true, writeMBps: 1800, rank: 0 },
  'hdd-10k': { label: '10K disk', flash: false, writeMBps: 200, rank: 1 },
  'hdd-7k': { label: '7.2K disk', flash: false, writeMBps: 180, rank: 2 },
};

/** Share of a drive's rate that initialising and rebuilding may take (normal priority on an idle group). */
export const BUILD_SHARE = 0.6;
