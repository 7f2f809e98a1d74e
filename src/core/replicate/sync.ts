import { notParsed, parsed, type Parsed } from '../units/parsed';

/** Light in glass takes so long for a kilometre, one way, seconds. */
const LIGHT_S_PER_KM = 5e-6;

/** One mirrored write: the way, the line, the handshakes of its protocol, and how long both ends take. */
export interface MirroredWrite {
  distanceKm: number;
  /** How much longer the glass is than the distance. */
  routeFactor: number;
  deviceOneWayS: number;
  linkBitsPerS: number;
  framingOverhead: number;
  ioBytes: number;
  /** What goes with the command; the rest waits for the other end to be ready, burst by burst. */
  unsolicitedBytes: number;
  maxBurstBytes: number;
  localWriteS: number;
  remoteWriteS: number;
  mode: 'parallel' | 'serial';
}

export interface MirroredLatency {
  rttS: number;
  handshakes: number;
  serialS: number;
  remoteS: number;
  totalS: number;
  /** What the mirror adds to the write. */
  addedS: number;
}

const handshakesOf = ({ ioBytes, unsolicitedBytes, maxBurstBytes }: Omit<MirroredWrite, 'distanceKm'>): number =>
  1 + Math.ceil(Math.max(0, ioBytes - unsolicitedBytes) / maxBurstBytes);

const serialOf = ({ ioBytes, framingOverhead, linkBitsPerS }: Omit<MirroredWrite, 'distanceKm'>): number =>
  (ioBytes * 8 * (1 + framingOverhead)) / linkBitsPerS;

/** How long a write takes that is mirrored before it is acknowledged (protect.md I). */
export function syncWrite(write: MirroredWrite): MirroredLatency {
  const { distanceKm, routeFactor, deviceOneWayS, localWriteS, remoteWriteS, mode } = write;
  const rttS = 2 * (distanceKm * routeFactor * LIGHT_S_PER_KM + deviceOneWayS);
  const handshakes = handshakesOf(write);
  const serialS = serialOf(write);
  const remoteS = handshakes * rttS + serialS + remoteWriteS;
  const totalS = mode === 'parallel' ? Math.max(localWriteS, remoteS) : localWriteS + remoteS;
  return { rttS, handshakes, serialS, remoteS, totalS, addedS: totalS - localWriteS };
}

/** How far apart both ends may be for the mirror to add no more than `maxAddedS`. Reasons: sync-latency-budget-too-small. */
export function maxDistance({
  maxAddedS,
  ...write
}: Omit<MirroredWrite, 'distanceKm'> & { maxAddedS: number }): Parsed<{ km: number }> {
  const { routeFactor, deviceOneWayS, localWriteS, remoteWriteS, mode } = write;
  const remoteS = maxAddedS + (mode === 'parallel' ? localWriteS : 0) - serialOf(write) - remoteWriteS;
  const km = (remoteS / handshakesOf(write) / 2 - deviceOneWayS) / (routeFactor * LIGHT_S_PER_KM);
  if (km >= 0) return parsed({ km });
  const { addedS } = syncWrite({ ...write, distanceKm: 0 });
  return notParsed('sync-latency-budget-too-small', `Even at 0 km the mirror adds ${(addedS * 1000).toFixed(2)} ms.`);
}

/** Writes a second of a stream with so many of them under way. */
export const iopsCeiling = ({
  outstanding,
  latencyS,
}: {
  outstanding: number;
  latencyS: number;
}): { iops: number } => ({
  iops: outstanding / latencyS,
});

/** Bytes under way on a full line, and the credits that keep it full. */
export function linkCredits({
  linkBitsPerS,
  rttS,
  frameBytes,
}: {
  linkBitsPerS: number;
  rttS: number;
  frameBytes: number;
}): { inFlightBytes: number; credits: number } {
  const inFlightBytes = (linkBitsPerS / 8) * rttS;
  return { inFlightBytes, credits: Math.ceil(inFlightBytes / frameBytes - 1e-9) };
}

/** The lines that carry the largest 5 s mean of all writes, with some of them lost. Reasons: sync-no-link-left. */
export function syncBandwidth({
  peakWriteBytesPerS,
  framingOverhead,
  maxUtilisation,
  links,
  linksLost,
}: {
  peakWriteBytesPerS: number;
  framingOverhead: number;
  maxUtilisation: number;
  links: number;
  linksLost: number;
}): Parsed<{ totalBitsPerS: number; perLinkBitsPerS: number }> {
  if (links - linksLost < 1) return notParsed('sync-no-link-left', 'No link would be left.');
  const totalBitsPerS = (peakWriteBytesPerS * 8 * (1 + framingOverhead)) / maxUtilisation;
  return parsed({ totalBitsPerS, perLinkBitsPerS: totalBitsPerS / (links - linksLost) });
}

const rateWords = (bytesPerS: number): string => `${(bytesPerS / 1e6).toFixed(1)} MB/s`;

/** How long a mirror takes to be whole again; what hosts write is mirrored first. Reasons: resync-no-bandwidth-left. */
export function resync({
  dirtyBytes,
  linkBytesPerS,
  hostWriteBytesPerS,
  wireRatio,
  throttleBytesPerS = Infinity,
}: {
  dirtyBytes: number;
  linkBytesPerS: number;
  hostWriteBytesPerS: number;
  wireRatio: number;
  throttleBytesPerS?: number;
}): Parsed<{ seconds: number }> {
  const hosts = hostWriteBytesPerS * wireRatio;
  const rate = Math.min(throttleBytesPerS, linkBytesPerS - hosts);
  return rate > 0
    ? parsed({ seconds: (dirtyBytes * wireRatio) / rate })
    : notParsed(
        'resync-no-bandwidth-left',
        `Host writes need ${rateWords(hosts)} of ${rateWords(linkBytesPerS)}; resync would never end: widen the link or throttle hosts.`,
      );
}
