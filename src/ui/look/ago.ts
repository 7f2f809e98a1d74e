import { formatDuration } from '@/core/units/duration';

/** `3 min 20 s ago`, by the clock of the reader's machine. */
export const ago = (at: number): string => `${formatDuration(Date.now() - at)} ago`;
