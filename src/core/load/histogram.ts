import { rankOf } from './percentile';

/** Counts by bucket: bucket 0 holds what is at most `firstS`, bucket i > 0 holds (first·γ^(i−1), first·γ^i]. */
export type Histogram = Readonly<Record<string, number>>;

/** The bucket a value falls into. */
export const bucketOf = (valueS: number, gamma: number, firstS: number): number =>
  valueS <= firstS ? 0 : Math.max(1, Math.ceil(Math.log(valueS / firstS) / Math.log(gamma) - 1e-9));

/** The value that stands for a bucket: first·γ^(i−½), of bucket 0 first; relative error at most √γ − 1. */
export const bucketValue = (bucket: number, gamma: number, firstS: number): number =>
  bucket === 0 ? firstS : firstS * gamma ** (bucket - 0.5);

/** Counts of several histograms together; their order is of no account. */
export function mergedHistogram(histograms: readonly Histogram[]): Record<string, number> {
  const merged: Record<string, number> = {};
  for (const one of histograms)
    for (const [bucket, n] of Object.entries(one)) merged[bucket] = (merged[bucket] ?? 0) + n;
  return merged;
}

/** The quantile of merged histograms (load.md G): percentiles are never averaged. Nulls without samples. */
export function histogramQuantile({
  histograms,
  gamma,
  firstS,
  q,
}: {
  histograms: readonly Histogram[];
  gamma: number;
  firstS: number;
  q: number;
}): { valueS: number | null; bucket: number | null } {
  const merged = mergedHistogram(histograms);
  const buckets = Object.keys(merged)
    .map(Number)
    .filter((bucket) => merged[bucket]! > 0)
    .sort((a, b) => a - b);
  const total = buckets.reduce((sum, bucket) => sum + merged[bucket]!, 0);
  if (total === 0) return { valueS: null, bucket: null };
  const rank = rankOf(q, total);
  let seen = 0;
  for (const bucket of buckets) {
    seen += merged[bucket]!;
    if (seen >= rank * (1 - 1e-12)) return { valueS: bucketValue(bucket, gamma, firstS), bucket };
  }
  const last = buckets.at(-1)!;
  return { valueS: bucketValue(last, gamma, firstS), bucket: last };
}
