import { beginsAt } from '@/core/change/begins';
import type { Milliseconds } from '@/core/units/duration';
import type { Plant } from './plant';
import { Problem } from './problem';

/**
 * When something begins that is asked for on a day or with a rhythm, by the clock of a zone; null for as soon as it may.
 * @throws Problem where there is no such time or zone.
 */
export function askedBegin({ lab }: Plant, begins: string, zone: string): Milliseconds | null {
  const found = beginsAt(begins, zone, lab.now);
  if (found.ok) return found.value;
  const mend =
    found.reason === 'schedule-zone-unknown'
      ? 'Write one such as Europe/Oslo.'
      : 'Write a day that is to come, or a rhythm such as SU 02:00.';
  throw new Problem(422, found.reason, found.message, mend);
}
