import { changedBytes, firstFailure, type WriteClass } from '../protect/changed-bytes';
import { notParsed, parsed, type Parsed } from '../units/parsed';

/** Over the line; from data that is there already, compared by checksums; or on media that are carried over. */
export const firstCopyMethods = ['network', 'seeded', 'shipped'] as const;
export type FirstCopyMethod = (typeof firstCopyMethods)[number];

/** What a first copy starts from. Bytes, seconds and bytes a second. */
export interface FirstCopyWish {
  method: FirstCopyMethod;
  allocatedBytes: number;
  bandwidthBytesPerS: number;
  wireRatio: number;
  classes: readonly WriteClass[];
  intervalS: number;
  fixedS: number;
  /** Seeded: how fast both sides are read, what differs, and what a checksum of an extent takes. */
  scanBytesPerS?: number;
  diffFraction?: number;
  extentBytes?: number;
  checksumBytes?: number;
  /** Shipped: out to media, on the road, and in from them. */
  exportBytesPerS?: number;
  transitS?: number;
  importBytesPerS?: number;
}

export interface FirstCopy {
  firstS: number;
  /** What changed meanwhile is sent in rounds, until one takes no longer than the interval. */
  rounds: { bytes: number; seconds: number }[];
  /** Null where the rounds do not come down to the interval. */
  totalS: number | null;
  wireBytes: number;
  reachesInterval: boolean;
}

const MOST_ROUNDS = 50;
/** A round that takes at least this much of the one before leads nowhere. */
const LEADS_NOWHERE = 0.99;

/** The first step of each method: how long, and what goes over the line. */
function firstStep(wish: FirstCopyWish): { seconds: number; wire: number } | null {
  const { allocatedBytes: bytes, bandwidthBytesPerS: bandwidth, wireRatio } = wish;
  if (wish.method === 'network') return { seconds: (bytes * wireRatio) / bandwidth, wire: bytes * wireRatio };
  if (wish.method === 'seeded') {
    const { scanBytesPerS = 0, diffFraction = 0, extentBytes = 1, checksumBytes = 0 } = wish;
    const wire = (bytes / extentBytes) * checksumBytes + bytes * diffFraction * wireRatio;
    return { seconds: Math.max(bytes / scanBytesPerS, wire / bandwidth), wire };
  }
  if (wish.method !== 'shipped') return null;
  const { exportBytesPerS = 0, transitS = 0, importBytesPerS = 0 } = wish;
  return { seconds: bytes / exportBytesPerS + transitS + bytes / importBytesPerS, wire: 0 };
}

/** How a first copy goes, with the rounds that catch up (protect.md H5). Reasons: initial-method, those of `uniqueChanged`. */
export function initialCopy(wish: FirstCopyWish): Parsed<FirstCopy> {
  const { classes, bandwidthBytesPerS, wireRatio, intervalS, fixedS } = wish;
  const first = firstStep(wish);
  if (!first) return notParsed('initial-method', 'Choose network, seeded or shipped.');
  const failure = firstFailure(classes);
  if (failure) return failure;
  const rounds: FirstCopy['rounds'] = [];
  let before = first.seconds;
  let reachesInterval = false;
  while (rounds.length < MOST_ROUNDS) {
    const bytes = changedBytes(classes, before);
    const seconds = fixedS + (bytes * wireRatio) / bandwidthBytesPerS;
    rounds.push({ bytes, seconds });
    reachesInterval = seconds <= intervalS;
    if (reachesInterval || (rounds.length > 1 && seconds >= LEADS_NOWHERE * before)) break;
    before = seconds;
  }
  return parsed({
    firstS: first.seconds,
    rounds,
    totalS: reachesInterval ? rounds.reduce((sum, one) => sum + one.seconds, first.seconds) : null,
    wireBytes: rounds.reduce((sum, one) => sum + one.bytes * wireRatio, first.wire),
    reachesInterval,
  });
}

/**
 * What both sides keep free (protect.md H5): the source what changes from the cut of its base until the next cycle is done, an outage in between;
 * the target what each image it keeps holds apart, and the one that is coming. Reasons: those of `uniqueChanged`.
 */
export function reserves({
  classes,
  cycleS,
  transferS,
  outageS,
  keptOnTarget,
  safety,
}: {
  classes: readonly WriteClass[];
  cycleS: number;
  transferS: number;
  outageS: number;
  keptOnTarget: number;
  safety: number;
}): Parsed<{ sourceBytes: number; targetBytes: number }> {
  return (
    firstFailure(classes) ??
    parsed({
      sourceBytes: safety * changedBytes(classes, cycleS + transferS + outageS),
      targetBytes: safety * (keptOnTarget + 1) * changedBytes(classes, cycleS),
    })
  );
}
