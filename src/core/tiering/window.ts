import type { Pool } from '../estate/entities';
import { DAY, HOUR, type Milliseconds } from '../units/duration';

/** When moves by heat may begin, and when they must end; an end of null is never. */
export interface HeatWindow {
  from: Milliseconds;
  to: Milliseconds | null;
}

/** The window that is open at a moment, else the next one. Without hours of its own a pool is placed whenever somebody asks. */
export function windowAt({ heatFrom, heatUntil }: Pool, at: Milliseconds): HeatWindow {
  if (heatFrom === null || heatUntil === null) return { from: at, to: null };
  const hours = (heatUntil - heatFrom + 24) % 24 || 24;
  const midnight = Math.floor(at / DAY) * DAY;
  for (let day = -1; ; day++) {
    const from = midnight + day * DAY + heatFrom * HOUR;
    const to = from + hours * HOUR;
    if (at < to) return { from: Math.max(from, at), to };
  }
}

const hourText = (hour: number): string => `${String(hour).padStart(2, '0')}:00`;

export const windowWords = ({ heatFrom, heatUntil }: Pick<Pool, 'heatFrom' | 'heatUntil'>): string =>
  heatFrom === null || heatUntil === null
    ? 'when somebody asks'
    : heatFrom === heatUntil
      ? 'all day, every day'
      : `every day from ${hourText(heatFrom)} to ${hourText(heatUntil)}`;
