/** One telemetry sample: I/O a second, mean seconds of one, bytes a second. */
export interface Sample {
  iops: number;
  latencyS: number;
  bytesPerS: number;
}

/** Samples of equal length in one (load.md G): latency is weighted by I/O and null where all are idle, as is the greatest of those with I/O. */
export function rollup({ samples }: { samples: readonly Sample[] }): {
  iopsMean: number;
  iopsMax: number;
  bytesPerSMean: number;
  latencyMeanS: number | null;
  latencyMaxS: number | null;
} {
  let [iops, iopsMax, bytes, weighted, latencyMaxS] = [0, 0, 0, 0, null as number | null];
  for (const one of samples) {
    iops += one.iops;
    bytes += one.bytesPerS;
    iopsMax = Math.max(iopsMax, one.iops);
    if (one.iops > 0) {
      weighted += one.iops * one.latencyS;
      latencyMaxS = Math.max(latencyMaxS ?? 0, one.latencyS);
    }
  }
  const n = Math.max(1, samples.length);
  return {
    iopsMean: iops / n,
    iopsMax,
    bytesPerSMean: bytes / n,
    latencyMeanS: iops > 0 ? weighted / iops : null,
    latencyMaxS,
  };
}
