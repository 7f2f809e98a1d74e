/**
 * Puts the k-th smallest value (0-based) of `values[from, to)` at its place, smaller ones before it, in linear time on the average (Hoare); the
 * array is put in another order.
 */
export function selected(values: Float64Array, k: number, from = 0, to = values.length): number {
  let [low, high] = [from, to - 1];
  while (low < high) {
    const pivot = values[(low + high) >>> 1]!;
    let [i, j] = [low, high];
    while (i <= j) {
      while (values[i]! < pivot) i++;
      while (values[j]! > pivot) j--;
      if (i > j) break;
      const kept = values[i]!;
      values[i++] = values[j]!;
      values[j--] = kept;
    }
    if (k <= j) high = j;
    else if (k >= i) low = i;
    else break;
  }
  return values[k]!;
}
