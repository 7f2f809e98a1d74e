'use client';
import { createContext, useContext } from 'react';
import { momentText } from '@/core/units/date';
import type { ClockState } from './live';

export const ClockContext = createContext<ClockState | null>(null);

/** The lab's clock as last heard; null before the first word of it. */
export const useClock = (): ClockState | null => useContext(ClockContext);

/** `Mon 14 Apr 06:42:10`, in the lab's time (UTC). */
export const labTime = (now: number, seconds = true): string => momentText(now, seconds);
