/** The key under which a percentile is given: `p95`, `p99.9`, or with what it is of, `responseP95`. */
export const percentileKey = (percentile: number, of = ''): string =>
  of === '' ? `p${percentile}` : `${of}P${percentile}`;

/** 1-based rank of quantile `q` among `n` samples: ⌈q·n − 1e-9⌉, at least the first. */
export const rankOf = (q: number, n: number): number => Math.max(1, Math.ceil(q * n - 1e-9));

/** The sample of that rank, or null without samples. Values need no order. */
export function exactQuantile({ values, q }: { values: readonly number[]; q: number }): { value: number | null } {
  if (values.length === 0) return { value: null };
  const sorted = Float64Array.from(values).sort();
  return { value: sorted[rankOf(q, sorted.length) - 1]! };
}

/** Standard normal deviates of the percentiles that people ask for (load.md D). */
const DEVIATES: Readonly<Record<string, number>> = {
  '50': 0,
  '90': 1.2815515655,
  '95': 1.644853627,
  '99': 2.326347874,
  '99.9': 3.0902323062,
};

/** z with Φ(z) = percentile/100: the tabled ones, else the rational approximation of P. J. Acklam (relative error below 1.15e-9). */
export const deviateOf = (percentile: number): number =>
  DEVIATES[String(percentile)] ?? inverseNormal(percentile / 100);

function inverseNormal(p: number): number {
  if (p <= 0) return -Infinity;
  if (p >= 1) return Infinity;
  if (p > 0.5) return -inverseNormal(1 - p);
  const a = [
    -39.69683028665376, 220.9460984245205, -275.9285104469687, 138.357751867269, -30.66479806614716, 2.506628277459239,
  ];
  const b = [-54.47609879822406, 161.5858368580409, -155.6989798598866, 66.80131188771972, -13.28068155288572];
  const c = [
    -0.007784894002430293, -0.3223964580411365, -2.400758277161838, -2.549732539343734, 4.374664141464968,
    2.938163982698783,
  ];
  const d = [0.007784695709041462, 0.3224671290700398, 2.445134137142996, 3.754408661907416];
  const poly = (k: readonly number[], x: number) => k.reduce((sum, one) => sum * x + one, 0);
  if (p < 0.02425) {
    const q = Math.sqrt(-2 * Math.log(p));
    return poly(c, q) / (poly(d, q) * q + 1);
  }
  const q = p - 0.5;
  const r = q * q;
  return (poly(a, r) * q) / (poly(b, r) * r + 1);
}

/** Φ(z), by the complementary error function (Numerical Recipes' erfc Chebyshev fit, relative error below 1.2e-7). */
export function normalBelow(z: number): number {
  const x = Math.abs(z) / Math.SQRT2;
  const t = 1 / (1 + 0.5 * x);
  const series = [
    0.17087277, -0.82215223, 1.48851587, -1.13520398, 0.27886807, -0.18628806, 0.09678418, 0.37409196, 1.00002368,
    -1.26551223,
  ];
  const erfc = t * Math.exp(-x * x + series.reduce((sum, one) => sum * t + one, 0));
  return z > 0 ? 1 - erfc / 2 : erfc / 2;
}
