/** Drive operations a second of a pool's back end; or the refusal that its data is gone. */
export type Backend =
  | { ok: true; readOps: number; writeOps: number; rebuildOps: number; totalOps: number }
  | { ok: false; code: 'pool-protection-lost'; message: string };

export interface BackendInput {
  readIops: number;
  writeIops: number;
  /** Shares 0 to 1: reads that the cache answers, writes that it merges. */
  readHit: number;
  writeCoalesce: number;
  /** `mirror`: `data` copies. `parity`: `data` strips and `parity` parities a stripe. */
  scheme: 'mirror' | 'parity';
  data: number;
  parity: number;
  fullStripeFraction?: number;
  failed?: number;
  rebuildExtentsPerS?: number;
}

/**
 * What hosts ask comes to at the drives (load.md B). Writes are read-modify-write: for narrow stripes an upper bound of `writePlan`, which takes
 * the lesser of it and reconstruct-write. Of parity schemes no more than one failed member lies within the contract.
 */
export function backend({
  readIops,
  writeIops,
  readHit,
  writeCoalesce,
  scheme,
  data,
  parity,
  fullStripeFraction = 0,
  failed = 0,
  rebuildExtentsPerS = 0,
}: BackendInput): Backend {
  const reads = readIops * (1 - readHit);
  const writes = writeIops * (1 - writeCoalesce);
  if (scheme === 'mirror' ? failed >= data : failed > parity)
    return {
      ok: false,
      code: 'pool-protection-lost',
      message: 'More members failed than the scheme survives; data is lost, restore from a copy.',
    };
  const [n, p] = [data, parity];
  let readFactor = 1;
  let small: number;
  let full: number;
  let rebuilt = 0;
  if (scheme === 'mirror') [small, full, rebuilt] = [data - failed, data - failed, failed > 0 ? 2 : 0];
  else if (failed === 0) [small, full] = [2 * (1 + p), (n + p) / n];
  else {
    const lost = 1 / (n + p);
    readFactor = 1 - lost + lost * n;
    small = (n - 1 + p + p * 2 * p + (n - 1) * 2 * (1 + p)) / (n + p);
    full = (n + p - 1) / n;
    rebuilt = n + 1;
  }
  const readOps = reads * readFactor;
  const writeOps = writes * (fullStripeFraction * full + (1 - fullStripeFraction) * small);
  const rebuildOps = rebuildExtentsPerS * rebuilt;
  return { ok: true, readOps, writeOps, rebuildOps, totalOps: readOps + writeOps + rebuildOps };
}
