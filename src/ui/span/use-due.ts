'use client';
import { useQuery } from '@tanstack/react-query';
import type { ChangeSummary } from '@/core/change/record';
import { startOf, waitsForSecond } from '@/core/change/terms';
import type { SpanWork } from '@/core/span/sight';
import type { Milliseconds } from '@/core/units/duration';
import { api } from '../api/client';

/** What is due next: what is at work, and changes that wait, which open by their id. */
export type Due = SpanWork & { change: string | null };

/** Of a change that waits, what is next and when; null for one that waits for nothing. */
function dueOf({ id, title, state, run }: ChangeSummary, now: Milliseconds): Due | null {
  const due = (says: string, finishesAt: number | null): Due => ({ name: title, says, finishesAt, change: id });
  if (!run) return null;
  if (state === 'paused')
    return run.pause?.why === 'person' ? due('answered', null) : due('goes on', run.pause?.until ?? now);
  if (state !== 'approved') return null;
  if (waitsForSecond(run)) return due('approved by a second', null);
  const start = startOf(run, run.first, Math.max(now, run.startAt ?? now));
  return start.ok ? due('begins', start.value) : null;
}

/** What is due next, persons first, then by time. */
export function useDue(work: readonly SpanWork[], now: Milliseconds | null): Due[] {
  const changes = useQuery({ queryKey: ['changes', 'open'], queryFn: api.openChanges });
  const waiting = now === null ? [] : (changes.data?.items ?? []).flatMap((change) => dueOf(change, now) ?? []);
  return [...waiting, ...work.map((one) => ({ ...one, change: null }))].sort(
    (a, b) => (a.finishesAt ?? 0) - (b.finishesAt ?? 0),
  );
}
