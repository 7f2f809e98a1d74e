import { hoursOfWeek, writesWithin } from '../copies/activity';
import { addedRate, writingOf, type Writing } from '../copies/writing';
import type { Replication, SiteLink, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { Bytes } from '../units/bytes';
import { HOUR, MINUTE, SECOND, type Milliseconds } from '../units/duration';
import type { Parsed } from '../units/parsed';
import type { BytesPerSecond } from '../units/rate';
import { bytesAtRisk, isWritten } from './carry';
import { LOG_HEADER, LOG_OUTAGE, LOG_SAFETY, MIRRORED, MOST_OF_LINE } from './choices';
import { journalFill, journalSize, type LoggedStep } from './journal';
import { lineRate, presentLine, type LineFigures } from './line';
import { sidesOf } from './sides';
import { resync, syncBandwidth, syncWrite, type MirroredWrite } from './sync';

const USUAL_WRITE = 8 * 1024;
const GLASS_S_PER_KM = 5e-6;

/** A write of a volume over a line. What its round trip takes beyond the glass is put down to the devices at its ends. */
function writeOver(line: LineFigures & Pick<SiteLink, 'km'>, volume: Volume): MirroredWrite {
  const link = presentLine(line);
  return {
    ...MIRRORED,
    distanceKm: link.km,
    routeFactor: 1,
    deviceOneWayS: Math.max(0, link.rtt / 1000 / 2 - link.km * GLASS_S_PER_KM),
    linkBitsPerS: link.bitsPerS,
    ioBytes: volume.activity?.ioBytes ?? USUAL_WRITE,
    mode: 'parallel',
  };
}

/** What a mirror over a line adds to each write: the worst of its volumes, milliseconds. */
export function addedBy(
  link: LineFigures & Pick<SiteLink, 'km'>,
  volumes: readonly Volume[],
): { ms: number; volume: Volume; write: MirroredWrite } {
  const all = volumes.map((volume) => {
    const write = writeOver(link, volume);
    return { volume, write, ms: syncWrite(write).addedS * 1000 };
  });
  return all.reduce((worst, one) => (one.ms > worst.ms ? one : worst));
}

/** Bytes and writes a second that hosts bring to a volume about a moment: what they rewrite, and what comes new. */
export function writingAt(
  view: EstateView,
  volume: Volume,
  at: Milliseconds,
): { bytesPerS: number; writesPerS: number } {
  if (!isWritten(view, volume)) return { bytesPerS: 0, writesPerS: 0 };
  const { activity } = volume;
  const writesPerS = activity ? writesWithin(activity, at, at + MINUTE) / (MINUTE / SECOND) : 0;
  return { bytesPerS: writesPerS * (activity?.ioBytes ?? 0) + addedRate(view, volume), writesPerS };
}

const sum = (values: readonly number[]): number => values.reduce((all, one) => all + one, 0);

/** Bytes a second that mirrors, but for one, send over a line about a moment: what hosts write comes first, before all that is copied. */
export const mirroredRate = (
  view: EstateView,
  link: SiteLink,
  at: Milliseconds,
  without: string | null = null,
): BytesPerSecond =>
  sum(
    view
      .table('replication')
      .by('link', link.id)
      .filter(
        (row) => row.id !== without && row.mode === 'sync' && (row.state === 'protected' || row.state === 'copying'),
      )
      .map((row) => sentBeside(view, row, at)),
  );

/** Bytes a second of one mirror. */
const sentBeside = (view: EstateView, row: Replication, at: Milliseconds): BytesPerSecond =>
  sum(sidesOf(view, row).source.map((volume) => writingAt(view, volume, at).bytesPerS)) * row.wireRatio;

/** By the hour of the week, from Monday 00:00 UTC: bytes and writes a second that hosts bring to some volumes. */
const weekOf = ({ volumes, added }: Writing): LoggedStep[] =>
  Array.from({ length: 168 }, (_, hour): LoggedStep => {
    const writes = volumes.map(({ activity }) => (activity ? activity.writes * hoursOfWeek(activity.week)[hour]! : 0));
    return {
      fromS: (hour * HOUR) / SECOND,
      writesPerS: sum(writes),
      bytesPerS: added + sum(writes.map((one, k) => one * (volumes[k]!.activity?.ioBytes ?? 0))),
    };
  });

/** The busiest second that hosts of some volumes bring in a week, bytes, and its hour: what they rewrite comes in bursts. */
export function peakOf(writing: Writing): { bytesPerS: BytesPerSecond; hour: number } {
  const burst = Math.max(1, ...writing.volumes.map(({ activity }) => activity?.burst ?? 1));
  const peaks = weekOf(writing).map(({ bytesPerS }) => writing.added + (bytesPerS - writing.added) * burst);
  const most = Math.max(...peaks);
  return { bytesPerS: most, hour: peaks.indexOf(most) };
}

/** What mirrored volumes need of their line in the busiest second of the week. */
export function mirrorNeed(writing: Writing, wireRatio: number): { bytesPerS: BytesPerSecond; hour: number } {
  const peak = peakOf(writing);
  const need = syncBandwidth({
    peakWriteBytesPerS: peak.bytesPerS * wireRatio,
    framingOverhead: MIRRORED.framingOverhead,
    maxUtilisation: MOST_OF_LINE,
    links: 1,
    linksLost: 0,
  });
  return { bytesPerS: need.ok ? need.value.totalBitsPerS / 8 : Infinity, hour: peak.hour };
}

/** The least size of a log that bridges an outage of these volumes, and catches up over a line. */
export const logMinimum = (
  writing: Writing,
  link: SiteLink,
): Parsed<{ drainPeakBytes: number; outageBytes: number; minimumBytes: number }> =>
  journalSize({
    profile: weekOf(writing),
    drainBytesPerS: lineRate(link).bytesPerS,
    headerBytes: LOG_HEADER,
    outageS: LOG_OUTAGE / SECOND,
    safety: LOG_SAFETY,
    horizonS: (168 * HOUR) / SECOND,
  });

const loggedWithin = (volumes: readonly Volume[], from: Milliseconds, to: Milliseconds): Bytes =>
  sum(
    volumes.map(({ activity }) =>
      activity && to > from ? writesWithin(activity, from, to) * (activity.ioBytes + LOG_HEADER) : 0,
    ),
  );

/** A log as it stands: how full, and when it will be. */
export interface LogState {
  size: Bytes;
  used: Bytes;
  /** Too full: only which extents changed is known now. */
  over: boolean;
  /** Until it is full at the present rate, milliseconds; null where nothing is written to it. */
  fullIn: Milliseconds | null;
  /** How long an outage it bridges in the busiest hour. */
  bridges: Milliseconds | null;
  minimum: Bytes | null;
}

/** The log of a mirror; null where it has none. It fills while the other side is lost, and drains as that is brought up to date. */
export function logState(view: EstateView, row: Replication, now: Milliseconds): LogState | null {
  const log = row.logs[0] === undefined ? undefined : view.table('volume').get(row.logs[0]);
  if (!log) return null;
  const { source } = sidesOf(view, row);
  const filling = row.state === 'broken' && row.onLoss === 'continue' && row.pit !== null;
  const written = (until: Milliseconds) =>
    loggedWithin(
      source.filter((one) => isWritten(view, one)),
      row.pit!,
      until,
    );
  const logged = filling ? written(now) : 0;
  const { carrying } = row;
  const draining =
    !filling && row.state === 'copying' && carrying && row.pit !== null
      ? written(carrying.pit) * (1 - (carrying.wire === 0 ? 1 : carrying.sent / carrying.wire))
      : 0;
  const all = Math.max(logged, draining);
  const rate = source.map((volume) => writingAt(view, volume, now));
  const { seconds } = journalFill({
    capacityBytes: log.size,
    usedBytes: Math.min(all, log.size),
    writeBytesPerS: sum(rate.map((one) => one.bytesPerS)),
    writesPerS: sum(rate.map((one) => one.writesPerS)),
    headerBytes: LOG_HEADER,
  });
  const writing = writingOf(view, source);
  const busiest = Math.max(...weekOf(writing).map((one) => one.bytesPerS + one.writesPerS * LOG_HEADER));
  const minimum = logMinimum(writing, view.table('siteLink').get(row.link)!);
  return {
    size: log.size,
    used: Math.min(all, log.size),
    over: all > log.size,
    fullIn: filling && seconds !== null ? Math.round(seconds * SECOND) : null,
    bridges: busiest > 0 ? Math.round((log.size / busiest) * SECOND) : null,
    minimum: minimum.ok ? Math.ceil(minimum.value.minimumBytes) : null,
  };
}

/** How long a lost mirror would take to be whole again, were its line up now; null where it never would. */
export function resyncTime(view: EstateView, row: Replication, now: Milliseconds): Milliseconds | null {
  const link = view.table('siteLink').get(row.link)!;
  const hosts = sidesOf(view, row).source.map((volume) => writingAt(view, volume, now).bytesPerS);
  const time = resync({
    dirtyBytes: bytesAtRisk(view, row, now),
    linkBytesPerS: lineRate(link).bytesPerS,
    hostWriteBytesPerS: sum(hosts),
    wireRatio: row.wireRatio,
    ...(row.cap === null ? {} : { throttleBytesPerS: row.cap }),
  });
  return time.ok ? Math.round(time.value.seconds * SECOND) : null;
}
