import type { PathEvent } from '@/core/attach/path-events';
import type { Db } from './database';

export function writePathEvents(db: Db, events: readonly PathEvent[]): void {
  const insert = db.prepare(
    'INSERT INTO path_event (at, host, array, interface, port, before, after, reason, noticed_after) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)',
  );
  for (const one of events)
    insert.run(
      one.at,
      one.host,
      one.array,
      one.interface,
      one.port,
      one.before,
      one.after,
      one.reason,
      // Silence that nothing measures is never noticed; the column takes no infinity.
      Number.isFinite(one.noticedAfter) ? one.noticedAfter : -1,
    );
}

/** Newest first. */
export const readPathEvents = (db: Db, host: string, limit = 100): PathEvent[] =>
  (
    db
      .prepare(
        'SELECT at, host, array, interface, port, before, after, reason, noticed_after AS noticedAfter FROM path_event WHERE host = ? ORDER BY at DESC, id DESC LIMIT ?',
      )
      .all(host, limit) as PathEvent[]
  ).map((event) => ({ ...event, noticedAfter: event.noticedAfter < 0 ? Infinity : event.noticedAfter }));
