/** One burst at the start of a window, as a fluid (load.md F). Rates a second, times in seconds; `drainS` is null where the rest leaves no room. */
export function fluidBurst({
  capacityPerS,
  baseIops,
  burstIops,
  burstS,
  windowS,
}: {
  capacityPerS: number;
  baseIops: number;
  burstIops: number;
  burstS: number;
  windowS: number;
}): {
  windowMeanIops: number;
  meanUtilisation: number;
  peakBacklog: number;
  worstDelayS: number;
  drainS: number | null;
  peakToMean: number;
} {
  const windowMeanIops = (burstIops * burstS + baseIops * (windowS - burstS)) / windowS;
  const peakBacklog = Math.max(0, (burstIops - capacityPerS) * burstS);
  const drain = baseIops >= capacityPerS ? null : peakBacklog / (capacityPerS - baseIops);
  return {
    windowMeanIops,
    meanUtilisation: windowMeanIops / capacityPerS,
    peakBacklog,
    worstDelayS: peakBacklog / capacityPerS,
    drainS: peakBacklog === 0 ? 0 : drain,
    peakToMean: windowMeanIops === 0 ? 0 : burstIops / windowMeanIops,
  };
}
