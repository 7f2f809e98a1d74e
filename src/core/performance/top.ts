/** What a volume, workload, array or host asked and got over a span; rates a second, times in seconds. */
export interface LoadSummary {
  id: string;
  name: string;
  /** Where it stands: array, pool or workload, in words. */
  of: string;
  fullness: number | null;
  iops: number;
  mostIops: number;
  mostIopsAt: number;
  latencyS: number | null;
  p95S: number | null;
  mostLatencyS: number;
  mostLatencyAt: number;
  bytesPerS: number;
  mostBytesPerS: number;
  unserved: number;
  mostUnserved: number;
  mostQueue: number;
  /** Share of what was done that waited for a limit. */
  held: number;
}

export const topBy = ['fullness', 'latency', 'iops', 'throughput', 'unserved', 'queue'] as const;
export type TopBy = (typeof topBy)[number];

/** What is ordered by, over the whole span and in its greatest five seconds. */
const measures: Record<TopBy, { mean: (one: LoadSummary) => number; most: (one: LoadSummary) => number }> = {
  fullness: { mean: (one) => one.fullness ?? 0, most: (one) => one.fullness ?? 0 },
  latency: { mean: (one) => one.p95S ?? 0, most: (one) => one.mostLatencyS },
  iops: { mean: (one) => one.iops, most: (one) => one.mostIops },
  throughput: { mean: (one) => one.bytesPerS, most: (one) => one.mostBytesPerS },
  unserved: { mean: (one) => one.unserved, most: (one) => one.mostUnserved },
  queue: { mean: (one) => one.mostQueue, most: (one) => one.mostQueue },
};

export const measureOf = (one: LoadSummary, by: TopBy, how: 'mean' | 'most'): number => measures[by][how](one);

/** The first few by a figure, ties by id, in one pass: of 100,000 as of ten. */
export function topOf(rows: Iterable<LoadSummary>, by: TopBy, how: 'mean' | 'most', count = 5): LoadSummary[] {
  const measure = measures[by][how];
  const top: { value: number; row: LoadSummary }[] = [];
  for (const row of rows) {
    const value = measure(row);
    if (value <= 0) continue;
    const last = top[count - 1];
    if (last && (value < last.value || (value === last.value && row.id > last.row.id))) continue;
    let at = top.findIndex((one) => value > one.value || (value === one.value && row.id < one.row.id));
    if (at < 0) at = top.length;
    top.splice(at, 0, { value, row });
    if (top.length > count) top.pop();
  }
  return top.map(({ row }) => row);
}
