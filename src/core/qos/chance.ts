/** Draws for simulations: sfc32 (C. Doty-Humphrey's small fast counter) with the distributions that queues need. The same seed, the same draws. */
export class Chance {
  private a: number;
  private b: number;
  private c: number;
  private d = 1;
  private spare = NaN;

  constructor(seed: number) {
    this.a = seed | 0;
    this.b = (seed * 0x9e3779b1) | 0;
    this.c = (seed ^ 0x5bd1e995) | 0;
    for (let k = 0; k < 12; k++) this.unit();
  }

  /** Within (0, 1]. */
  unit(): number {
    const t = (((this.a + this.b) | 0) + this.d) | 0;
    this.d = (this.d + 1) | 0;
    this.a = this.b ^ (this.b >>> 9);
    this.b = (this.c + (this.c << 3)) | 0;
    this.c = (this.c << 21) | (this.c >>> 11);
    this.c = (this.c + t) | 0;
    return ((t >>> 0) + 1) / 4294967296;
  }

  exponential(mean: number): number {
    return -mean * Math.log(this.unit());
  }

  /** Standard normal, by Box and Muller. */
  normal(): number {
    if (!Number.isNaN(this.spare)) {
      const kept = this.spare;
      this.spare = NaN;
      return kept;
    }
    const r = Math.sqrt(-2 * Math.log(this.unit()));
    const angle = 2 * Math.PI * this.unit();
    this.spare = r * Math.sin(angle);
    return r * Math.cos(angle);
  }

  /**
   * A time of this mean and squared coefficient of variation: 0 fixed, 1 exponential, above 1 hyper-exponential with balanced means, else lognormal.
   */
  time(mean: number, scv: number): number {
    if (scv === 1) return this.exponential(mean);
    if (scv === 0) return mean;
    if (scv > 1) {
      const p = (1 + Math.sqrt((scv - 1) / (scv + 1))) / 2;
      return this.unit() <= p ? this.exponential(mean / (2 * p)) : this.exponential(mean / (2 * (1 - p)));
    }
    const s2 = Math.log1p(scv);
    return mean * Math.exp(Math.sqrt(s2) * this.normal() - s2 / 2);
  }
}
