import { notParsed, parsed, type Parsed } from '../units/parsed';

/** Seconds until a log is full; null where nothing is written (protect.md I). */
export function journalFill({
  capacityBytes,
  usedBytes,
  writeBytesPerS,
  writesPerS,
  headerBytes,
}: {
  capacityBytes: number;
  usedBytes: number;
  writeBytesPerS: number;
  writesPerS: number;
  headerBytes: number;
}): { seconds: number | null } {
  const rate = writeBytesPerS + writesPerS * headerBytes;
  return { seconds: rate > 0 ? Math.max(0, capacityBytes - usedBytes) / rate : null };
}

/** What hosts write from a moment on; the profile comes again each horizon. */
export interface LoggedStep {
  fromS: number;
  bytesPerS: number;
  writesPerS: number;
}

/** Stretches of one period in which as much is logged each second. */
interface Stretch {
  fromS: number;
  toS: number;
  rate: number;
}

function stretchesOf(profile: readonly LoggedStep[], headerBytes: number, horizonS: number): Stretch[] {
  const steps = [...profile].sort((a, b) => a.fromS - b.fromS);
  return steps
    .map(({ fromS, bytesPerS, writesPerS }, k): Stretch => ({
      fromS: Math.max(0, fromS),
      toS: Math.min(horizonS, steps[k + 1]?.fromS ?? horizonS),
      rate: bytesPerS + writesPerS * headerBytes,
    }))
    .filter((one) => one.toS > one.fromS);
}

/** What is logged from moment 0 to any later one, period after period. */
function loggedUpTo(stretches: readonly Stretch[], horizonS: number): (s: number) => number {
  const within = (s: number) =>
    stretches.reduce((sum, one) => sum + one.rate * Math.max(0, Math.min(one.toS, s) - one.fromS), 0);
  const period = within(horizonS);
  return (s) => {
    const periods = Math.floor(s / horizonS);
    return periods * period + within(s - periods * horizonS);
  };
}

/**
 * The least size of a log (protect.md I): what gathers while more comes than drains, in three periods from empty, and the most that is logged in
 * any stretch as long as an outage. Reasons: journal-drain-below-average.
 */
export function journalSize({
  profile,
  drainBytesPerS,
  headerBytes,
  outageS,
  safety,
  horizonS,
}: {
  profile: readonly LoggedStep[];
  drainBytesPerS: number;
  headerBytes: number;
  outageS: number;
  safety: number;
  horizonS: number;
}): Parsed<{ drainPeakBytes: number; outageBytes: number; minimumBytes: number }> {
  const stretches = stretchesOf(profile, headerBytes, horizonS);
  const logged = loggedUpTo(stretches, horizonS);
  const mean = logged(horizonS) / horizonS;
  if (mean > drainBytesPerS)
    return notParsed(
      'journal-drain-below-average',
      `On average ${(mean / 1e6).toFixed(1)} MB/s come in and ${(drainBytesPerS / 1e6).toFixed(1)} MB/s go out; no size is enough.`,
    );
  let [backlog, drainPeakBytes] = [0, 0];
  for (let period = 0; period < 3; period++)
    for (const { fromS, toS, rate } of stretches) {
      backlog = Math.max(0, backlog + (rate - drainBytesPerS) * (toS - fromS));
      drainPeakBytes = Math.max(drainPeakBytes, backlog);
    }
  // The most is logged in a stretch that begins or ends where the rate changes.
  const edges = stretches.flatMap(({ fromS }) => [fromS, (((fromS - outageS) % horizonS) + horizonS) % horizonS]);
  const outageBytes = Math.max(0, ...edges.map((from) => logged(from + outageS) - logged(from)));
  return parsed({ drainPeakBytes, outageBytes, minimumBytes: safety * Math.max(drainPeakBytes, outageBytes) });
}
