import type { SiteLink } from '../estate/entities';
import { DAY, HOUR, type Milliseconds } from '../units/duration';
import type { BytesPerSecond } from '../units/rate';
import { DAY_FROM, DAY_TO, EFFICIENCY, LOSSY, SESSIONS, SLOW_SPEED, SLOW_TRIP, WINDOW } from './choices';
import { goodput } from './shares';

export type LineFigures = Pick<SiteLink, 'bitsPerS' | 'rtt' | 'loss'> & Partial<Pick<SiteLink, 'slow' | 'lossy'>>;

/** A line as it is now, with what ails it. */
export const presentLine = <L extends LineFigures>(line: L): L => ({
  ...line,
  bitsPerS: line.bitsPerS * (line.slow ? SLOW_SPEED : 1),
  rtt: line.rtt * (line.slow ? SLOW_TRIP : 1),
  loss: Math.min(0.5, line.loss + (line.lossy ? LOSSY : 0)),
});

/** Bytes a second that a line between sites brings through, and what holds it back. */
export function lineRate(line: LineFigures) {
  const { bitsPerS, rtt, loss } = presentLine(line);
  return goodput({
    linkBitsPerS: bitsPerS,
    efficiency: EFFICIENCY,
    rttS: rtt / 1000,
    sessions: SESSIONS,
    windowBytes: WINDOW,
    lossFraction: loss,
  });
}

const hourOfDay = (at: Milliseconds): number => Math.floor((((at % DAY) + DAY) % DAY) / HOUR);
export const isDay = (at: Milliseconds): boolean => hourOfDay(at) >= DAY_FROM && hourOfDay(at) < DAY_TO;

/** What replication may take of a line at a moment. */
export const lineRateAt = (line: SiteLink, at: Milliseconds): BytesPerSecond =>
  Math.min(lineRate(line).bytesPerS, (isDay(at) ? line.dayCap : line.nightCap) ?? Infinity);

/** The next moment at which day turns to night or night to day, later than `now`. */
export function nextTurnOfDay(now: Milliseconds): Milliseconds {
  const midnight = Math.floor(now / DAY) * DAY;
  return [DAY_FROM, DAY_TO, 24 + DAY_FROM].map((hour) => midnight + hour * HOUR).find((at) => at > now)!;
}
