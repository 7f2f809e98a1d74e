/** Free design decisions of the model of load, in one place. */

/** Cores of a controller, and the seconds one spends on a read and on a write (kept twice, once at the partner) beside moving its bytes. */
export const CORES = 8;
export const READ_CORE_S = 60e-6;
export const WRITE_CORE_S = 90e-6;
/** What a controller that does not serve a volume spends on passing one I/O on to its partner. */
export const PASSED_ON_S = 30e-6;

/** A burst that nobody described: so long, so many an hour. */
export const BURST_SECONDS = 10;
export const BURSTS_AN_HOUR = 2;

/**
 * Where demand is not served hosts keep their commands outstanding, and applications save up so many seconds of work; what is more than that is
 * never asked again.
 */
export const PATIENCE_S = 1;

/** Utilisation up to which latency follows the queue; above it what is outstanding decides. */
export const FULL = 0.98;
/** Figures that have moved by less than this share go on in one stretch; their sums stay exact. */
export const STEADY = 0.02;
/** The same of latency: its sums are exact, too, and histograms have buckets that are three times as wide. */
export const STEADY_LATENCY = 0.05;
/** A wait that moves by less than a part of this moves no latency. */
export const LEAST_WAIT_S = 20e-6;

/** Length of a telemetry row. */
export const SLOT_S = 5;
export const SLOT = 5000;
export const SLOTS_AN_HOUR = 720;
/** Histograms of latency: bucket 0 ends here, each next one is so much wider. */
export const FIRST_BUCKET_S = 50e-6;
export const GAMMA = 1.15;
export const BUCKETS = 96;

/** Of more volumes at work than this the load is not worked out beside a draft. */
export const MOST_BESIDE_DRAFT = 3000;
