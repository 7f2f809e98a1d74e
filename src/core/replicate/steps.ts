/** A rate that holds from a moment until the next: right-continuous, the first at 0 or before. */
export interface Step {
  fromS: number;
  bytesPerS: number;
}

/** A step function with its sums, so that what passes between any two moments is found at once. */
export class Steps {
  private readonly starts: number[];
  private readonly rates: number[];
  /** Bytes from moment 0 up to each start; those before 0 count as nothing. */
  private readonly sums: number[];

  constructor(steps: readonly Step[]) {
    const sorted = [...steps].sort((a, b) => a.fromS - b.fromS);
    // Of what holds at moment 0 only the last step counts; nothing passes before the first.
    const first = sorted.findLastIndex((step) => step.fromS <= 0);
    const used = first < 0 ? [{ fromS: 0, bytesPerS: 0 }, ...sorted] : sorted.slice(first);
    this.starts = used.map((step) => Math.max(0, step.fromS));
    this.rates = used.map((step) => step.bytesPerS);
    this.sums = [0];
    for (let k = 1; k < used.length; k++)
      this.sums.push(this.sums[k - 1]! + this.rates[k - 1]! * (this.starts[k]! - this.starts[k - 1]!));
  }

  /** Moments behind 0 at which the rate changes. */
  get changes(): readonly number[] {
    return this.starts.slice(1);
  }

  private at(s: number): number {
    let low = 0;
    let high = this.starts.length;
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if (this.starts[middle]! <= s) low = middle;
      else high = middle;
    }
    return low;
  }

  rate(s: number): number {
    return this.rates[this.at(s)] ?? 0;
  }

  /** Bytes from moment 0 to `s`. */
  upTo(s: number): number {
    if (this.starts.length === 0 || s <= 0) return 0;
    const k = this.at(s);
    return this.sums[k]! + this.rates[k]! * (s - this.starts[k]!);
  }

  /** The moment at which so many bytes have passed since `fromS`; Infinity where they never do. */
  passed(fromS: number, bytes: number): number {
    if (bytes <= 0) return fromS;
    let left = bytes;
    let at = fromS;
    for (let k = this.at(fromS); k < this.starts.length; k++) {
      const end = this.starts[k + 1] ?? Infinity;
      const rate = this.rates[k]!;
      if (rate > 0 && left <= rate * (end - at)) return at + left / rate;
      left -= rate > 0 ? rate * (end - at) : 0;
      at = end;
    }
    return Infinity;
  }

  /** The latest moment by which no more than so many bytes have passed since 0. */
  reached(bytes: number): number {
    let k = 0;
    while (k + 1 < this.starts.length && this.sums[k + 1]! <= bytes) k += 1;
    const rate = this.rates[k] ?? 0;
    return rate > 0 ? (this.starts[k] ?? 0) + (bytes - this.sums[k]!) / rate : Infinity;
  }
}
