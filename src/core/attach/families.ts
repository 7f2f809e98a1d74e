import type { OsFamily } from '../estate/entities';

/** What a family of operating systems brings along. */
export interface FamilyFigures {
  label: string;
  /** The highest LUN its hosts address. */
  maxLun: number;
  fileSystems: readonly string[];
  mountBase: string;
}

export const families: Record<OsFamily, FamilyFigures> = {
  linux: { label: 'Linux', maxLun: 16_383, fileSystems: ['xfs', 'ext4'], mountBase: '/srv' },
  bsd: { label: 'BSD', maxLun: 255, fileSystems: ['ufs', 'ffs'], mountBase: '/data' },
  unix: { label: 'Unix', maxLun: 255, fileSystems: ['ufs', 'jfs'], mountBase: '/data' },
  hypervisor: { label: 'Hypervisor', maxLun: 1023, fileSystems: ['gfs2', 'ocfs2'], mountBase: '/stores' },
};

/** Extra paths beyond this help nobody and slow failover. */
export const MOST_PATHS = 16;

/** File systems that several hosts may mount at a time. */
export const clusterFileSystems: readonly string[] = ['gfs2', 'ocfs2'];
