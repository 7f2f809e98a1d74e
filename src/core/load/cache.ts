/** How fast hits fall as the working set outgrows the cache (a choice of load.md A). */
export const CACHE_THETA = 0.5;

/** Share of reads that the cache answers: hMax·min(1, cache/workingSet)^θ. Bytes. */
export const readHit = ({
  hMax,
  cacheBytes,
  workingSetBytes,
  theta = CACHE_THETA,
}: {
  hMax: number;
  cacheBytes: number;
  workingSetBytes: number;
  theta?: number;
}): number => hMax * (workingSetBytes <= 0 ? 1 : Math.min(1, cacheBytes / workingSetBytes)) ** theta;
