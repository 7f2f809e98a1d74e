/** What a volume asked and got while nothing changed. Rates are I/O a second, times seconds. */
export interface VolumeFigures {
  /** What applications asked; what limits let through; what was done; what applications gave up. */
  asked: number;
  allowed: number;
  served: number;
  /** The greatest of its slots. */
  most: number;
  refused: number;
  /** Operations that waited at the most. */
  queue: number;
  /** Shares of what is done: answered from the cache, from media, written. Mean seconds and variance of each. */
  shares: readonly [number, number, number];
  means: readonly [number, number, number];
  variances: readonly [number, number, number];
  /** Mean of all that was done, and the greatest of its slots: exact, while means and variances are those at its beginning. */
  latency: number;
  mostLatency: number;
  bytesPerS: number;
  /** The resource that keeps it from more, or -1. */
  boundBy: number;
  /** A limit holds it back. */
  limited: boolean;
}

/** Told what was so from one slot to another; slots are five seconds since 1970. */
export interface Listener {
  volume(index: number, from: number, to: number, figures: VolumeFigures): void;
  resource(index: number, from: number, to: number, used: number): void;
}
