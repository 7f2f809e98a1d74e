import type { PathEventLine } from '@/core/trace/host-view';

/** How a path stood for a while. Times are the lab's, in milliseconds. */
export interface Span {
  from: number;
  to: number;
  state: string;
}
export interface PathRow {
  path: string;
  spans: Span[];
}
export interface Timeline {
  from: number;
  to: number;
  rows: PathRow[];
}

/** A little of what was before the first event is shown, too. */
const LEAD = 0.06;

/** Each path's states side by side over the time in which something happened; `now` ends it. */
export function timelineOf(events: readonly PathEventLine[], now: number): Timeline | null {
  if (events.length === 0) return null;
  const first = Math.min(...events.map((event) => event.at));
  const to = Math.max(now, ...events.map((event) => event.at));
  const from = first - Math.max(1000, (to - first) * LEAD);
  const paths = new Map<string, PathEventLine[]>();
  for (const event of [...events].sort((a, b) => a.at - b.at)) {
    const path = `${event.from} to ${event.array} ${event.to}`;
    paths.set(path, [...(paths.get(path) ?? []), event]);
  }
  const rows = [...paths]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([path, own]): PathRow => {
      const spans: Span[] = [{ from, to: own[0]!.at, state: own[0]!.before }];
      own.forEach((event, k) => spans.push({ from: event.at, to: own[k + 1]?.at ?? to, state: event.after }));
      return { path, spans: spans.filter((span) => span.to > span.from) };
    });
  return { from, to, rows };
}

/** How long a path was down that this event (of a list, newest first) brings back; null where it brings none back, or the loss is not in the list. */
export function outageBefore(events: readonly PathEventLine[], k: number): number | null {
  const back = events[k]!;
  if (back.before !== 'down') return null;
  const lost = events
    .slice(k + 1)
    .find((one) => one.from === back.from && one.to === back.to && one.array === back.array && one.after === 'down');
  return lost ? back.at - lost.at : null;
}
