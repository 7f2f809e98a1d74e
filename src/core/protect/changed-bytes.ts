import { bisected } from '../units/bisect';
import { notParsed, parsed, type ParseFailure, type Parsed } from '../units/parsed';

export const writeKinds = ['random', 'sequential', 'linear'] as const;

/** A stream of writes: scattered over a working set, one pass after another over it, or ever new bytes. */
export interface WriteClass {
  kind: (typeof writeKinds)[number];
  bytesPerS: number;
  ioBytes: number;
  alignBytes: number;
  extentBytes: number;
  workingSetBytes: number;
}

const unknownKind = (kind: string): ParseFailure => notParsed('writes-kind', `Unknown kind of writes: ${kind}.`);

function whyNot({ kind, workingSetBytes, extentBytes }: WriteClass): ParseFailure | null {
  if (!writeKinds.includes(kind)) return unknownKind(kind);
  return kind === 'random' && workingSetBytes < extentBytes
    ? notParsed('writes-working-set-below-extent', 'The working set is smaller than one extent; use a smaller extent.')
    : null;
}

/** Extents that one write touches on average: k = 1 + (io − align)/extent. */
const touchedBy = ({ ioBytes, alignBytes, extentBytes }: WriteClass): number =>
  1 + (ioBytes - alignBytes) / extentBytes;

function bytesOf(one: WriteClass, intervalS: number): number {
  const written = one.bytesPerS * intervalS;
  if (one.kind === 'linear') return written;
  if (one.kind === 'sequential') return Math.min(written, one.workingSetBytes);
  const extents = one.workingSetBytes / one.extentBytes;
  return one.workingSetBytes * -Math.expm1((-(written / one.ioBytes) * touchedBy(one)) / extents);
}

/** Why no figure can be worked out of some streams of writes; null where one can. */
export const firstFailure = (classes: readonly WriteClass[]): ParseFailure | null => {
  for (const one of classes) {
    const failure = whyNot(one);
    if (failure) return failure;
  }
  return null;
};

/** Expected bytes of distinct extents that sound streams touch in a stretch of time. */
export const changedBytes = (classes: readonly WriteClass[], intervalS: number): number =>
  classes.reduce((sum, one) => sum + bytesOf(one, intervalS), 0);

/**
 * Expected bytes of distinct extents that are touched in a stretch of time; disjoint classes add (protect.md H1).
 * Reasons: writes-kind, writes-working-set-below-extent.
 */
export function uniqueChanged({
  classes,
  intervalS,
}: {
  classes: readonly WriteClass[];
  intervalS: number;
}): Parsed<{ bytes: number }> {
  return firstFailure(classes) ?? parsed({ bytes: changedBytes(classes, intervalS) });
}

/** The same of writes of which the share `hotShare` goes to the part `hotFraction` of the working set. */
export function hotCold({
  hotFraction,
  hotShare,
  intervalS,
  ...all
}: Omit<WriteClass, 'kind'> & { hotFraction: number; hotShare: number; intervalS: number }): Parsed<{
  hotBytes: number;
  coldBytes: number;
  bytes: number;
}> {
  const part = (share: number, of: number): WriteClass => ({
    ...all,
    kind: 'random',
    bytesPerS: all.bytesPerS * share,
    workingSetBytes: all.workingSetBytes * of,
  });
  const hot = part(hotShare, hotFraction);
  const cold = part(1 - hotShare, 1 - hotFraction);
  const failure = firstFailure([hot, cold].filter((one) => one.bytesPerS > 0 || one.workingSetBytes > 0));
  if (failure) return failure;
  const hotBytes = hot.workingSetBytes > 0 ? bytesOf(hot, intervalS) : 0;
  const coldBytes = cold.workingSetBytes > 0 ? bytesOf(cold, intervalS) : 0;
  return parsed({ hotBytes, coldBytes, bytes: hotBytes + coldBytes });
}

/**
 * How long until so many bytes are touched: the inverse of `uniqueChanged`, by bisection. Reasons: those of it, and dirty-never where the
 * classes never reach as much.
 */
export function timeToDirty({
  classes,
  bytes,
}: {
  classes: readonly WriteClass[];
  bytes: number;
}): Parsed<{ seconds: number }> {
  const failure = firstFailure(classes);
  if (failure) return failure;
  if (bytes <= 0) return parsed({ seconds: 0 });
  const writing = classes.filter((one) => one.bytesPerS > 0);
  const most = writing.reduce((sum, one) => sum + (one.kind === 'linear' ? Infinity : one.workingSetBytes), 0);
  const asymptote = writing.some((one) => one.kind === 'random');
  if (bytes > most || (bytes === most && asymptote))
    return notParsed('dirty-never', `At most ${most} bytes can change; ${bytes} are never reached.`);
  const touched = (seconds: number) => changedBytes(writing, seconds) - bytes;
  let high = 1;
  while (touched(high) < 0) high *= 2;
  return parsed({ seconds: bisected(touched, 0, high) });
}
