import type { Host } from '../estate/entities';
import type { Milliseconds } from '../units/duration';

/** What a host does after it lost a controller over NVMe/TCP (NVM Express, TCP transport): times after the loss. */
export interface ReconnectCourse {
  /** Until it notices: silence for as long as the keep-alive time-out; null where it sends no keep-alive and never does. */
  noticed: Milliseconds | null;
  /** The first try, and how many there are before it gives up; infinite where it never does. */
  firstTry: Milliseconds | null;
  tries: number;
  /** When the controller and its path are removed; null for never. */
  removed: Milliseconds | null;
}

export type ReconnectSettings = Pick<Host, 'keepAlive' | 'reconnectDelay' | 'lossTime'>;

/**
 * Noticed after the keep-alive time-out, tried again every reconnect delay until the controller loss time has passed since it was noticed, then
 * removed. A loss time of 0 gives nothing up; one below the delay removes the controller before it was tried once.
 */
export function reconnectCourse({ keepAlive, reconnectDelay, lossTime }: ReconnectSettings): ReconnectCourse {
  if (keepAlive === 0) return { noticed: null, firstTry: null, tries: 0, removed: null };
  const forever = lossTime === 0;
  const tries = forever || reconnectDelay === 0 ? Infinity : Math.floor(lossTime / reconnectDelay);
  return {
    noticed: keepAlive,
    firstTry: tries > 0 ? keepAlive + reconnectDelay : null,
    tries,
    removed: forever ? null : keepAlive + lossTime,
  };
}

/** When a controller that answers again after `back` is in use again: at the first try from then on; null where it was removed before. */
export function reconnectedAt(settings: ReconnectSettings, back: Milliseconds): Milliseconds | null {
  const { noticed, removed, tries } = reconnectCourse(settings);
  if (noticed === null) return null;
  // What comes back before the silence is noticed was never lost.
  if (back <= noticed) return back;
  const step = settings.reconnectDelay;
  const at = step === 0 ? back : noticed + Math.ceil((back - noticed) / step) * step;
  return tries === 0 || (removed !== null && at > removed) ? null : at;
}

const seconds = (time: Milliseconds): string => `${Number((time / 1000).toFixed(1))} s`;

/** The same in a sentence. */
export function reconnectWords(settings: ReconnectSettings): string {
  const { noticed, tries, removed } = reconnectCourse(settings);
  if (noticed === null) return 'A dead path is never noticed: no keep-alive is sent.';
  if (tries === 0) return `Noticed after ${seconds(noticed)}, given up before it is tried again.`;
  return `Noticed after ${seconds(noticed)}, tried again every ${seconds(settings.reconnectDelay)}, ${removed === null ? 'never given up' : `given up after ${seconds(removed)}`}.`;
}

/** TCP connections of one controller: one for administration, and one for each I/O queue, of which it takes no more than it offers (NVM Express). */
export const connectionsOf = (asked: number, offered: number): number => 1 + Math.max(1, Math.min(asked, offered));
