'use client';
import { createContext, useContext } from 'react';
import type { ClockState } from './live';

export const ClockContext = createContext<ClockState | null>(null);

/** The lab's clock as last heard; null before the first word of it. */
export const useClock = (): ClockState | null => useContext(ClockContext);

/** `Mon 14 Apr 06:42:10`, in the lab's time (UTC). */
export function labTime(now: number, seconds = true): string {
  const date = new Date(now);
  const day = date
    .toLocaleDateString('en-GB', { weekday: 'short', day: '2-digit', month: 'short', timeZone: 'UTC' })
    .replace(',', '');
  return `${day} ${date.toISOString().slice(11, seconds ? 19 : 16)}`;
}
