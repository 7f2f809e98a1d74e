'use client';
import type { HostSheet as Sheet } from '@/core/trace/host-view';
import { formatDuration } from '@/core/units/duration';
import { StatePost } from '../look/post';
import { labTime } from '../shell/clock-context';
import { PathTimeline } from './path-timeline';
import { outageBefore } from './timeline';
import { heading } from './words';

/** What happened to paths, newest first, with how long the host took to go on by another. */
export function Events({ sheet }: { sheet: Sheet }) {
  return (
    <>
      <h2 className={heading}>Path events</h2>
      {sheet.events.length === 0 && <p className="px-4 py-1 text-ink2">Nothing has happened to its paths yet.</p>}
      <PathTimeline events={sheet.events} />
      <ol aria-label="Path events" className="pb-3">
        {sheet.events.map((event, k) => (
          <li
            key={`${event.at} ${event.from} ${event.to} ${k}`}
            className="flex items-baseline gap-2 border-b border-rule-faint px-4 py-0.5"
          >
            <span className="translate-y-[2px]">
              <StatePost post={event.after === 'down' || event.after === 'unavailable' ? 'broken' : 'stands'} />
            </span>
            <span className="mono text-[11px] whitespace-nowrap">{labTime(event.at, true)}</span>
            <span className="whitespace-nowrap">
              {event.from} to {event.array} {event.to}
            </span>
            <span>
              {event.before} → <b className="font-[640]">{event.after}</b>
              <span className="text-ink2">
                {' '}
                {event.reason}
                {outageBefore(sheet.events, k) === null
                  ? ''
                  : `, after ${formatDuration(outageBefore(sheet.events, k)!)} down`}
              </span>
              {event.after === 'down' && <span className="text-ink2">{noticedText(event.noticedAfter)}</span>}
            </span>
          </li>
        ))}
      </ol>
    </>
  );
}

/** When a host noticed that a path was gone. */
function noticedText(after: number | null): string {
  if (after === null) return '; never noticed';
  if (after === 0) return '; noticed at once';
  return `; the host went on after ${after < 1000 ? `${after} ms` : formatDuration(after)}`;
}
